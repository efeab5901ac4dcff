"""Why a test has no place: which rule stands against each slot, and how often it is the only one."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from bildung.core.data.arrays import BoolArray
from bildung.core.planning.board import Board
from bildung.core.planning.problem import ApartTest, ClassTest, Problem, Slot
from bildung.core.planning.sessions import PlanSession, Uses

KINDS = ("shut", "length", "student", "a_day", "room", "cart", "proctor")


@dataclass(frozen=True)
class Reason:
    """One rule that stands against a test.

    Attributes
    ----------
    kind : str
        shut, length, student, a_day, room, cart or proctor.
    slots : int
        In how many slots it does.
    only : int
        In how many of them nothing else does.
    of : int
        Slots in all.
    """

    kind: str
    slots: int
    only: int
    of: int


def class_reasons(problem: Problem, sessions: Sequence[PlanSession], test: ClassTest) -> list[Reason]:
    """Of a test of a class, what stands against most blocks first; blocks in which it alone does count twice."""
    board = Board(_one(problem, test))
    uses = Uses(problem, sessions)
    who, size = set(test.students), len(test.students)
    against = {kind: np.zeros(board.size, dtype=bool) for kind in KINDS}
    carts = [cart.name for cart in problem.carts if cart.devices >= size]
    rooms = [room for room in problem.rooms if room.shared and room.seats >= size]
    people = [person for person in problem.proctors if not person.supports]
    home = next((room.seats for room in problem.rooms if room.name == test.own_room), size)
    seated = bool(test.own_room) and home >= size
    for t, slot, cover in _fitting(problem, test, against):
        against["student"][t] = any(
            not who.isdisjoint(uses.students[c]) or any(c in problem.busy.get(s, ()) for s in who) for c in cover
        )
        against["a_day"][t] = any(uses.tests[s, slot.day] >= problem.wishes.a_day for s in who)
        cart_free = any(uses.free_cart(name, cover) for name in carts)
        if board.own[0][t]:
            against["cart"][t] = not (test.on_paper or board.own_devices[0] or cart_free)
            against["proctor"][t] = bool(test.teacher) and any(test.teacher in uses.people[c] for c in cover)
            against["room"][t] = bool(test.own_room) and not uses.free_room(test.own_room, cover)
            continue
        free = [room for room in rooms if uses.free_room(room.name, cover)]
        # a class whose own room lacks nothing but devices needs those, not another room
        at_home = t in test.own and seated and uses.free_room(test.own_room, cover)
        against["room"][t] = not free and not at_home
        against["cart"][t] = not (test.on_paper or cart_free or any(room.devices >= size for room in free))
        against["proctor"][t] = not any(
            all(c not in person.away and person.id not in uses.people[c] for c in cover) for person in people
        )
    return _counted(against)


def apart_reasons(problem: Problem, sessions: Sequence[PlanSession], test: ApartTest) -> list[Reason]:
    """Of a test of a student apart."""
    uses = Uses(problem, sessions)
    size = len(problem.slots)
    against = {kind: np.zeros(size, dtype=bool) for kind in KINDS}
    people = [p for p in problem.proctors if test.held_by(p)]
    for t, slot, cover in _fitting(problem, test, against):
        busy = problem.busy.get(test.student, frozenset())
        against["student"][t] = any(c in busy or test.student in uses.students[c] for c in cover)
        against["a_day"][t] = uses.tests[test.student, slot.day] >= problem.wishes.a_day
        free = [room for room in problem.rooms if room.shared and uses.free_room(room.name, cover)]
        against["room"][t] = not free and any(room.shared for room in problem.rooms)
        against["cart"][t] = not (
            test.on_paper
            or any(room.devices for room in free)
            or any(uses.free_cart(cart.name, cover) for cart in problem.carts)
        )
        against["proctor"][t] = not any(
            all(c not in person.away and person.id not in uses.people[c] for c in cover) for person in people
        )
    return _counted(against)


def _fitting(
    problem: Problem, test: ClassTest | ApartTest, against: dict[str, BoolArray]
) -> Iterator[tuple[int, Slot, tuple[int, ...]]]:
    """Slots from which it fits, with all it would need; what is shut or too short is noted."""
    for t, slot in enumerate(problem.slots):
        against["shut"][t] = t in test.shut
        cover = problem.covered(t, test.minutes)
        against["length"][t] = not cover
        if cover:
            yield t, slot, cover


def _one(problem: Problem, test: ClassTest) -> Problem:
    return replace(problem, classes=(test,), apart=())


def _counted(against: dict[str, BoolArray]) -> list[Reason]:
    """Over the slots that are open to the test; where none is, that is the reason."""
    shut = against["shut"]
    if not shut.all():
        against = {kind: rows[~shut] for kind, rows in against.items() if kind != "shut"}
    many = np.sum(list(against.values()), axis=0)
    found = [
        Reason(kind, int(rows.sum()), int((rows & (many == 1)).sum()), len(rows)) for kind, rows in against.items()
    ]
    return sorted((r for r in found if r.slots), key=lambda r: -(r.slots + r.only))
