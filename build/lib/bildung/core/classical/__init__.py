"""Classical test theory: items, options, reliability, comparison (methods.md, sections 2 to 4)."""
