"""Making a plan of a window, and taking a way out: the work in the background, the result kept for the school."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, false, select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.planning.chain import MadePlan
from bildung.core.planning.sessions import PlanSession, StudentList
from bildung.core.planning.titles import title
from bildung.services.calendar.years import local_today
from bildung.services.forms.settings import settings
from bildung.services.owed.sametest import test_keys
from bildung.services.participation.windowdates import window_dates
from bildung.services.planning import hold
from bildung.services.planning.document import (
    PlanWishes,
    of_today,
    read_sessions,
    write_sessions,
    write_wishes,
)
from bildung.services.planning.facts import Facts, facts_of
from bildung.services.planning.kept import keep_version
from bildung.services.planning.process import plan_apart
from bildung.services.planning.schools import school_of, window_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.jobs import Job, Stopped
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import Form, Placement, Plan, PlannedSession, SchoolClass, Sitting, Window

SECONDS = 8.0
MOST_TESTS = 60
FIRST = ("Reading", "Mathematics")
"""Subjects that come first where nothing else is said."""


@dataclass(frozen=True, kw_only=True)
class TestChoice:
    """A test that can be planned. chosen: proposed, as it was given in this window or follows the last one. classes: that it
    is for."""

    form: Id
    name: str
    subject: str
    grade: str
    minutes: int
    classes: int
    chosen: bool


@dataclass(frozen=True, kw_only=True)
class Proposal:
    """What a plan begins with: filled in from the last window. wishes: with the tests that are chosen."""

    tests: list[TestChoice]
    wishes: PlanWishes
    says: str


def propose(ctx: Context, db: Session, actor: Actor, school_id: int, window: Window) -> Proposal:
    """Which tests, who, which days: as in the window before, or as far as this one is scheduled."""
    classes = db.scalars(
        select(SchoolClass).where(
            SchoolClass.school_id == school_id, SchoolClass.active.is_(True), SchoolClass.homeroom.is_(False)
        )
    ).all()
    count: dict[tuple[str, str], int] = {}
    for klass in classes:
        count[klass.subject, klass.grade] = count.get((klass.subject, klass.grade), 0) + 1
    forms = [
        form
        for form in db.scalars(
            select(Form)
            .where(Form.published_at.is_not(None), _giveable(actor))
            .order_by(Form.subject, Form.grade, Form.name)
        )
        if (form.subject, form.grade) in count and form.role in ("", "general", "parallel")
    ]
    keys = test_keys(db)
    here = _given(db, school_id, window.id)
    given_here = [f for f in forms if f.id in here]
    chosen = {f.id for f in given_here if f.kind == "benchmark"} or {f.id for f in given_here}
    before = None
    if not chosen:
        before = db.scalar(
            select(Window)
            .join(PlannedSession, PlannedSession.window_id == Window.id)
            .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
            .where(Window.start < window.start, SchoolClass.school_id == school_id)
            .order_by(Window.start.desc())
            .limit(1)
        )
        past = _given(db, school_id, before.id) if before else set()
        given = {keys[id] for id in past}
        used = past | {id for id in db.scalars(select(PlannedSession.form_id).distinct())}
        for subject, grade in count:
            mine = [f for f in forms if (f.subject, f.grade, f.kind) == (subject, grade, "benchmark")]
            fresh = [f for f in mine if f.id not in used and keys[f.id] in given] or [
                f for f in mine if f.id not in used
            ]
            if fresh:
                chosen.add(fresh[0].id)
    first, last = window_dates(db, window, school_id, "")
    today = local_today(ctx, db)
    order = sorted({f.subject for f in forms if f.id in chosen}, key=lambda s: (*FIRST, s).index(s))
    wishes = PlanWishes(
        tests=sorted(chosen),
        first=max(first, today) if today <= last else first,
        last=last,
        order=order,
    )
    return Proposal(
        tests=[
            TestChoice(
                form=f.id,
                name=f.name,
                subject=f.subject,
                grade=f.grade,
                minutes=settings(f).minutes or 50,
                classes=count[f.subject, f.grade],
                chosen=f.id in chosen,
            )
            for f in forms
        ],
        wishes=wishes,
        says=f"Filled in from {before.name}." if before else "",
    )


def _giveable(actor: Actor) -> ColumnElement[bool]:
    """Forms that this person may schedule; who only reads plans chooses among none."""
    return scope(actor, Action.TESTS_GIVE) if actor.may(Action.TESTS_GIVE) else false()


def _given(db: Session, school_id: int, window_id: int) -> set[int]:
    """Forms that classes of the school were given in a window."""
    return set(
        db.scalars(
            select(PlannedSession.form_id)
            .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
            .where(
                PlannedSession.window_id == window_id,
                SchoolClass.school_id == school_id,
                PlannedSession.canceled_at.is_(None),
                PlannedSession.by_name.is_(False),
            )
        )
    )


def plan_of(db: Session, school_id: int, window_id: int) -> Plan | None:
    """The school's plan of the window."""
    return db.scalar(select(Plan).where(Plan.school_id == school_id, Plan.window_id == window_id))


