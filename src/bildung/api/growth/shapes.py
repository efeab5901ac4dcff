"""What the routes of this station take."""

from __future__ import annotations

from pydantic import BaseModel, Field


class MeasureIn(BaseModel):
    """low, high: ends of the scale."""

    name: str = Field(max_length=200)
    subject: str = Field(max_length=80)
    low: float
    high: float
    decimals: int = 0


class MeasureMade(BaseModel):
    id: str


class NormsIn(BaseModel):
    """norms, correlations: CSV texts (docs/commands.md)."""

    name: str = Field(max_length=200)
    version: str = Field(max_length=80)
    source: str = Field(max_length=500)
    population: str = Field(max_length=500)
    norms: str = Field(max_length=5_000_000)
    correlations: str = Field(default="", max_length=5_000_000)
