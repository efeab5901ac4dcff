"""Earlier plans of a window: kept, compared with the one at hand, and gone back to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.planning.compare import PlaceDifference, compare_plans
from bildung.core.school.dates import Dates
from bildung.services.calendar.years import zone_of
from bildung.services.planning import hold
from bildung.services.planning.document import of_today, read_sessions, write_sessions
from bildung.services.planning.facts import Facts
from bildung.services.planning.kept import MOST, keep_version, versions_of
from bildung.services.planning.known import known_facts
from bildung.services.planning.plans import get_plan
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import Plan, PlanVersion

KINDS = {
    "time": "at another time",
    "room": "in another room",
    "proctor": "with another proctor",
    "gone": "without a place now",
    "new": "with a place now",
}


@dataclass(frozen=True, kw_only=True)
class KeptPlan:
    """An earlier plan. says: how it compares with the one at hand."""

    id: Id
    name: str
    kept_at: datetime
    says: str


@dataclass(frozen=True, kw_only=True)
class PlanDifferenceLine:
    """before, after: day, block, room and proctor in words; empty for no place."""

    name: str
    students: int
    before: str
    after: str


@dataclass(frozen=True, kw_only=True)
class PlanComparison:
    """An earlier plan beside the one at hand, what weighs most first."""

    finding: str
    version: Id
    name: str
    lines: list[PlanDifferenceLine]


def list_versions(ctx: Context, actor: Actor, plan_id: int) -> list[KeptPlan]:
    """The newest first."""
    with ctx.store.read() as db:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_READ)
        facts = known_facts(ctx, db, plan)
        return [
            KeptPlan(
                id=row.id,
                name=_called(db, row),
                kept_at=row.kept_at,
                says=_finding(_differences(facts, plan, row)),
            )
            for row in versions_of(db, plan.id)
        ]


def compare(ctx: Context, actor: Actor, plan_id: int, version_id: int) -> PlanComparison:
    """An earlier plan with the one at hand."""
    with ctx.store.read() as db:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_READ)
        row = _version(db, plan, version_id)
        facts = known_facts(ctx, db, plan)
        found, dates = _differences(facts, plan, row), dates_of(db)
        return PlanComparison(
            finding=_finding(found),
            version=row.id,
            name=_called(db, row),
            lines=[
                PlanDifferenceLine(
                    name=_name(facts, one),
                    students=len(one.students),
                    before=_place(facts, dates, one.before),
                    after=_place(facts, dates, one.after),
                )
                for one in sorted(found, key=lambda one: list(KINDS).index(one.kind))
            ],
        )


def keep(ctx: Context, actor: Actor, plan_id: int, name: str) -> None:
    """The plan as it is now, under a name."""
    name = need_text(name, "name", 60)

    def work(db: Session) -> None:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        if sum(bool(row.name) for row in versions_of(db, plan.id)) >= MOST:
            raise Conflict(f"{MOST} plans are kept already; remove one first", "name")
        keep_version(db, ctx, actor, plan, name)

    ctx.store.write(work)


def restore(ctx: Context, actor: Actor, plan_id: int, version_id: int, revision: int) -> None:
    """Go back to an earlier plan; the one at hand is kept."""

    def work(db: Session) -> None:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        hold.take(db, ctx, actor, plan.school_id)
        if plan.revision != revision:
            raise Conflict("someone changed this plan in the meantime; the current version is shown", "revision")
        row = _version(db, plan, version_id)
        keep_version(db, ctx, actor, plan)
        plan.wishes, plan.figures = row.wishes, row.figures
        facts = known_facts(ctx, db, plan, fresh=True)
        found, _ = read_sessions(facts.problem, row.sessions)
        plan.sessions = write_sessions(facts.problem, of_today(facts.problem, found))
        plan.steps, plan.step = [], 0
        plan.revision += 1
        said = {"kept": row.kept_at.isoformat()}
        audit.record(db, ctx.clock(), actor.person_id, "plan.restore", f"plan:{plan.id}", None, said)

    ctx.store.write(work)


def remove(ctx: Context, actor: Actor, plan_id: int, version_id: int) -> None:
    """It is not kept any longer."""

    def work(db: Session) -> None:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        db.delete(_version(db, plan, version_id))

    ctx.store.write(work)


def _version(db: Session, plan: Plan, version_id: int) -> PlanVersion:
    row = db.get(PlanVersion, version_id)
    if row is None or row.plan_id != plan.id:
        raise NotFound("this plan is no longer kept")
    return row


def _called(db: Session, row: PlanVersion) -> str:
    return row.name or f"Before {dates_of(db).moment(row.kept_at.astimezone(zone_of(db)))}"


def _differences(facts: Facts, plan: Plan, row: PlanVersion) -> list[PlaceDifference]:
    """From the earlier plan to the one at hand, with today's lists in both."""
    then, now = (of_today(facts.problem, read_sessions(facts.problem, s)[0]) for s in (row.sessions, plan.sessions))
    return compare_plans(then, now)


def _finding(found: Sequence[PlaceDifference]) -> str:
    if not found:
        return "The same as the plan at hand."
    counts = {kind: sum(len(one.students) for one in found if one.kind == kind) for kind in KINDS}
    what = ", ".join(f"{n:,} {KINDS[kind]}" for kind, n in counts.items() if n)
    students = len({s for one in found for s in one.students})
    staff = len({p for one in found for p in one.proctors})
    touched = f"{counted(students, 'student')} and {counted(staff, 'proctor')}"
    return f"{sum(counts.values()):,} {'test differs' if sum(counts.values()) == 1 else 'tests differ'}: {what}. It touches {touched}."


def _name(facts: Facts, one: PlaceDifference) -> str:
    name = f"{facts.tests[one.test].name}, {facts.classes.get(one.klass, '')}" if one.test in facts.tests else ""
    return name if one.whole else f"{name}, apart"


def _place(facts: Facts, dates: Dates, place: tuple[int, str, int] | None) -> str:
    if place is None:
        return ""
    slot, room, proctor = place
    at = facts.problem.slots[slot]
    parts = [f"{dates.short(at.start.date())}, block {at.block}", room, facts.people.get(proctor, "")]
    return ", ".join(part for part in parts if part)
