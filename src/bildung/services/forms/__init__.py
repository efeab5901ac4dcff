"""What a form is and how it is taken."""
