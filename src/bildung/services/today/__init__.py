"""Today: what a person of staff finds first, from whatever stations they may use."""
