"""What the routes of this station take."""

from __future__ import annotations

from datetime import date

from pydantic import BaseModel, Field


class MeasureIn(BaseModel):
    """low, high: ends of the scale, where the score is a number. levels: names of ordered levels, lowest first. falling: less is better.
    part_of: id of the measure that this is a skill of, or empty."""

    name: str = Field(max_length=200)
    subject: str = Field(max_length=80)
    low: float = 1.0
    high: float = 1.0
    decimals: int = 0
    levels: list[str] = Field(default_factory=list, max_length=100)
    falling: bool = False
    part_of: str = ""


class MeasureMade(BaseModel):
    id: str


class DirectionIn(BaseModel):
    """falling: less is better."""

    falling: bool


class NormsIn(BaseModel):
    """norms, correlations: CSV texts (docs/commands.md)."""

    name: str = Field(max_length=200)
    version: str = Field(max_length=80)
    source: str = Field(max_length=500)
    population: str = Field(max_length=500)
    norms: str = Field(max_length=5_000_000)
    correlations: str = Field(default="", max_length=5_000_000)


class CutRowIn(BaseModel):
    grade: str = Field(default="", max_length=20)
    season: str = Field(default="", max_length=80)
    cuts: list[float] = Field(max_length=20)


class CutsIn(BaseModel):
    """based: number of the version that was changed, 0 for none."""

    names: list[str] = Field(max_length=20)
    rows: list[CutRowIn] = Field(max_length=1000)
    goal: int
    source: str = Field(max_length=500)
    based: int = 0


class NameIn(BaseModel):
    """written: as the doubt has it. person: id, or empty for nobody here."""

    written: str = Field(max_length=300)
    person: str = ""


class TypedScoreIn(BaseModel):
    person: str
    window: str = Field(max_length=80)
    score: str = Field(max_length=40)
    se: float | None = None


class GoalIn(BaseModel):
    person: str
    score: float
    kind: str = Field(max_length=20)


class GoalsIn(BaseModel):
    by_day: date
    goals: list[GoalIn] = Field(max_length=5000)


class ReflectionAskIn(BaseModel):
    measure: str
    start: str
    end: str
    due: date
    question: str = Field(default="", max_length=600)


class ReflectionIn(BaseModel):
    """class_id: empty for a school's grade."""

    class_id: str = ""
    school_id: str = ""
    grade: str = Field(default="", max_length=20)
    concludes: str = Field(max_length=10_000)
    plans: str = Field(max_length=10_000)


class FetchIn(BaseModel):
    path: str = Field(max_length=300)


class FetchedText(BaseModel):
    text: str
