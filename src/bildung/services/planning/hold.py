"""One person plans a school at a time. Others look on; after ten idle minutes whoever asks takes over."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy.orm import Session

from bildung.services.planning.schools import school_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.store.models import Person, PlanHold

IDLE = timedelta(minutes=10)


@dataclass(frozen=True)
class Holder:
    """Who plans now. mine: it is whoever asks; idle: it can be taken over."""

    name: str
    mine: bool
    idle: bool


def holder(db: Session, ctx: Context, actor: Actor, school_id: int) -> Holder:
    """Who plans this school; nobody is an empty name."""
    row = db.get(PlanHold, school_id)
    if row is None:
        return Holder("", False, True)
    person = db.get_one(Person, row.person_id)
    return Holder(person.name, person.id == actor.person_id, ctx.clock() - row.last > IDLE)


def take(db: Session, ctx: Context, actor: Actor, school_id: int) -> None:
    """Plan from now on; Conflict while somebody else does."""
    row, now = db.get(PlanHold, school_id), ctx.clock()
    if row is None:
        db.add(PlanHold(school_id=school_id, person_id=actor.person_id, since=now, last=now))
        return
    if row.person_id != actor.person_id:
        if now - row.last <= IDLE:
            name = db.get_one(Person, row.person_id).name
            raise Conflict(f"{name} is planning this school now; you can take over after ten idle minutes", "hold")
        row.person_id, row.since = actor.person_id, now
        audit.record(db, now, actor.person_id, "plan.takeover", f"school:{school_id}")
    row.last = now


def release(ctx: Context, actor: Actor, school_id: int) -> None:
    """Let others plan."""

    def work(db: Session) -> None:
        school_of(db, actor, school_id, Action.WINDOWS_PLAN)
        row = db.get(PlanHold, school_id)
        if row is not None and row.person_id == actor.person_id:
            db.delete(row)

    ctx.store.write(work)
