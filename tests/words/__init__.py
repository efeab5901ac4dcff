"""The language on screens, prints and in errors."""
