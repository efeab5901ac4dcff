"""Makeups: who can take which test when, in the rooms and with the proctors that are free.

Greedy, with the slot first that takes the most students, the earliest of those: few sessions, soon.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

Span = tuple[datetime, datetime]


@dataclass(frozen=True, kw_only=True)
class Need:
    """A test that a student still has to take.

    Attributes
    ----------
    student : int
        Whose.
    test : int
        Which.
    minutes : int
        How long it takes this student.
    """

    student: int
    test: int
    minutes: int


@dataclass(frozen=True, kw_only=True)
class Slot:
    """A room with a proctor from a moment on.

    Attributes
    ----------
    start : datetime
        From when.
    minutes : int
        Until both are needed elsewhere.
    seats : int
        Students it takes.
    place : int
        Tells it from others at the same time.
    """

    start: datetime
    minutes: int
    seats: int
    place: int


@dataclass(frozen=True)
class Arranged:
    """A slot with the tests taken in it: by need, in the order in which they were given."""

    slot: Slot
    needs: tuple[Need, ...]


def arrange(
    needs: Sequence[Need], slots: Sequence[Slot], busy: Mapping[int, Sequence[Span]]
) -> tuple[list[Arranged], list[Need]]:
    """Which test is taken in which slot, and what finds no place.

    A student takes one test at a time, not while they are busy, and at most one a day, as long as days are left for it.

    Parameters
    ----------
    needs : Sequence[Need]
        The tests.
    slots : Sequence[Slot]
        Rooms with proctors.
    busy : Mapping[int, Sequence[Span]]
        By student, when they are taken up.

    Returns
    -------
    tuple[list[Arranged], list[Need]]
        Slots that are used, in their order; needs that are left.
    """
    left, used = list(needs), dict[int, list[Need]]()
    taken: dict[int, list[Span]] = {need.student: list(busy.get(need.student, ())) for need in needs}
    tested = {(student, span[0].date()) for student, spans in busy.items() for span in spans}
    free = dict(enumerate(slots))
    for one_a_day in (True, False):
        while left and free:
            fits = {
                at: _fitting(slot, left, taken, tested if one_a_day else set[tuple[int, date]]())
                for at, slot in free.items()
            }
            at = max(fits, key=lambda at: (len(fits[at]), -slots[at].start.timestamp(), -slots[at].place))
            if not fits[at]:
                break
            slot = free.pop(at)
            used[at] = fits[at]
            for need in fits[at]:
                left.remove(need)
                taken[need.student].append((slot.start, slot.start + timedelta(minutes=need.minutes)))
                tested.add((need.student, slot.start.date()))
    order = sorted(used, key=lambda at: (slots[at].start, slots[at].place))
    return [Arranged(slots[at], tuple(used[at])) for at in order], left


def _fitting(
    slot: Slot, left: Sequence[Need], taken: Mapping[int, Sequence[Span]], tested: set[tuple[int, date]]
) -> list[Need]:
    """Needs that this slot can take, one for each student."""
    found: list[Need] = []
    inside: set[int] = set()
    for need in left:
        end = slot.start + timedelta(minutes=need.minutes)
        if (
            len(found) < slot.seats
            and need.student not in inside
            and need.minutes <= slot.minutes
            and (need.student, slot.start.date()) not in tested
            and not any(start < end and until > slot.start for start, until in taken[need.student])
        ):
            found.append(need)
            inside.add(need.student)
    return found
