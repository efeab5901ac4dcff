"""The page on which staff land."""
