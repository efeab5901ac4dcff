"""What speaks against a plan, at its place: the rules once more, by name and exactly, whoever placed a session."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from bildung.core.planning.problem import Problem
from bildung.core.planning.sessions import PlanSession


@dataclass(frozen=True, kw_only=True)
class Clash:
    """One thing that is wrong.

    Attributes
    ----------
    kind : str
        room, seats, cart, devices, proctor, no_proctor, away, load, student, a_day, length, shut, alone or support.
    sessions : tuple[int, ...]
        Ids of those it concerns; the one that is in the wrong first.
    name : str
        Of the room, cart or person; empty where students are concerned.
    students : tuple[int, ...]
        Of those concerned.
    count : int
        What there is, such as students.
    limit : int
        What is allowed, such as seats.
    """

    kind: str
    sessions: tuple[int, ...]
    name: str = ""
    students: tuple[int, ...] = ()
    count: int = 0
    limit: int = 0


def clashes_of(problem: Problem, sessions: Sequence[PlanSession], only: int | None = None) -> list[Clash]:
    """All clashes, or those of one session.

    Parameters
    ----------
    problem : Problem
        What there is.
    sessions : Sequence[PlanSession]
        The plan.
    only : int | None
        Id of the one session that is looked at.

    Returns
    -------
    list[Clash]
        In no special order.
    """
    found: list[Clash] = []
    covers = {s.id: problem.covered(s.slot, s.minutes) or (s.slot,) for s in sessions}
    looked = [s for s in sessions if only is None or s.id == only]
    for session in looked:
        found += _by_itself(problem, session, covers[session.id])
    for i, one in enumerate(looked):
        others = sessions if only is not None else looked[i + 1 :]
        for other in others:
            if other.id != one.id and not set(covers[one.id]).isdisjoint(covers[other.id]):
                found += _together(problem, one, other)
    found += _in_a_day(problem, sessions, only)
    return found


def _by_itself(problem: Problem, session: PlanSession, cover: tuple[int, ...]) -> list[Clash]:
    id, found = (session.id,), []
    if not problem.covered(session.slot, session.minutes):
        found.append(
            Clash(kind="length", sessions=id, count=session.minutes, limit=problem.slots[session.slot].minutes)
        )
    shut = {(t.klass, t.test): t.shut for t in problem.classes}
    if any(session.slot in shut.get((one.klass, one.test), ()) for one in session.lists):
        found.append(Clash(kind="shut", sessions=id))
    room = next((room for room in problem.rooms if room.name == session.room), None)
    if room is not None:
        if room.seats < session.size:
            found.append(Clash(kind="seats", sessions=id, name=room.name, count=session.size, limit=room.seats))
        if any(t in room.shut for t in cover):
            found.append(Clash(kind="room", sessions=id, name=room.name))
    cart = next((cart.devices for cart in problem.carts if cart.name == session.cart), 0)
    devices = max(room.devices if room else 0, cart)
    if not session.on_paper and (problem.carts or any(r.devices for r in problem.rooms)) and devices < session.size:
        found.append(Clash(kind="devices", sessions=id, name=session.room, count=session.size, limit=devices))
    person = next((p for p in problem.proctors if p.id == session.proctor), None)
    if not session.proctor:
        found.append(Clash(kind="no_proctor", sessions=id))
    elif person is not None and not session.own and any(t in person.away for t in cover):
        found.append(Clash(kind="away", sessions=id, name=person.name))
    if session.support:
        by = {(t.student, t.test): t.by for t in problem.apart if t.by is not None}
        asked = [(s, by.get((s, one.test))) for one in session.lists for s in one.students]
        wrong = tuple(s for s, people in asked if people is not None and session.proctor not in people)
        if wrong or person is None or session.support not in person.supports:
            found.append(Clash(kind="support", sessions=id, name=person.name if person else "", students=wrong))
    away = tuple(s for s in session.students if not problem.busy.get(s, frozenset()).isdisjoint(cover))
    if away:
        found.append(Clash(kind="student", sessions=id, students=away))
    if session.alone and session.size > 1:
        found.append(Clash(kind="alone", sessions=id, count=session.size, limit=1))
    if session.support and len({one.test for one in session.lists}) > 1:
        found.append(Clash(kind="support", sessions=id))
    return found


def _together(problem: Problem, one: PlanSession, other: PlanSession) -> list[Clash]:
    """Of two that are on at the same time."""
    ids, found = (one.id, other.id), []
    if one.room and one.room == other.room:
        found.append(Clash(kind="room", sessions=ids, name=one.room))
    if one.cart and one.cart == other.cart:
        found.append(Clash(kind="cart", sessions=ids, name=one.cart))
    if one.proctor and one.proctor == other.proctor:
        name = next((p.name for p in problem.proctors if p.id == one.proctor), "")
        found.append(Clash(kind="proctor", sessions=ids, name=name))
    both = tuple(sorted(set(one.students) & set(other.students)))
    if both:
        found.append(Clash(kind="student", sessions=ids, students=both))
    return found


def _in_a_day(problem: Problem, sessions: Sequence[PlanSession], only: int | None) -> list[Clash]:
    tests: defaultdict[tuple[int, int], list[int]] = defaultdict(list)
    held: Counter[tuple[int, int]] = Counter()
    of: defaultdict[tuple[int, int], list[int]] = defaultdict(list)
    for session in sessions:
        day = problem.slots[session.slot].day
        for student in session.students:
            tests[student, day].append(session.id)
        if session.proctor and not session.own:
            held[session.proctor, day] += 1
            of[session.proctor, day].append(session.id)
    groups: defaultdict[tuple[int, ...], list[int]] = defaultdict(list)
    for (student, _), ids in tests.items():
        if len(ids) > problem.wishes.a_day and (only is None or only in ids):
            groups[tuple(ids)].append(student)
    limit = problem.wishes.a_day
    found = [
        Clash(kind="a_day", sessions=ids, students=tuple(students), count=len(ids), limit=limit)
        for ids, students in groups.items()
    ]
    names = {p.id: p.name for p in problem.proctors}
    for (person, day), count in held.items():
        mine = tuple(of[person, day])
        if count > problem.wishes.most_a_day and (only is None or only in mine):
            found.append(
                Clash(
                    kind="load", sessions=mine, name=names.get(person, ""), count=count, limit=problem.wishes.most_a_day
                )
            )
    return found
