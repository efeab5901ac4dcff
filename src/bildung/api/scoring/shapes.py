"""What the routes of this station take."""

from __future__ import annotations

from datetime import date

from pydantic import BaseModel, Field


class ScoreIn(BaseModel):
    """criteria: points by criterion of the rubric. code: a condition code instead. final: it settles what others gave. second: a second
    opinion is wanted. truth: it settles the response as pre-scored."""

    window: str = Field(max_length=20)
    criteria: list[float] = Field(default=[], max_length=40)
    code: str = Field(default="", max_length=20)
    comment: str = Field(default="", max_length=2000)
    final: bool = False
    second: bool = False
    truth: bool = False


class GroupScoreIn(BaseModel):
    """As `ScoreIn`, for all of a group. says: what the group has in common (`ResponseGroup.says`)."""

    window: str = Field(max_length=20)
    criteria: list[float] = Field(default=[], max_length=40)
    code: str = Field(default="", max_length=20)
    says: str = Field(max_length=200_000)


class WindowIn(BaseModel):
    window: str = Field(max_length=20)


class EarlierIn(WindowIn):
    """newest: number of the rubric that was seen."""

    newest: int


class ScoringTaskIn(BaseModel):
    """classes: whose responses they are given; empty for all."""

    scorer: str = Field(max_length=20)
    due: date | None = None
    classes: list[str] = Field(default_factory=list, max_length=500)


class ScoringPlanIn(BaseModel):
    """share: of the responses that are scored twice, 0 to 1. apart: points that two scores may be apart; None: any."""

    window: str = Field(max_length=20)
    tasks: list[ScoringTaskIn] = Field(max_length=100)
    share: float = 0.0
    apart: float | None = None


class PhraseIn(BaseModel):
    text: str = Field(max_length=1000)


class AlertClosedIn(BaseModel):
    outcome: str = Field(max_length=1000)


class AlertPersonsIn(BaseModel):
    persons: list[str] = Field(max_length=100)


class AlertSent(BaseModel):
    """to: who has received it."""

    to: list[str]


class TypedIn(BaseModel):
    """answers: by question what was typed. again: the second typing, where it is done twice. submit: the attempt counts from now on."""

    answers: dict[str, str] = Field(max_length=500)
    again: dict[str, str] | None = Field(default=None, max_length=500)
    submit: bool = False
