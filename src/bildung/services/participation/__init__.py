"""Participation: which tests are owed in a window, who is exempt, and how far everybody has come."""
