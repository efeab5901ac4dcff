"""Growth between two windows, its error and its reference (methods.md, section 6)."""
