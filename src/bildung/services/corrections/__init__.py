"""Corrections of results: what would move, one decision with a reason, and the way back."""
