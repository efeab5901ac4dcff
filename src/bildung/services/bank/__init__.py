"""The item bank: writing, finding, tagging, importing and exporting items, and the standards they are for."""
