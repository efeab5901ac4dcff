"""A room that is lost for some days: whoever tests in it is planned elsewhere, and as little as possible moves."""

from __future__ import annotations

from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.planning import hold
from bildung.services.planning.closed import closings
from bildung.services.planning.document import read_wishes
from bildung.services.planning.known import forget, known_facts, known_sessions
from bildung.services.planning.plans import get_plan, make
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.jobs import Job
from bildung.store.models import Room, RoomClosing

MOST = 200


def close(
    ctx: Context, actor: Actor, plan_id: int, revision: int, room: str, first: date, last: date, job: Job
) -> None:
    """Take a room out for some days and plan again from what there is. Sessions in it lose it, also those placed by hand;
    every other one stays where it can. That the room is closed is kept also where planning again is not possible: the board
    then says so at each session in it."""
    name = room.strip()
    if last < first:
        raise Invalid("the last day comes before the first", "last")

    def work(db: Session) -> tuple[int, int]:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        hold.take(db, ctx, actor, plan.school_id)
        if plan.revision != revision:
            raise Conflict("someone changed this plan in the meantime; the current version is shown", "revision")
        known = {r.name for r in db.scalars(select(Room).where(Room.school_id == plan.school_id))}
        if not name or name not in known | {plain["room"] for plain in plan.sessions}:
            raise Invalid("choose a room of the school", "room")
        mine = closings(db, plan.school_id, date.min, date.max)
        if len(mine) >= MOST:
            raise Conflict(f"at most {MOST} closings are kept; open rooms again that are no longer closed", "room")
        if any(one.room == name and one.first <= last and first <= one.last for one in mine):
            raise Conflict(f"{name} is already closed on some of these days; open it first to change them", "first")
        db.add(RoomClosing(school_id=plan.school_id, room=name, first=first, last=last))
        plan.sessions = [
            plain | {"held": False} if plain["room"] == name and first <= _day(plain) <= last else plain
            for plain in plan.sessions
        ]
        said = {"room": name, "first": first.isoformat(), "last": last.isoformat()}
        audit.record(db, ctx.clock(), actor.person_id, "plan.roomclosed", f"plan:{plan.id}", None, said)
        return plan.school_id, plan.window_id

    school_id, window_id = ctx.store.write(work)
    forget(ctx)
    with ctx.store.read() as db:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        wishes = read_wishes(plan.wishes)
        facts = known_facts(ctx, db, plan)
        sessions, _ = known_sessions(ctx, plan, facts)
        shut = {r.name: r.shut for r in facts.problem.rooms}.get(name, frozenset())
        touched = any(
            s.room == name and not shut.isdisjoint(facts.problem.covered(s.slot, s.minutes)) for s in sessions
        )
    if touched:
        make(ctx, actor, school_id, window_id, wishes, job, again=True)


def _day(plain: dict[str, str]) -> date:
    return date.fromisoformat(plain["slot"][:10])


def reopen(ctx: Context, actor: Actor, plan_id: int, closing_id: int) -> None:
    """The room is there again. Nothing is moved back by itself."""

    def work(db: Session) -> None:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        hold.take(db, ctx, actor, plan.school_id)
        row = db.get(RoomClosing, closing_id)
        if row is None or row.school_id != plan.school_id:
            raise NotFound("this room is open again already")
        said = {"room": row.room, "first": row.first.isoformat(), "last": row.last.isoformat()}
        audit.record(db, ctx.clock(), actor.person_id, "plan.roomopened", f"plan:{plan.id}", said, None)
        db.delete(row)

    ctx.store.write(work)
    forget(ctx)
