"""Scores on other scales: norms and levels."""
