"""Building tests: blueprints, forms, companions, corrections, print."""
