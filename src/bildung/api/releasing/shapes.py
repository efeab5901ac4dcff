"""What the routes of this station take."""

from __future__ import annotations

from datetime import date

from pydantic import BaseModel, Field


class ReleaseResultsIn(BaseModel):
    """sessions: whose results. audiences: student, family. shows: of points, standards, answers, right, solutions, comments. day: from
    its morning on; None: now. despite: right answers go out although others are still to take the test."""

    sessions: list[str] = Field(max_length=2000)
    audiences: list[str] = Field(max_length=2)
    shows: list[str] = Field(max_length=6)
    day: date | None = None
    despite: bool = False


class WithdrawIn(BaseModel):
    sessions: list[str] = Field(max_length=2000)
    audience: str = Field(max_length=10)


class HoldIn(BaseModel):
    """why: None lets the results go as those of the class."""

    why: str | None = Field(default=None, max_length=600)


class SendIn(BaseModel):
    """job: a name under which progress can be looked at."""

    window: str = Field(max_length=20)
    job: str = Field(default="", max_length=40)
