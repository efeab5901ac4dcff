"""What is changed about a test so that a student can show what they know: the kinds, and what holds when."""
