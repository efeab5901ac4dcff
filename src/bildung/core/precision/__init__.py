"""How far scores can be relied upon."""
