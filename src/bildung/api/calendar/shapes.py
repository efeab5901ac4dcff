"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from datetime import date

from pydantic import BaseModel

from bildung.api.shared.shapes import Id, Out
from bildung.services.calendar.pacing import PlanLine


class WindowOut(Out):
    id: Id
    name: str
    start: date
    end: date


class CalendarOut(Out):
    zone: str
    today: date
    start: date
    end: date
    windows: list[WindowOut]


class NewWindow(BaseModel):
    name: str
    start: date
    end: date


class YearIn(BaseModel):
    title: str
    start: date
    end: date
    weekdays: list[bool]


class ClosedIn(BaseModel):
    name: str
    start: date
    end: date
    school_id: str | None = None


class WindowChange(BaseModel):
    name: str
    start: date
    end: date


class PlansOut(Out):
    finding: str
    plans: list[PlanLine]


class TaughtIn(BaseModel):
    """on: the day, or None to take it back."""

    class_id: str
    lesson_id: str
    on: date | None
