"""Ways out for tests without a place: what one more cart, room or proctor, a second test in a day, or moving others brings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from bildung.core.planning.chain import MadePlan, make_plan
from bildung.core.planning.problem import Cart, Problem, Proctor, Room
from bildung.core.planning.sessions import PlanSession

SECONDS = 0.5
EXTRA = "Extra"  # how a resource is called that is only supposed


@dataclass(frozen=True, kw_only=True)
class WayOut:
    """One step and its effect.

    Attributes
    ----------
    kind : str
        move, cart, room, proctor, a_day, or one of those that were given as problems, such as day and split.
    placed : int
        Tests that get a place, each student's apart counted as one.
    students : int
        Students with a place by it.
    moved : int
        Sessions that stand elsewhere then.
    """

    kind: str
    placed: int
    students: int
    moved: int


def supposing(problem: Problem, kind: str) -> Problem:
    """The same window with the step taken."""
    size = max((len(test.students) for test in problem.classes), default=30)
    if kind == "cart":
        return replace(
            problem, carts=(*problem.carts, Cart(name=f"{EXTRA} cart {_count(problem.carts)}", devices=size))
        )
    if kind == "room":
        room = Room(name=f"{EXTRA} room {_count(problem.rooms)}", seats=size, devices=0)
        return replace(problem, rooms=(*problem.rooms, room))
    if kind == "proctor":
        number = _count(problem.proctors)
        return replace(problem, proctors=(*problem.proctors, Proctor(id=-number, name=f"{EXTRA} proctor {number}")))
    if kind == "a_day":
        return replace(problem, wishes=replace(problem.wishes, a_day=problem.wishes.a_day + 1))
    return problem


def _count(made: Sequence[Cart] | Sequence[Room] | Sequence[Proctor]) -> int:
    return sum(one.name.startswith(EXTRA) for one in made) + 1


def ways_out(
    problem: Problem,
    plan: Sequence[PlanSession],
    left: int,
    seconds: float = SECONDS,
    others: Mapping[str, Problem] | None = None,
) -> list[WayOut]:
    """Steps that give tests a place, the one first that moves least for most.

    Parameters
    ----------
    problem : Problem
        As it is.
    plan : Sequence[PlanSession]
        Of it.
    left : int
        Tests without a place in it.
    seconds : float
        For each step.
    others : Mapping[str, Problem] | None
        Steps that change more than one thing, such as another day, each with the window as it would be then.

    Returns
    -------
    list[WayOut]
        None that brings nothing.
    """
    students = len({(s, one.test) for session in plan for one in session.lists for s in one.students})
    found = []
    supposed = {kind: supposing(problem, kind) for kind in ("move", "cart", "room", "proctor", "a_day")}
    for kind, then in (supposed | dict(others or {})).items():
        made = make_plan(then, seconds, before=plan, proof=False)
        now = len(made.classes_left) + len(made.apart_left)
        if now < left:
            found.append(WayOut(kind=kind, placed=left - now, students=_students(made) - students, moved=made.moved))
    return sorted(found, key=lambda way: (-way.placed, way.moved, way.kind != "move"))


def _students(made: MadePlan) -> int:
    return len({(s, one.test) for session in made.sessions for one in session.lists for s in one.students})
