"""The commands that need no server: one module each, imported only when asked for."""
