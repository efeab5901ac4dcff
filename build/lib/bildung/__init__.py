"""Bildung: plan, give, mark and judge a school's tests, and follow whether students grow."""
