"""Who is here: the directory, classes, groups, accommodations, families, the log."""
