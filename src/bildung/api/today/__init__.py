"""Routes of the page on which staff land."""
