"""Scoring: what people give responses that no rule scores."""
