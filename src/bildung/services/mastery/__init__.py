"""Mastery: what students' scored points say of each standard, in runs."""
