"""Who has to take which test, and how far each has come."""
