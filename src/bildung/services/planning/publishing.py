"""From a plan to sessions: what would be scheduled, moved or canceled, and doing it, all or nothing."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.planning.clashes import clashes_of
from bildung.core.planning.sessions import PlanSession, StudentList
from bildung.services.owed.sametest import Key, gives_the_same, test_keys
from bildung.services.owed.sessionroster import follow_class
from bildung.services.planning import hold
from bildung.services.planning.called import title_of
from bildung.services.planning.document import of_today, read_sessions, read_wishes
from bildung.services.planning.facts import Facts
from bildung.services.planning.known import known_facts
from bildung.services.planning.plans import get_plan, upcoming
from bildung.services.planning.schools import window_of
from bildung.services.planning.words import unsettled_says
from bildung.services.sessions import changing, placing, scheduling
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.store.models import Placement, Plan, PlannedSession, SchoolClass, Window

WHY = "published from the plan"
DROPPED = "no longer in the plan"


@dataclass(frozen=True)
class _Wanted:
    """One list of one session of the plan, as a session of its own."""

    plan: int
    one: StudentList
    start: datetime
    end: datetime
    room: str
    proctor: int | None
    title: str


@dataclass(frozen=True)
class Difference:
    """Between a plan and what is scheduled. states: by session of the plan, new, moved or published."""

    new: list[_Wanted]
    moved: list[tuple[PlannedSession, _Wanted]]
    gone: list[PlannedSession]
    states: dict[int, str]

    @property
    def count(self) -> int:
        """Sessions it touches."""
        return len(self.new) + len(self.moved) + len(self.gone)

    @property
    def says(self) -> list[str]:
        """In words, a line for each kind."""
        found = []
        for many, what in (
            (len(self.new), "to schedule"),
            (len(self.moved), "to change"),
            (len(self.gone), "to cancel"),
        ):
            if many:
                found.append(f"{many} {'session' if many == 1 else 'sessions'} {what}")
        return found


def difference(
    ctx: Context, db: Session, facts: Facts, plan: Plan, window: Window, sessions: Sequence[PlanSession]
) -> Difference:
    """Sessions are matched by class and test, those by name by their students as well."""
    keys = test_keys(db)
    rows = [
        row for row in db.scalars(upcoming(ctx, plan.school_id, window.id)) if keys[row.form_id] in _keys(keys, facts)
    ]
    named = _named(db, [row.id for row in rows if row.by_name])
    left: dict[tuple[int, Key, frozenset[int]], PlannedSession] = {}
    for row in rows:
        left[row.class_id, keys[row.form_id], named.get(row.id, frozenset())] = row
    new: list[_Wanted] = []
    moved: list[tuple[PlannedSession, _Wanted]] = []
    states: dict[int, str] = {}
    for wanted in _wanted(ctx, facts, plan, window, sessions):
        one = wanted.one
        who = frozenset() if one.whole else frozenset(one.students)
        row_or_none = left.pop((one.klass, keys[one.test], who), None)
        if row_or_none is None:
            new.append(wanted)
            states[wanted.plan] = "new"
        elif _differs(row_or_none, wanted):
            moved.append((row_or_none, wanted))
            states.setdefault(wanted.plan, "moved")
        else:
            states.setdefault(wanted.plan, "published")
    return Difference(new, moved, list(left.values()), states)


def _keys(keys: dict[int, Key], facts: Facts) -> set[Key]:
    return {keys[id] for id in facts.tests}


def _named(db: Session, ids: Iterable[int]) -> dict[int, frozenset[int]]:
    found: dict[int, set[int]] = {id: set() for id in ids}
    for session, person in db.execute(
        select(Placement.session_id, Placement.person_id).where(Placement.session_id.in_(found))
    ):
        found[session].add(person)
    return {id: frozenset(people) for id, people in found.items()}


def _differs(row: PlannedSession, wanted: _Wanted) -> bool:
    return (row.start, row.end, row.room, row.proctor_id, row.title) != (
        wanted.start,
        wanted.end,
        wanted.room,
        wanted.proctor,
        wanted.title,
    )


def _wanted(ctx: Context, facts: Facts, plan: Plan, window: Window, sessions: Sequence[PlanSession]) -> list[_Wanted]:
    wishes = read_wishes(plan.wishes)
    found = []
    for session in sessions:
        slot = facts.problem.slots[session.slot]
        if slot.start <= ctx.clock():
            continue
        start = slot.start.astimezone(UTC)
        for one in session.lists:
            minutes = facts.tests[one.test].minutes if one.whole else session.minutes
            found.append(
                _Wanted(
                    plan=session.id,
                    one=one,
                    start=start,
                    end=start + timedelta(minutes=minutes),
                    room=session.room,
                    proctor=session.proctor if session.proctor > 0 else None,
                    title=title_of(facts, window, wishes, session, one),
                )
            )
    return found


def publish(ctx: Context, actor: Actor, plan_id: int, revision: int) -> int:
    """Make the sessions what the plan says; how many were touched. Refused while something in it cannot run."""

    def work(db: Session) -> tuple[int, list[int]]:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        hold.take(db, ctx, actor, plan.school_id)
        if plan.revision != revision:
            raise Conflict("someone changed this plan in the meantime; the current version is shown", "revision")
        window = window_of(db, plan.window_id)
        facts = known_facts(ctx, db, plan, fresh=True)
        found, lost = read_sessions(facts.problem, plan.sessions)
        sessions = of_today(facts.problem, found)
        _refuse(facts, sessions, len(lost))
        diff = difference(ctx, db, facts, plan, window, sessions)
        touched = _apply(db, ctx, actor, window, diff)
        plan.steps, plan.step = [], 0
        plan.revision += 1
        plan.published_at = ctx.clock()
        said = {"new": len(diff.new), "moved": len(diff.moved), "canceled": len(diff.gone)}
        audit.record(db, ctx.clock(), actor.person_id, "plan.publish", f"plan:{plan.id}", None, said)
        return diff.count, touched

    count, touched = ctx.store.write(work, much=True)
    for id in touched:
        changing.tell_changed(ctx, id)
    return count


def _refuse(facts: Facts, sessions: Sequence[PlanSession], lost: int) -> None:
    if lost:
        raise Conflict(f"{lost} sessions are in blocks that no longer exist; plan again first", "plan")
    settle = unsettled_says(facts)
    if settle:
        raise Conflict(f"{' '.join(says for _, says in settle)} Settle it at the family first", "plan")
    wrong = clashes_of(facts.problem, sessions)
    if wrong:
        ids = {id for clash in wrong for id in clash.sessions[:1]}
        have = "session cannot" if len(ids) == 1 else "sessions cannot"
        raise Conflict(f"{len(ids)} {have} run as planned; fix what is marked on the board first", "plan")
    extra = sorted(
        {s.room for s in sessions if s.room.startswith("Extra")}
        | {s.cart for s in sessions if s.cart.startswith("Extra")}
    )
    if extra or any(s.proctor < 0 for s in sessions):
        name = extra[0] if extra else "an extra proctor"
        raise Conflict(
            f"the plan uses {name}, which is only supposed; add it under Resources or assign another", "plan"
        )


def _apply(db: Session, ctx: Context, actor: Actor, window: Window, diff: Difference) -> list[int]:
    """Cancel, then move, then schedule, so that what is freed can be used."""
    if diff.gone:
        changing.cancel_in(db, ctx, actor, [row.id for row in diff.gone], DROPPED)
    if diff.moved:
        wishes = {
            row.id: changing.SessionChange(
                start=wanted.start, end=wanted.end, room=wanted.room, proctor=wanted.proctor or 0, title=wanted.title
            )
            for row, wanted in diff.moved
        }
        changing.change_in(db, ctx, actor, wishes, WHY, grant_role=True)
    whole = [
        scheduling.SessionWish(
            form_id=wanted.one.test,
            class_id=wanted.one.klass,
            start=wanted.start,
            end=wanted.end,
            room=wanted.room,
            proctor_id=wanted.proctor,
            title=wanted.title,
        )
        for wanted in diff.new
        if wanted.one.whole
    ]
    named = [_by_name(db, ctx, actor, window, wanted) for wanted in diff.new if not wanted.one.whole]
    made = scheduling.schedule_in(db, ctx, actor, window, whole, WHY)
    _follow(db, [*named, *(row for row, _ in diff.moved)], {row.id for row in made})
    return [*(row.id for row, _ in diff.moved), *(row.id for row in made), *(row.id for row in named)]


def _follow(db: Session, sessions: Sequence[PlannedSession], done: set[int]) -> None:
    """Make the lists again of these and of all that give the same tests, each once. done: those that are made already."""
    seen, tests = set(done), set[Key]()
    keys = test_keys(db)
    for session in sessions:
        if keys[session.form_id] not in tests:
            tests.add(keys[session.form_id])
            same = select(PlannedSession).where(gives_the_same(db, session), PlannedSession.closed_at.is_(None))
            for other in (session, *db.scalars(same)):
                if other.id not in seen:
                    seen.add(other.id)
                    follow_class(db, other)


def _by_name(db: Session, ctx: Context, actor: Actor, window: Window, wanted: _Wanted) -> PlannedSession:
    klass = db.get_one(SchoolClass, wanted.one.klass)
    like = PlannedSession(form_id=wanted.one.test, window_id=window.id, title=wanted.title, instructions="", part=None)
    slot = placing.Slot(start=wanted.start, end=wanted.end, room=wanted.room, proctor_id=wanted.proctor)
    session = placing.by_name(db, ctx, actor, like, klass, slot, wanted.one.students, WHY, settled=True)
    placing.put_in(db, ctx, actor, session, wanted.one.students, WHY)
    return session
