"""Open formats to and from plain objects: no database, no web, no clock."""
