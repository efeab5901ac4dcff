"""Sessions: scheduling them, watching them, running and closing them."""
