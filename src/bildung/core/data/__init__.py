"""Answers as a table, and simulated ones."""
