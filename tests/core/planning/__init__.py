"""Planning: the chain, its figures, and a checker of its own that reads only what a plan exports."""
