"""Releasing results: what is open before, who sees what from when, whose are held back."""
