"""Which kind of day a date is: by weekday or in a cycle, with single days that are otherwise."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta


@dataclass(frozen=True, kw_only=True)
class Pattern:
    """How kinds of days follow each other.

    Attributes
    ----------
    types : tuple[int, ...]
        Of the weekdays from Monday on, or of the cycle in its order, such as A, B or days 1 to 6.
    cycle : bool
        Whether it is a cycle.
    first : date
        The first day of the cycle.
    shifts : bool
        Whether a day that was closed at short notice leaves its type to the next; else it uses it up.
    """

    types: tuple[int, ...]
    cycle: bool = False
    first: date = date.min
    shifts: bool = True


def day_types(
    pattern: Pattern,
    start: date,
    end: date,
    is_school_day: Callable[[date], bool],
    changes: Mapping[date, int | None],
) -> dict[date, int]:
    """The type of each school day.

    Parameters
    ----------
    pattern : Pattern
        How they follow each other.
    start : date
        The first day asked for.
    end : date
        The last one.
    is_school_day : Callable[[date], bool]
        By the calendar of the year; other days take no type and use none up.
    changes : Mapping[date, int | None]
        Single days of another type; None: no school after all.

    Returns
    -------
    dict[date, int]
        By day, in order; days without school are not in it.
    """
    found: dict[date, int] = {}
    if not pattern.types:
        return found
    day, number = (min(pattern.first, start) if pattern.cycle else start), 0
    while day <= end:
        if is_school_day(day) and (not pattern.cycle or day >= pattern.first):
            usual = _usual(pattern, day, number)
            kind = changes.get(day, usual)
            if kind is not None and day >= start:
                found[day] = kind
            number += not (kind is None and pattern.shifts)
        day += timedelta(days=1)
    return found


def _usual(pattern: Pattern, day: date, number: int) -> int | None:
    if pattern.cycle:
        return pattern.types[number % len(pattern.types)]
    at: Sequence[int] = pattern.types
    return at[day.weekday()] if day.weekday() < len(at) else None
