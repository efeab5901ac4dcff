"""What is known of an item without its answers."""