def get_plan(db: Session, actor: Actor, plan_id: int, action: Action) -> Plan:
    """One that this person plans or reads."""
    plan = db.get(Plan, plan_id)
    if plan is None:
        raise NotFound("there is no such plan")
    school_of(db, actor, plan.school_id, action)
    return plan


def check_wishes(wishes: PlanWishes) -> None:
    """Invalid where they cannot be planned at all."""
    if not wishes.tests:
        raise Invalid("choose at least one test", "tests")
    if len(wishes.tests) > MOST_TESTS:
        raise Invalid(f"choose at most {MOST_TESTS} tests", "tests")
    if wishes.last < wishes.first:
        raise Invalid("the last day comes before the first", "last")
    if not 1 <= wishes.a_day <= 4:
        raise Invalid("a student takes 1 to 4 tests a day", "a_day")
    try:
        title(wishes.title, {})
    except Refused as error:
        raise Invalid(str(error), "title") from error


def may_plan(db: Session, actor: Actor, school_id: int, window_id: int) -> None:
    """NotFound or Forbidden where this person does not plan this school, or there is no such window."""
    school_of(db, actor, school_id, Action.WINDOWS_PLAN)
    window_of(db, window_id)


def check_days(db: Session, window: Window, school_id: int, wishes: PlanWishes) -> None:
    """Invalid where the days are not days of the window at this school."""
    first, last = window_dates(db, window, school_id, "")
    if wishes.first < first or wishes.last > last:
        dates = dates_of(db)
        says = f"{window.name} is from {dates.short(first)} to {dates.short(last)}; choose days within it"
        raise Invalid(says, "first")


def make(ctx: Context, actor: Actor, school_id: int, window_id: int, wishes: PlanWishes, job: Job, again: bool) -> int:
    """Plan the window and keep the plan. again: start from the plan there is, or from what is scheduled, and move as little
    as possible; else from nothing but what stands by hand. Stopped, it keeps the best plan so far."""
    check_wishes(wishes)
    with ctx.store.read() as db:
        school_of(db, actor, school_id, Action.WINDOWS_PLAN)
        window = window_of(db, window_id)
        check_days(db, window, school_id, wishes)
        facts = facts_of(ctx, db, school_id, window, wishes)
        kept = plan_of(db, school_id, window_id)
        before = start_from(ctx, db, facts, kept, school_id, window)
    if not facts.problem.classes and not facts.problem.apart:
        raise Conflict(
            "no student owes one of these tests: no class has the subject and grade, or everyone has taken it or is exempt",
            "tests",
        )
    if not again:
        before = [session for session in before if session.held]
    made = plan_apart(facts.problem, SECONDS, before, job)
    if job.ending:
        raise Stopped("the server ends; the plan is made when it is back")
    return _keep(ctx, actor, school_id, window_id, wishes, facts, made)


