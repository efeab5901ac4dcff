"""Days of instruction: the school year without weekends and closed days."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from bildung.core.errors import Refused

LONGEST_YEARS = 3


@dataclass(frozen=True)
class Closed:
    """First to last day without lessons, both included."""

    start: date
    end: date


@dataclass(frozen=True)
class Instruction:
    """Days of instruction of a stretch, both ends included.

    Days of instruction from `start` to `end`, both included.

    Attributes
    ----------
    days : int
        How many.
    weeks : float
        Days divided by the days of a full week, so that a week of holidays moves nothing.
    closed : int
        Days that would have been, and were closed.
    """

    days: int
    weeks: float
    closed: int


def instructional_days(start: date, end: date, weekdays: int, closed: Iterable[Closed]) -> list[date]:
    """Every day of instruction of a stretch, in order.

    Every day of instruction, in order.

    Parameters
    ----------
    start : date
        First day.
    end : date
        Last day.
    weekdays : int
        Bit 0 is Monday.
    closed : Iterable[Closed]
        Closed days.

    Returns
    -------
    list[date]

    Raises
    ------
    Refused
        Where the stretch runs backwards or is longer than a school plans for.
    """
    if end < start:
        raise Refused(f"{start} to {end} runs backwards")
    if (end - start).days > 366 * LONGEST_YEARS:
        raise Refused(f"{start} to {end} is longer than {LONGEST_YEARS} years")
    if not 0 < weekdays < 2**7:
        raise Refused("a week has at least one day of instruction")
    shut = {c.start + timedelta(days=at) for c in closed for at in range((c.end - c.start).days + 1)}
    every = (start + timedelta(days=at) for at in range((end - start).days + 1))
    return [day for day in every if weekdays >> day.weekday() & 1 and day not in shut]


def instruction(start: date, end: date, weekdays: int, closed: Sequence[Closed]) -> Instruction:
    """How much instruction lies in a stretch; growth is stated per instructional week."""
    days = len(instructional_days(start, end, weekdays, closed))
    whole = len(instructional_days(start, end, weekdays, ()))
    return Instruction(days, days / weekdays.bit_count(), whole - days)
