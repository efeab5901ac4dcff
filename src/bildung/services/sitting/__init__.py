"""A student taking a test: what is shown, every answer kept, submitting, what they are told."""