def _keep(
    ctx: Context, actor: Actor, school_id: int, window_id: int, wishes: PlanWishes, facts: Facts, made: MadePlan
) -> int:
    def work(db: Session) -> int:
        school_of(db, actor, school_id, Action.WINDOWS_PLAN)
        hold.take(db, ctx, actor, school_id)
        plan = plan_of(db, school_id, window_id) or Plan(school_id=school_id, window_id=window_id, revision=0)
        if plan.id is not None and plan.sessions:
            keep_version(db, ctx, actor, plan)  # so that it can be compared and gone back to
        plan.wishes = write_wishes(wishes)
        plan.sessions = write_sessions(facts.problem, made.sessions)
        plan.figures = figures(made)
        plan.steps, plan.step = [], 0
        plan.choose_until = plan.reminded_at = None  # the rest is filled in: nothing is left to choose
        plan.revision += 1
        plan.made_at, plan.made_by_id = ctx.clock(), actor.person_id
        db.add(plan)
        db.flush()
        said = {"sessions": len(made.sessions), "left": len(made.classes_left) + len(made.apart_left)}
        audit.record(db, ctx.clock(), actor.person_id, "plan.make", f"plan:{plan.id}", None, said)
        return plan.id

    return ctx.store.write(work)


def figures(made: MadePlan) -> dict[str, Any]:
    """What the planner says of its work."""
    return {
        "cost": round(made.cost, 2),
        "bound": round(made.bound, 2),
        "rounds": made.rounds,
        "seconds": round(made.seconds, 1),
        "moved": made.moved,
    }


def start_from(
    ctx: Context, db: Session, facts: Facts, plan: Plan | None, school_id: int, window: Window
) -> list[PlanSession]:
    """The plan there is, with today's lists; without one, what is scheduled already."""
    if plan is not None:
        found, _ = read_sessions(facts.problem, plan.sessions)
        return of_today(facts.problem, [s for s in found if facts.problem.slots[s.slot].start > ctx.clock()])
    return of_today(facts.problem, scheduled(ctx, db, facts, school_id, window))


def scheduled(ctx: Context, db: Session, facts: Facts, school_id: int, window: Window) -> list[PlanSession]:
    """Sessions of these tests that are still to come and begin at a block, as a plan has them."""
    slots = {slot.start: t for t, slot in enumerate(facts.problem.slots)}
    keys = test_keys(db)
    mine = {keys[id]: id for id in facts.tests}
    rows = db.scalars(upcoming(ctx, school_id, window.id)).all()
    carts = {cart.name for cart in facts.problem.carts}
    tests = {(t.klass, t.test): t for t in facts.problem.classes}
    placed: dict[int, list[int]] = {}
    for session_id, person in db.execute(
        select(Placement.session_id, Placement.person_id).where(Placement.session_id.in_([r.id for r in rows]))
    ):
        placed.setdefault(session_id, []).append(person)
    found: list[PlanSession] = []
    for row in rows:
        test = mine.get(keys[row.form_id])
        at = slots.get(row.start)
        if test is None or at is None:
            continue
        known = tests.get((row.class_id, test))
        students = tuple(sorted(placed.get(row.id, []))) if row.by_name else known.students if known else ()
        if not students:
            continue
        own = known is not None and not row.by_name and row.room == known.own_room
        found.append(
            PlanSession(
                id=len(found) + 1,
                slot=at,
                minutes=known.minutes if known and not row.by_name else round((row.end - row.start).seconds / 60),
                lists=(StudentList(klass=row.class_id, test=test, students=students, whole=not row.by_name),),
                room=row.room,
                proctor=row.proctor_id or 0,
                own=own,
                on_paper=not carts and not any(room.devices for room in facts.problem.rooms),
            )
        )
    return found


def upcoming(ctx: Context, school_id: int, window_id: int) -> Any:
    """Sessions of a school in a window that nobody has begun and that lie ahead."""
    begun = select(Sitting.session_id).where(Sitting.started_at.is_not(None))
    return (
        select(PlannedSession)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(
            PlannedSession.window_id == window_id,
            SchoolClass.school_id == school_id,
            PlannedSession.closed_at.is_(None),
            PlannedSession.canceled_at.is_(None),
            PlannedSession.start > ctx.clock(),
            PlannedSession.id.not_in(begun),
        )
        .order_by(PlannedSession.start, PlannedSession.id)
    )
