"""Accommodations: which hold for a test on a day, and what they come to."""
