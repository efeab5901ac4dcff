"""The data folder: SQLite through SQLAlchemy, one writer, many readers."""
