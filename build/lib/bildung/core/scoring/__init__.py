"""Rules from an answer to points."""
