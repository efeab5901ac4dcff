"""A proctor is out: who takes over their sessions of a day."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from bildung.core.items.shown import counted
from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import zone_of
from bildung.services.people.proctors import check_proctor, who_may_hold
from bildung.services.sessions.busy import A_DAY, check_free, supporters
from bildung.services.sessions.changing import tell_changed
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import Person, PlannedSession, SchoolClass

LONGEST_DAY = timedelta(hours=36)


@dataclass(frozen=True, kw_only=True)
class Cover:
    """A session of the proctor who is out, with who is free for it: nobody where `proctor` is None."""

    session: Id
    klass: str
    form: str
    room: str
    start: datetime
    end: datetime
    proctor: Id | None
    proctor_name: str


@dataclass(frozen=True, kw_only=True)
class Covers:
    """finding: what is to be covered, and whether all of it can be."""

    finding: str
    covers: list[Cover]


def suggest(ctx: Context, actor: Actor, person_id: int, day: date) -> Covers:
    """For each session that they proctor on this day, somebody of the school who is free then and has the fewest that
    day."""
    scope(actor, Action.SESSIONS_PLAN)
    with ctx.store.read() as db:
        out = db.get(Person, person_id)
        every = _of_day(db, day)
        allowed = set(db.scalars(select(PlannedSession.id).where(scope(actor, Action.SESSIONS_PLAN))))
        mine = [s for s in every if s.proctor_id == person_id and s.id in allowed]
        if out is None or not mine:
            raise NotFound("this person proctors no session of yours on that day")
        staff = db.scalars(
            select(Person)
            .where(Person.kind == "staff", Person.active.is_(True), scope(actor, Action.PEOPLE_READ))
            .order_by(Person.family, Person.given)
        ).all()
        may = who_may_hold(db, [p.id for p in staff])
        holding, helping = {s.id: s.proctor_id for s in every}, supporters(db, [s.id for s in every])
        covers = []
        for session in mine:
            free = [
                p
                for p in staff
                if p.id in may
                and p.id != person_id
                and p.school_id == session.klass.school_id
                and p.id not in helping[session.id]
                and not any(p.id in (holding[o.id], *helping[o.id]) and _overlap(o, session) for o in every)
            ]
            load = {p.id: list(holding.values()).count(p.id) for p in free}
            chosen = min(free, key=lambda p: load[p.id], default=None)
            holding[session.id] = chosen.id if chosen is not None else None
            covers.append(
                Cover(
                    session=session.id,
                    klass=session.klass.title,
                    form=session.form.name,
                    room=session.room,
                    start=session.start,
                    end=session.end,
                    proctor=chosen.id if chosen is not None else None,
                    proctor_name=chosen.name if chosen is not None else "",
                )
            )
        when = dates_of(db).long(day)
    open_ = sum(c.proctor is None for c in covers)
    finding = f"{out.name} proctors {counted(len(covers), 'session')} on {when}."
    finding += f" No one is free for {open_} of them." if open_ else " Someone is free for each of them."
    return Covers(finding=finding, covers=covers)


def _of_day(db: Session, day: date) -> list[PlannedSession]:
    """Sessions that are not over, of one day at the schools."""
    zone = zone_of(db)
    noon = datetime(day.year, day.month, day.day, 12, tzinfo=zone)
    near = db.scalars(
        select(PlannedSession)
        .where(PlannedSession.closed_at.is_(None), PlannedSession.start.between(noon - LONGEST_DAY, noon + LONGEST_DAY))
        .options(joinedload(PlannedSession.klass).joinedload(SchoolClass.school), joinedload(PlannedSession.form))
        .order_by(PlannedSession.start, PlannedSession.id)
    )
    return [s for s in near if school_day(s.start, zone) == day]


def _overlap(one: PlannedSession, other: PlannedSession) -> bool:
    return one.id != other.id and one.start < other.end and one.end > other.start and one.end - one.start < A_DAY


def reassign(ctx: Context, actor: Actor, person_id: int, day: date, to: Mapping[int, int | None]) -> int:
    """Their sessions of the day go to others, all or none. to: by session, who takes it; None leaves it without a
    proctor. How many were changed."""
    if not to:
        raise Invalid("choose who takes over", "to")

    def work(db: Session) -> int:
        sessions = {s.id: s for s in _of_day(db, day)}
        for id, new in to.items():
            session = sessions.get(id)
            allowed = db.scalar(
                select(PlannedSession.id).where(PlannedSession.id == id, scope(actor, Action.SESSIONS_PLAN))
            )
            if session is None or allowed is None:
                raise NotFound("there is no such session on that day, or it is not yours")
            if session.proctor_id != person_id:
                raise Conflict(f"the session of {session.klass.title} has another proctor by now; look again", "to")
            person = None if new is None else check_proctor(db, ctx, actor, new, session.klass.school_id)
            session.proctor_id = new
            session.revision += 1
            db.flush()
            if person is not None:
                check_free(db, person, session)
            audit.record(
                db,
                ctx.clock(),
                actor.person_id,
                "session.reassign",
                f"session:{id}",
                {"proctor": person_id},
                {"proctor": new},
            )
        return len(to)

    done = ctx.store.write(work)
    for id in to:
        tell_changed(ctx, id)
    return done
