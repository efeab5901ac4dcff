"""What staff land on, and what they find from anywhere."""
