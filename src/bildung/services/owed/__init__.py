"""Who takes what: the roster of each session, and the form that each student receives."""
