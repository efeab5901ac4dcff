"""Groups, forms, times and versions held against each other."""
