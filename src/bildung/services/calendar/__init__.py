"""The school year, its windows, and what is taught when."""
