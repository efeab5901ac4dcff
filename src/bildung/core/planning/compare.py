"""Two plans of one window beside each other: what differs, and whom it touches."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bildung.core.planning.sessions import PlanSession

Place = tuple[int, str, int]  # slot, room, proctor


@dataclass(frozen=True, kw_only=True)
class PlaceDifference:
    """A test of a class, or of students of it apart, that stands elsewhere.

    Attributes
    ----------
    klass : int
        Whose list it is on.
    test : int
        Of the form.
    whole : bool
        Whether it is the class's; else students of it who take it apart.
    students : tuple[int, ...]
        Who is touched.
    before : Place | None
        Slot, room and proctor in the first plan; None: no place.
    after : Place | None
        In the second.
    """

    klass: int
    test: int
    whole: bool
    students: tuple[int, ...]
    before: Place | None
    after: Place | None

    @property
    def kind(self) -> str:
        """What differs: gone, new, time, room or proctor, the first of them that does."""
        if self.before is None or self.after is None:
            return "new" if self.before is None else "gone"
        for at, kind in enumerate(("time", "room", "proctor")):
            if self.before[at] != self.after[at]:
                return kind
        return "proctor"

    @property
    def proctors(self) -> set[int]:
        """Whom it touches among the staff: those who gain or lose the session, or hold it at another time."""
        return {place[2] for place in (self.before, self.after) if place is not None and place[2] > 0}


def compare_plans(one: Sequence[PlanSession], other: Sequence[PlanSession]) -> list[PlaceDifference]:
    """What differs between two plans, student by student, told in groups that move together.

    Parameters
    ----------
    one : Sequence[PlanSession]
        The first.
    other : Sequence[PlanSession]
        The second.

    Returns
    -------
    list[PlaceDifference]
        Classes first, then by class and test.
    """
    before, after = _places(one), _places(other)
    groups: dict[tuple[bool, int, int, Place | None, Place | None], list[int]] = {}
    for key in {*before, *after}:
        student, test = key
        was, now = before.get(key), after.get(key)
        if was == now or (was and now and was[0] == now[0]):
            continue
        klass, whole = (now or was or ((0, "", 0), 0, False))[1:]
        groups.setdefault((whole, klass, test, was and was[0], now and now[0]), []).append(student)
    found = [
        PlaceDifference(klass=klass, test=test, whole=whole, students=tuple(sorted(students)), before=was, after=now)
        for (whole, klass, test, was, now), students in groups.items()
    ]
    return sorted(found, key=lambda d: (not d.whole, d.klass, d.test, d.students))


def _places(sessions: Sequence[PlanSession]) -> dict[tuple[int, int], tuple[Place, int, bool]]:
    """By student and test: where, on whose list, and whether with the class."""
    return {
        (student, one.test): ((session.slot, session.room, session.proctor), one.klass, one.whole)
        for session in sessions
        for one in session.lists
        for student in one.students
    }
