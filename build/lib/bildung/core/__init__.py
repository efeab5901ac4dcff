"""The computation: NumPy and SciPy only; no web, database, files or clock."""
