"""Agreement of scorers."""
