"""How far a class is in its pacing guide, beside where the plan says it would be by now."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

BEHIND = 2


@dataclass(frozen=True)
class PlannedLesson:
    """From the first to the last day on which it is planned."""

    start: date
    end: date


@dataclass(frozen=True)
class Pace:
    """Where a class stands against its plan.

    Attributes
    ----------
    expected : int
        Lessons whose last planned day is over.
    taught : int
        Lessons said to be taught.
    ahead : int
        Lessons taught beyond the expected ones, negative where the class is behind.
    skipped : tuple[int, ...]
        Expected, not taught, while a later one was.
    """

    expected: int
    taught: int
    ahead: int
    skipped: tuple[int, ...]


def pace(lessons: Sequence[PlannedLesson], taught: Sequence[bool], today: date) -> Pace:
    """Where a class stands against its plan on a day.

    lessons in order of the plan.

    Parameters
    ----------
    lessons : Sequence[PlannedLesson]
        In order of the plan.
    taught : Sequence[bool]
        Whether each was, same length.
    today : date
        The day.

    Returns
    -------
    Pace
    """
    expected = [lesson.end < today for lesson in lessons]
    last = max((at for at, was in enumerate(taught) if was), default=-1)
    skipped = tuple(at for at, due in enumerate(expected) if due and not taught[at] and at < last)
    return Pace(sum(expected), sum(taught), sum(taught) - sum(expected), skipped)
