"""A plan as it is kept: wishes and sessions as plain values, slots by their moment so that a changed calendar moves none."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass, field, replace
from datetime import date, datetime
from typing import Any, Literal

from bildung.core.planning.problem import Problem
from bildung.core.planning.sessions import PlanSession, StudentList
from bildung.services.shared.wire import Id

Where = Literal["homerooms", "lessons"]
TITLE = "{window} {subject}"


@dataclass(frozen=True, kw_only=True)
class PlanWishes:
    """What a plan is to be like. tests: ids of forms. where: each class in its homeroom at any block, or in its own lesson.
    extra: supposed resources by kind, cart, room or proctor, that were taken over as a way out. split: classes with tests,
    as "class-form", of which half takes the test in a second room. blocked: starts of blocks in which nobody tests. title:
    rule for names."""

    tests: list[Id]
    first: date
    last: date
    where: Where = "homerooms"
    a_day: int = 1
    order: list[str] = field(default_factory=list)
    mornings: bool = True
    spread: bool = False
    extra: dict[str, int] = field(default_factory=dict)
    split: list[str] = field(default_factory=list)
    blocked: list[datetime] = field(default_factory=list)
    title: str = TITLE


def write_wishes(wishes: PlanWishes) -> dict[str, Any]:
    """As kept."""
    plain = asdict(wishes)
    dates = {"first": wishes.first.isoformat(), "last": wishes.last.isoformat()}
    return plain | dates | {"blocked": [start.isoformat() for start in wishes.blocked]}


def read_wishes(kept: dict[str, Any]) -> PlanWishes:
    """As `write_wishes` wrote them."""
    values = dict(kept)
    values["first"], values["last"] = date.fromisoformat(values["first"]), date.fromisoformat(values["last"])
    values["blocked"] = [datetime.fromisoformat(start) for start in values.get("blocked", ())]
    return PlanWishes(**values)


def write_sessions(problem: Problem, sessions: Iterable[PlanSession]) -> list[dict[str, Any]]:
    """As kept."""
    found = []
    for session in sessions:
        lists = [vars(one) | {"students": list(one.students)} for one in session.lists]
        found.append(vars(session) | {"lists": lists, "slot": problem.slots[session.slot].start.isoformat()})
    return found


def read_sessions(problem: Problem, kept: Sequence[dict[str, Any]]) -> tuple[list[PlanSession], list[PlanSession]]:
    """Those whose block is still there, and those whose block is gone, with slot -1."""
    slots = {slot.start: at for at, slot in enumerate(problem.slots)}
    found: list[PlanSession] = []
    lost: list[PlanSession] = []
    for plain in kept:
        lists = tuple(StudentList(**(one | {"students": tuple(one["students"])})) for one in plain["lists"])
        at = slots.get(datetime.fromisoformat(plain["slot"]), -1)
        session = PlanSession(**(plain | {"lists": lists, "slot": at}))
        (found if at >= 0 else lost).append(session)
    return found, lost


def of_today(problem: Problem, sessions: Iterable[PlanSession]) -> list[PlanSession]:
    """Lists as they are now: who has left a class is off, who came is on, and nobody is listed for a test they do not owe."""
    whole = {(t.klass, t.test): t.students for t in problem.classes}
    apart = {(t.student, t.test) for t in problem.apart}
    by_name = {(s, t.test): t.klass for t in problem.classes for s in t.students}
    found = []
    for session in sessions:
        lists = []
        for one in session.lists:
            if one.whole:
                students = whole.get((one.klass, one.test), ())
            else:
                students = tuple(s for s in one.students if (s, one.test) in apart or (s, one.test) in by_name)
            if students:
                lists.append(one if students == one.students else replace(one, students=students))
        if lists:
            found.append(session if tuple(lists) == session.lists else replace(session, lists=tuple(lists)))
    return _without_named(found)


def _without_named(sessions: Sequence[PlanSession]) -> list[PlanSession]:
    """Who is named in a session is not on the whole list of their class as well."""
    named = {(s, one.test) for session in sessions for one in session.lists if not one.whole for s in one.students}
    found = []
    for session in sessions:
        twice = any(one.whole and not named.isdisjoint((s, one.test) for s in one.students) for one in session.lists)
        if not twice:
            found.append(session)
            continue
        lists = (
            replace(one, students=tuple(s for s in one.students if (s, one.test) not in named)) if one.whole else one
            for one in session.lists
        )
        found.append(replace(session, lists=tuple(one for one in lists if one.students)))
    return [session for session in found if session.lists]
