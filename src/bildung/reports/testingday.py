"""A testing day on paper: the schedule for the office, a roster for each room, a confidential sheet of support."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

HERE = Path(__file__).parent
Sheet = Literal["schedule", "rosters", "support", "week", "record"]


@dataclass(frozen=True, kw_only=True)
class PrintedStudent:
    """seat: in the room, from 1. support: on the confidential sheet only."""

    seat: int
    name: str
    grade: str
    support: str


@dataclass(frozen=True, kw_only=True)
class PrintedEvent:
    """An irregularity, or how often and how long somebody was out of the room or off the page. by: who noted it."""

    time: str
    who: str
    what: str
    by: str


@dataclass(frozen=True, kw_only=True)
class PrintedSession:
    """One session. substitute: the code that opens it to one, empty where it is not printed. helpers: who reads, writes or interprets for whom. counts, events: of
    one that is over, for its record."""

    time: str
    title: str
    klass: str
    room: str
    proctor: str
    code: str
    substitute: str
    students: list[PrintedStudent]
    helpers: list[str]
    counts: str = ""
    events: list[PrintedEvent] = field(default_factory=list)


@dataclass(frozen=True, kw_only=True)
class PrintedWeekLine:
    """A session in somebody's week. does: what they do there."""

    day: str
    time: str
    title: str
    klass: str
    room: str
    does: str
    students: int


@dataclass(frozen=True, kw_only=True)
class PrintedWeek:
    """One person's page."""

    name: str
    lines: list[PrintedWeekLine]


@dataclass(frozen=True, kw_only=True)
class TestingDayPrint:
    """What is printed. sheet: which of the five. day: or the week. people: their weeks, for the week plan."""

    sheet: Sheet
    school: str
    day: str
    sessions: list[PrintedSession]
    made: str
    people: list[PrintedWeek] = field(default_factory=list)


def testing_day_document(content: TestingDayPrint) -> bytes:
    """PDF, US Letter."""
    from jinja2 import Environment, FileSystemLoader, StrictUndefined
    from weasyprint import HTML

    environment = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined)
    html = environment.get_template("testingday.html").render(p=content)
    document: bytes = HTML(string=html, base_url=str(HERE) + "/").write_pdf()
    return document
