"""Mastery of standards: runs of evidence, states, direction, groups (methods.md, section 7)."""
