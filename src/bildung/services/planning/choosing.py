"""Teachers choose when their own classes test, where the coordinator wants it; the planner fills in the rest."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.planning.clashes import clashes_of
from bildung.core.planning.problem import ClassTest
from bildung.core.planning.sessions import PlanSession, StudentList
from bildung.services.calendar.years import local_today
from bildung.services.people.teachers import taught_by
from bildung.services.planning import hold
from bildung.services.planning.byhand import placed_session
from bildung.services.planning.called import label
from bildung.services.planning.document import PlanWishes, of_today, read_sessions, write_sessions, write_wishes
from bildung.services.planning.facts import Facts, facts_of
from bildung.services.planning.known import known_facts
from bildung.services.planning.plans import check_days, check_wishes, get_plan, plan_of, start_from
from bildung.services.planning.schools import school_of, window_of
from bildung.services.planning.words import clash_says
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id, Ref
from bildung.store.models import Plan, School, Window

LONGEST_DAYS = 120


@dataclass(frozen=True, kw_only=True)
class Choosing:
    """For the coordinator. until: the last day. chosen, tests: of classes. waiting: teachers with tests that nobody has
    chosen a block for, with how many."""

    until: date
    says: str
    chosen: int
    tests: int
    waiting: list[Ref]
    reminded: bool


@dataclass(frozen=True, kw_only=True)
class ChoiceBlock:
    """A block of the days of a plan. day: as its column is headed."""

    slot: int
    day: str
    name: str
    time: str


@dataclass(frozen=True, kw_only=True)
class ChoiceLine:
    """A test of a class. slot: the block that is chosen, None while none is. against: by block, in the order of the
    choices, why it cannot be chosen; empty where it can."""

    key: str
    name: str
    klass: str
    room: str
    students: int
    minutes: int
    slot: int | None
    against: list[str]


@dataclass(frozen=True, kw_only=True)
class BlockChoices:
    """What a teacher has to choose in one plan."""

    plan: Id
    window: str
    school: str
    until: date
    blocks: list[ChoiceBlock]
    lines: list[ChoiceLine]


@dataclass(frozen=True, kw_only=True)
class BlockChoicesPage:
    """All plans in which this person may choose now."""

    finding: str
    plans: list[BlockChoices]


def open_choosing(ctx: Context, actor: Actor, school_id: int, window_id: int, wishes: PlanWishes, until: date) -> int:
    """From now until the end of a day, teachers choose blocks for their own classes. What is placed already stays; the id
    of the plan."""
    check_wishes(wishes)

    def work(db: Session) -> int:
        school_of(db, actor, school_id, Action.WINDOWS_PLAN)
        hold.take(db, ctx, actor, school_id)
        window, today = window_of(db, window_id), local_today(ctx, db)
        if not today <= until <= wishes.last:
            raise Invalid("choose a day from today to the last day of testing", "until")
        check_days(db, window, school_id, wishes)
        plan = plan_of(db, school_id, window_id)
        facts = facts_of(ctx, db, school_id, window, wishes)
        if not facts.problem.classes:
            raise Conflict("no class owes one of these tests, so there is nothing to choose", "tests")
        sessions = start_from(ctx, db, facts, plan, school_id, window)
        plan = plan or Plan(school_id=school_id, window_id=window_id, revision=0, figures={}, made_at=ctx.clock())
        plan.wishes, plan.sessions = write_wishes(wishes), write_sessions(facts.problem, sessions)
        plan.steps, plan.step = [], 0
        plan.choose_until, plan.reminded_at = until, None
        plan.revision += 1
        db.add(plan)
        db.flush()
        audit.record(db, ctx.clock(), actor.person_id, "plan.choosing", f"plan:{plan.id}", None, until.isoformat())
        return plan.id

    return ctx.store.write(work)


def close_choosing(ctx: Context, actor: Actor, plan_id: int) -> None:
    """From now on only the coordinator places sessions; what was chosen stays."""

    def work(db: Session) -> None:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        plan.choose_until = plan.reminded_at = None
        plan.revision += 1
        audit.record(db, ctx.clock(), actor.person_id, "plan.choosing", f"plan:{plan.id}", None, "ended")

    ctx.store.write(work)


def remind(ctx: Context, actor: Actor, plan_id: int) -> int:
    """Once: who has not chosen finds it among what is urgent. How many they are."""

    def work(db: Session) -> int:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        found = choosing_of(ctx, db, plan)
        if found is None:
            raise Conflict("teachers are not choosing now")
        if found.reminded:
            raise Conflict("those who have not chosen were reminded already")
        plan.reminded_at = ctx.clock()
        said = {"teachers": len(found.waiting)}
        audit.record(db, ctx.clock(), actor.person_id, "plan.remind", f"plan:{plan.id}", None, said)
        return len(found.waiting)

    return ctx.store.write(work)


def choosing_of(ctx: Context, db: Session, plan: Plan) -> Choosing | None:
    """How far choosing is; None where teachers do not choose, or no longer."""
    if plan.choose_until is None or plan.choose_until < local_today(ctx, db):
        return None
    facts = known_facts(ctx, db, plan)
    sessions = _sessions(facts, plan)
    open_ = [test for test in facts.problem.classes if _session_of(sessions, test) is None]
    by_teacher = Counter(test.teacher for test in open_ if test.teacher)
    waiting = [
        Ref(id, f"{facts.people.get(id, '')} ({n})")
        for id, n in sorted(by_teacher.items(), key=lambda one: facts.people.get(one[0], ""))
    ]
    tests = len(facts.problem.classes)
    chosen = tests - len(open_)
    until = dates_of(db).long(plan.choose_until)
    says = f"Teachers choose until {until}: {chosen} of {counted(tests, 'class test')} {'has' if chosen == 1 else 'have'} a block."
    return Choosing(
        until=plan.choose_until,
        says=says,
        chosen=chosen,
        tests=tests,
        waiting=waiting,
        reminded=plan.reminded_at is not None,
    )


def choices_page(ctx: Context, actor: Actor) -> BlockChoicesPage:
    """What this person can choose for their own classes."""
    with ctx.store.read() as db:
        found = [one for plan, facts in _theirs(ctx, db, actor) if (one := _choices(db, actor, plan, facts)).lines]
        dates = dates_of(db)
    if not found:
        return BlockChoicesPage(finding="There is nothing for you to choose now.", plans=[])
    lines = [line for one in found for line in one.lines]
    open_ = sum(line.slot is None for line in lines)
    until = dates.long(min(one.until for one in found))
    text = f"You have chosen blocks for all {counted(len(lines), 'test')}. You can change them until {until}."
    if open_:
        text = f"Choose {'a block' if open_ == 1 else 'blocks'} for {counted(open_, 'test')} by {until}."
    return BlockChoicesPage(finding=text, plans=found)


def open_choices(ctx: Context, db: Session, actor: Actor) -> tuple[int, date | None, bool]:
    """How many tests of this person's classes have no block yet, until when they can choose, and whether they were
    reminded."""
    n, until, reminded = 0, None, False
    for plan, facts in _theirs(ctx, db, actor):
        sessions = _sessions(facts, plan)
        mine = [test for test in _own(db, actor, facts) if _session_of(sessions, test) is None]
        if mine:
            n += len(mine)
            until = plan.choose_until if until is None else min(until, plan.choose_until or until)
            reminded |= plan.reminded_at is not None
    return n, until, reminded


def choose(ctx: Context, actor: Actor, plan_id: int, key: str, slot: int | None) -> None:
    """A block for a test of an own class; None takes it back. Refused with the first thing that speaks against it."""

    def work(db: Session) -> None:
        plan = db.get(Plan, plan_id)
        if plan is None:
            raise NotFound("there is no such plan")
        today = local_today(ctx, db)
        if plan.choose_until is None or plan.choose_until < today:
            raise Conflict("choosing is over; ask your coordinator for another block")
        facts = known_facts(ctx, db, plan)
        test = next((t for t in _own(db, actor, facts) if _key(t) == key), None)
        if test is None:
            raise NotFound("this is not a test of a class of yours")
        sessions = _sessions(facts, plan)
        rest = [s for s in sessions if s is not _session_of(sessions, test)]
        if slot is not None:
            if not 0 <= slot < len(facts.problem.slots):
                raise Invalid("choose a block of the window", "slot")
            made = _made(facts, rest, test, slot)
            if against := _against(facts, rest, test, made):
                raise Conflict(against, "slot")
            rest = [*rest, made]
        plan.sessions = write_sessions(facts.problem, rest)
        plan.revision += 1
        said = {"test": test.name, "block": None if slot is None else facts.problem.slots[slot].start.isoformat()}
        audit.record(db, ctx.clock(), actor.person_id, "plan.choose", f"plan:{plan.id}", None, said)

    ctx.store.write(work)


def _theirs(ctx: Context, db: Session, actor: Actor) -> list[tuple[Plan, Facts]]:
    """Plans in which teachers choose now, of schools at which this person teaches."""
    today = local_today(ctx, db)
    plans = db.scalars(select(Plan).where(Plan.choose_until >= today).order_by(Plan.id)).all()
    if not plans or db.scalar(taught_by(actor.person_id).limit(1)) is None:
        return []
    return [(plan, known_facts(ctx, db, plan)) for plan in plans]


def _own(db: Session, actor: Actor, facts: Facts) -> list[ClassTest]:
    """Tests of classes that this person teaches, or would hold."""
    teaches = set(db.scalars(taught_by(actor.person_id)))
    return [t for t in facts.problem.classes if t.klass in teaches or t.teacher == actor.person_id]


def _choices(db: Session, actor: Actor, plan: Plan, facts: Facts) -> BlockChoices:
    dates, sessions = dates_of(db), _sessions(facts, plan)
    mine = _own(db, actor, facts)
    every = range(len(facts.problem.slots))
    offered = [t for t in every if any(t not in test.shut for test in mine)]
    lines = []
    for test in mine:
        own = _session_of(sessions, test)
        rest = [s for s in sessions if s is not own]
        against = [
            "" if own is not None and own.slot == t else _against(facts, rest, test, _made(facts, rest, test, t))
            for t in offered
        ]
        lines.append(
            ChoiceLine(
                key=_key(test),
                name=test.name,
                klass=facts.classes.get(test.klass, ""),
                room=test.own_room,
                students=len(test.students),
                minutes=test.minutes,
                slot=own.slot if own is not None else None,
                against=against,
            )
        )
    slots, until = facts.problem.slots, plan.choose_until
    assert until is not None
    return BlockChoices(
        plan=plan.id,
        window=db.get_one(Window, plan.window_id).name,
        school=db.get_one(School, plan.school_id).name,
        until=until,
        blocks=[
            ChoiceBlock(
                slot=t,
                day=f"{slots[t].start:%a}, {dates.short(slots[t].start.date())}",
                name=slots[t].block,
                time=dates.time(slots[t].start.time()),
            )
            for t in offered
        ],
        lines=lines,
    )


def _sessions(facts: Facts, plan: Plan) -> list[PlanSession]:
    found, _ = read_sessions(facts.problem, plan.sessions)
    return of_today(facts.problem, found)


def _key(test: ClassTest) -> str:
    return f"{test.klass}-{test.test}"


def _session_of(sessions: Sequence[PlanSession], test: ClassTest) -> PlanSession | None:
    """The session that the class takes this test in."""
    for session in sessions:
        if any(one.whole and (one.klass, one.test) == (test.klass, test.test) for one in session.lists):
            return session
    return None


def _made(facts: Facts, rest: Sequence[PlanSession], test: ClassTest, slot: int) -> PlanSession:
    """As the teacher would have it: the class in its own room, with a cart where one is needed and free."""
    made = PlanSession(
        id=max((s.id for s in rest), default=0) + 1,
        slot=slot,
        minutes=test.minutes,
        lists=(StudentList(klass=test.klass, test=test.test, students=test.students),),
        room=test.own_room,
        on_paper=test.on_paper,
        held=True,
    )
    ready = placed_session(facts.problem, rest, made)
    return ready if ready.proctor else replace(ready, proctor=test.teacher)


def _against(facts: Facts, rest: Sequence[PlanSession], test: ClassTest, made: PlanSession) -> str:
    """The first thing that speaks against it, in a sentence; empty where nothing does."""
    if made.slot in test.shut:
        return "This block is not open for testing."
    if test.own and made.slot not in test.own:
        return "The class does not meet in this block."
    every = [*rest, made]
    labels = {s.id: label(facts, s) for s in every}
    holders = {s.id: facts.people.get(s.proctor, "") for s in every}
    for clash in clashes_of(facts.problem, every, made.id):
        if clash.kind not in ("load",):
            return clash_says(clash, facts, labels, holders, made.id)
    return ""
