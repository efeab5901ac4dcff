"""Rosters coming in from files and from the records system, what in them cannot be right, and the next year."""
