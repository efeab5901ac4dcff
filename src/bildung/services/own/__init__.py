"""A student's own page, and a family's."""
