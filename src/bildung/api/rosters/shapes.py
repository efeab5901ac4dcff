"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from datetime import date

from pydantic import BaseModel

from bildung.api.shared.shapes import Out
from bildung.services.rosters.check import Discrepancy
from bildung.services.rosters.decisions import DecisionLine


class RosterCheckOut(Out):
    finding: str
    discrepancies: list[Discrepancy]
    counts: dict[str, int]
    decisions: list[DecisionLine]


class SettleIn(BaseModel):
    """report_id: a reported error, settled by itself. session_id: a planned session. other_id: the second of two people."""

    step: str
    person_id: str | None = None
    class_id: str | None = None
    report_id: str | None = None
    session_id: str | None = None
    other_id: str | None = None


class RolloverIn(BaseModel):
    title: str
    start: date
    end: date
    stay: list[str] = []


class LookIn(BaseModel):
    bulk: bool = False


class TakeIn(BaseModel):
    take: bool
