"""Every figure by name, and how it was calculated."""
