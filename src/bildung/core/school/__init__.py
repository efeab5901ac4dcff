"""The days, names, groups and rules of a school."""
