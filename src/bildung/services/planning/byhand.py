"""Hand moves on the board: each is one step that can be undone, checked by the planner's own rules at its place."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from sqlalchemy.orm import Session

from bildung.core.planning.problem import Problem
from bildung.core.planning.sessions import PlanSession, StudentList, Uses, equip
from bildung.services.planning import hold
from bildung.services.planning.called import label
from bildung.services.planning.document import (
    read_wishes,
    write_sessions,
    write_wishes,
)
from bildung.services.planning.facts import Facts
from bildung.services.planning.known import is_known, known_facts, known_sessions
from bildung.services.planning.plans import get_plan
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Plan

MOST_STEPS = 100
Kind = Literal["move", "proctor", "swap", "split", "merge", "students", "hold", "release", "remove", "place"]


@dataclass(frozen=True, kw_only=True)
class HandMove:
    """What is to be done. session: of the plan. slot, room: where to. other: the session to swap or merge with, or that
    students move to. proctor: 0 for nobody. students: who splits off or moves. key: of a test without a place."""

    kind: Kind
    session: int = 0
    slot: int | None = None
    room: str | None = None
    other: int | None = None
    proctor: Id = 0
    students: list[Id] = field(default_factory=list)
    key: str = ""


NEW = 0  # number of a session until it has one of its own
Work = Callable[[Facts, list[PlanSession]], tuple[list[PlanSession], str]]


def move(ctx: Context, actor: Actor, plan_id: int, revision: int, wish: HandMove) -> None:
    """One step by hand. What it breaks is said on the board; nothing is refused but what has no meaning."""

    def do(facts: Facts, sessions: list[PlanSession]) -> tuple[list[PlanSession], str]:
        return _MOVES[wish.kind](facts, sessions, wish)

    _step(ctx, actor, plan_id, revision, do)


def _step(ctx: Context, actor: Actor, plan_id: int, revision: int, do: Work) -> None:
    if not is_known(ctx, plan_id):
        with ctx.store.read() as db:  # what takes time is read before the others wait
            known_facts(ctx, db, get_plan(db, actor, plan_id, Action.WINDOWS_PLAN))

    def work(db: Session) -> None:
        plan = _changeable(db, ctx, actor, plan_id, revision)
        facts = known_facts(ctx, db, plan)
        before, lost = known_sessions(ctx, plan, facts)
        after, says = do(facts, list(before))
        following = max((plain["id"] for plain in plan.sessions), default=0) + 1
        after = [replace(s, id=following) if s.id == NEW else s for s in after]
        was, now = ({s.id: s for s in some} for some in (before, after))
        changed = {id for id in {*was, *now} if was.get(id) != now.get(id)}
        if not changed:
            return
        moved = write_sessions(facts.problem, [now[id] for id in changed if id in now])
        step = {
            "says": says,
            "before": write_sessions(facts.problem, [was[id] for id in changed if id in was]),
            "after": moved,
        }
        plan.steps = [*plan.steps[: plan.step], step][-MOST_STEPS:]
        plan.step = len(plan.steps)
        stay = ({s.id for s in lost} | set(was)) - changed
        plan.sessions = [*(plain for plain in plan.sessions if plain["id"] in stay), *moved]
        plan.revision += 1

    ctx.store.write(work)


def _changeable(db: Session, ctx: Context, actor: Actor, plan_id: int, revision: int) -> Plan:
    plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
    hold.take(db, ctx, actor, plan.school_id)
    if plan.revision != revision:
        raise Conflict("someone changed this plan in the meantime; the current version is shown", "revision")
    return plan


def undo(ctx: Context, actor: Actor, plan_id: int, revision: int, redo: bool = False) -> None:
    """Take the last step back, or make the one again that was taken back."""

    def work(db: Session) -> None:
        plan = _changeable(db, ctx, actor, plan_id, revision)
        at = plan.step if redo else plan.step - 1
        if not 0 <= at < len(plan.steps):
            raise Conflict("there is nothing to redo" if redo else "there is nothing to undo")
        step = plan.steps[at]
        old, new = (step["before"], step["after"]) if redo else (step["after"], step["before"])
        out = {plain["id"] for plain in old} | {plain["id"] for plain in new}
        plan.sessions = [plain for plain in plan.sessions if plain["id"] not in out] + list(new)
        plan.step += 1 if redo else -1
        plan.revision += 1

    ctx.store.write(work)


def block(ctx: Context, actor: Actor, plan_id: int, revision: int, slot: int, on: bool) -> None:
    """Nobody tests in a block from now on, or they may again. What stands there stays, marked, until it is moved."""

    def work(db: Session) -> None:
        plan = _changeable(db, ctx, actor, plan_id, revision)
        facts = known_facts(ctx, db, plan)
        start = facts.problem.slots[_check_slot(facts.problem, slot)].start
        wishes = read_wishes(plan.wishes)
        blocked = [other for other in wishes.blocked if other != start]
        plan.wishes = write_wishes(replace(wishes, blocked=sorted([*blocked, start]) if on else blocked))
        plan.revision += 1

    ctx.store.write(work)


def _get(sessions: Sequence[PlanSession], id: int | None) -> PlanSession:
    found = next((s for s in sessions if s.id == id), None)
    if found is None:
        raise NotFound("this session is no longer in the plan")
    return found


def _put(sessions: list[PlanSession], *changed: PlanSession) -> list[PlanSession]:
    ids = {s.id for s in changed}
    return [*(s for s in sessions if s.id not in ids), *(s for s in changed if s.lists)]


def placed_session(problem: Problem, sessions: Sequence[PlanSession], session: PlanSession) -> PlanSession:
    """With its own teacher where it is in its own room, and a cart where one is needed and free."""
    one = session.lists[0]
    test = next((t for t in problem.classes if (t.klass, t.test) == (one.klass, one.test)), None)
    whole = len(session.lists) == 1 and one.whole and test is not None
    own = whole and test is not None and session.room == test.own_room and session.slot in test.own
    proctor = session.proctor
    if own and test is not None and test.teacher:
        proctor = test.teacher
    elif session.own and not own:
        proctor = 0
    here = replace(session, own=own, proctor=proctor, cart="")
    first = problem.slots[session.slot].day
    others = (s for s in sessions if s.id != session.id and problem.slots[s.slot].day == first)
    uses = Uses(problem, others)
    devices = next((room.devices for room in problem.rooms if room.name == here.room), 0)
    return equip(problem, uses, here, devices) or here


def _check_slot(problem: Problem, slot: int | None) -> int:
    if slot is None or not 0 <= slot < len(problem.slots):
        raise Invalid("choose a block of the window", "slot")
    return slot


def _move(facts: Facts, sessions: list[PlanSession], wish: HandMove) -> tuple[list[PlanSession], str]:
    session = _get(sessions, wish.session)
    slot = session.slot if wish.slot is None else _check_slot(facts.problem, wish.slot)
    room = session.room if wish.room is None else wish.room.strip()
    moved = placed_session(facts.problem, sessions, replace(session, slot=slot, room=room, held=True))
    at = facts.problem.slots[slot]
    return _put(sessions, moved), f"move {label(facts, session)} to {at.start:%a} block {at.block}"


def _proctor(facts: Facts, sessions: list[PlanSession], wish: HandMove) -> tuple[list[PlanSession], str]:
    session = _get(sessions, wish.session)
    if wish.proctor and wish.proctor not in facts.people:
        raise Invalid("choose a member of staff of the school", "proctor")
    return _put(sessions, replace(session, proctor=wish.proctor, held=True)), f"proctor of {label(facts, session)}"


def _swap(facts: Facts, sessions: list[PlanSession], wish: HandMove) -> tuple[list[PlanSession], str]:
    one, other = _get(sessions, wish.session), _get(sessions, wish.other)
    rest = [s for s in sessions if s.id not in (one.id, other.id)]
    first = placed_session(facts.problem, rest, replace(one, slot=other.slot, room=other.room, held=True))
    second = placed_session(facts.problem, [*rest, first], replace(other, slot=one.slot, room=one.room, held=True))
    return _put(sessions, first, second), f"swap {label(facts, one)} and {label(facts, other)}"


def _split(facts: Facts, sessions: list[PlanSession], wish: HandMove) -> tuple[list[PlanSession], str]:
    session = _get(sessions, wish.session)
    slot = session.slot if wish.slot is None else _check_slot(facts.problem, wish.slot)
    kept, out = _parted(session, set(wish.students))
    if not kept.lists:
        raise Invalid("leave at least one student in the session", "students")
    made = replace(
        kept,
        id=NEW,
        lists=out,
        slot=slot,
        room=wish.room or "",
        proctor=0,
        own=False,
        held=True,
    )
    made = placed_session(facts.problem, [*sessions, kept], made)
    return _put(sessions, kept, made), f"split {label(facts, session)}"


def _parted(session: PlanSession, out: set[int]) -> tuple[PlanSession, tuple[StudentList, ...]]:
    """Without these students, and their lists."""
    if not out or not out <= set(session.students):
        raise Invalid("choose students of this session", "students")
    kept, gone = [], []
    for one in session.lists:
        stay = tuple(s for s in one.students if s not in out)
        leave = tuple(s for s in one.students if s in out)
        if stay:
            kept.append(replace(one, students=stay))
        if leave:
            gone.append(replace(one, students=leave, whole=False))
    return replace(session, lists=tuple(kept), held=True), tuple(gone)


def _joined(lists: Sequence[StudentList]) -> tuple[StudentList, ...]:
    """Lists of the same class and test as one."""
    found: dict[tuple[int, int, bool], StudentList] = {}
    for one in lists:
        key = (one.klass, one.test, one.whole)
        had = found.get(key)
        found[key] = replace(one, students=(*had.students, *one.students)) if had else one
    return tuple(found.values())


def _merge(facts: Facts, sessions: list[PlanSession], wish: HandMove) -> tuple[list[PlanSession], str]:
    one, into = _get(sessions, wish.session), _get(sessions, wish.other)
    if one.id == into.id:
        raise Invalid("choose another session to merge with", "other")
    both = replace(
        into,
        lists=_joined([*into.lists, *one.lists]),
        minutes=max(one.minutes, into.minutes),
        own=False,
        alone=False,
        held=True,
    )
    rest = [s for s in sessions if s.id != one.id]
    both = replace(placed_session(facts.problem, rest, both), proctor=into.proctor)
    return _put(rest, both), f"merge {label(facts, one)} into {label(facts, into)}"


def _students(facts: Facts, sessions: list[PlanSession], wish: HandMove) -> tuple[list[PlanSession], str]:
    session, target = _get(sessions, wish.session), _get(sessions, wish.other)
    kept, out = _parted(session, set(wish.students))
    joined = replace(target, lists=_joined([*target.lists, *out]), held=True)
    count = len(wish.students)
    says = f"{count} {'student' if count == 1 else 'students'} to {label(facts, target)}"
    return _put(sessions, kept, joined), f"move {says}"


def _hold(facts: Facts, sessions: list[PlanSession], wish: HandMove) -> tuple[list[PlanSession], str]:
    session = _get(sessions, wish.session)
    held = wish.kind == "hold"
    return _put(sessions, replace(session, held=held)), f"{'keep' if held else 'let go'} {label(facts, session)}"


def _remove(facts: Facts, sessions: list[PlanSession], wish: HandMove) -> tuple[list[PlanSession], str]:
    session = _get(sessions, wish.session)
    return [s for s in sessions if s.id != session.id], f"take {label(facts, session)} off the board"


def _place(facts: Facts, sessions: list[PlanSession], wish: HandMove) -> tuple[list[PlanSession], str]:
    """A class's test without a place, put by hand."""
    slot = _check_slot(facts.problem, wish.slot)
    test = next((t for t in facts.problem.classes if f"{t.klass}-{t.test}" == wish.key), None)
    if test is None:
        raise NotFound("this test has a place already, or is no longer owed")
    placed = {(s, one.test) for session in sessions for one in session.lists for s in one.students}
    students = tuple(s for s in test.students if (s, test.test) not in placed)
    made = PlanSession(
        id=NEW,
        slot=slot,
        minutes=test.minutes,
        lists=(
            StudentList(klass=test.klass, test=test.test, students=students, whole=len(students) == len(test.students)),
        ),
        room=wish.room or test.own_room,
        on_paper=test.on_paper,
        held=True,
    )
    return _put(sessions, placed_session(facts.problem, sessions, made)), f"place {test.name}"


_MOVES: dict[str, Callable[[Facts, list[PlanSession], HandMove], tuple[list[PlanSession], str]]] = {
    "move": _move,
    "proctor": _proctor,
    "swap": _swap,
    "split": _split,
    "merge": _merge,
    "students": _students,
    "hold": _hold,
    "release": _hold,
    "remove": _remove,
    "place": _place,
}
