"""Goals that are kept for students, with who set them; held against what came."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.services.growth.classes import placed_at
from bildung.services.growth.measures import measure_named
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Goal, Person

KINDS = ("target50", "target80", "own")
MOST = 2000


@dataclass(frozen=True, kw_only=True)
class GoalLine:
    """A goal that holds. kind: the 50% or 80% target as it was then, or a score of somebody's own."""

    id: Id
    score: float
    kind: str
    by_day: date
    by: str
    set_at: datetime


@dataclass(frozen=True, kw_only=True)
class GoalWish:
    person: int
    score: float
    kind: str


@dataclass(frozen=True)
class GoalsSet:
    says: str


def goals_of(db: Session, measure_id: int, day: date, people: Collection[int]) -> dict[int, GoalLine]:
    """Goals for a day that hold, by student."""
    rows = db.execute(
        select(Goal, Person)
        .join(Person, Person.id == Goal.set_by_id)
        .where(Goal.measure_id == measure_id, Goal.by_day == day, Goal.withdrawn_at.is_(None))
        .order_by(Goal.id)
    )
    wanted = set(people)
    return {
        goal.person_id: GoalLine(
            id=goal.id, score=goal.score, kind=goal.kind, by_day=goal.by_day, by=by.name, set_at=goal.set_at
        )
        for goal, by in rows
        if goal.person_id in wanted
    }


def set_goals(ctx: Context, actor: Actor, measure_id: int, day: date, wishes: Sequence[GoalWish]) -> GoalsSet:
    """All at once; a goal for the same day replaces the one before, which stays in the record."""
    scope(actor, Action.GOALS_SET)
    if not wishes or len(wishes) > MOST:
        raise Invalid(f"1 to {MOST} goals at once", "goals")
    now = ctx.clock()

    def work(db: Session) -> int:
        measure = measure_named(db, measure_id)
        seen = placed_at(db, actor, measure.subject, day, Action.GOALS_SET)
        for wish in wishes:
            if wish.kind not in KINDS:
                raise Invalid(f"a goal is one of {', '.join(KINDS)}", "kind")
            if not measure.low <= wish.score <= measure.high:
                raise Invalid(f"a goal is on the scale from {measure.low:g} to {measure.high:g}", "score")
            if wish.person not in seen:
                raise NotFound("one of these students is not there, or not yours")
        people = {w.person for w in wishes}
        for old in db.scalars(
            select(Goal).where(
                Goal.measure_id == measure.id,
                Goal.by_day == day,
                Goal.withdrawn_at.is_(None),
                Goal.person_id.in_(people),
            )
        ):
            old.withdrawn_at = now
        db.add_all(
            Goal(
                measure_id=measure.id,
                person_id=w.person,
                by_day=day,
                score=w.score,
                kind=w.kind,
                set_at=now,
                set_by_id=actor.person_id,
            )
            for w in wishes
        )
        audit.record(
            db,
            now,
            actor.person_id,
            "goals.set",
            f"measure:{measure.id}",
            None,
            {"students": len(people), "day": day.isoformat()},
        )
        return len(people)

    return GoalsSet(f"{counted(ctx.store.write(work), 'goal')} saved.")


def withdraw_goal(ctx: Context, actor: Actor, goal_id: int) -> None:
    """It holds no longer; that it was set stays in the record."""
    scope(actor, Action.GOALS_SET)

    def work(db: Session) -> None:
        goal = db.get(Goal, goal_id)
        if goal is None or goal.withdrawn_at is not None:
            raise NotFound("there is no such goal")
        measure = measure_named(db, goal.measure_id)
        if goal.person_id not in placed_at(db, actor, measure.subject, goal.by_day, Action.GOALS_SET):
            raise NotFound("there is no such goal")
        goal.withdrawn_at = ctx.clock()
        audit.record(db, ctx.clock(), actor.person_id, "goal.withdraw", f"goal:{goal.id}", None, None)

    ctx.store.write(work)
