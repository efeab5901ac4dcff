"""Putting students into another session than their class's, and back; splitting and merging sessions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import zone_of
from bildung.services.owed.exempt import exemptions_of
from bildung.services.owed.sametest import gives_the_same
from bildung.services.owed.sessionroster import begun_elsewhere, follow_class, follow_same
from bildung.services.people.proctors import check_proctor
from bildung.services.sessions import guards
from bildung.services.sessions.busy import check_free
from bildung.services.sessions.changing import changeable, tell_changed
from bildung.services.sessions.scheduling import check_times
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.codes import SESSION_LENGTH, new_code
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.sitting.resting import carry
from bildung.store.models import Person, Placement, PlannedSession, SchoolClass, Sitting

MOST = 200


@dataclass(frozen=True, kw_only=True)
class Slot:
    """When and where."""

    start: datetime
    end: datetime
    room: str
    proctor_id: int | None


def place(ctx: Context, actor: Actor, session_id: int, people: Sequence[int], why: str = "") -> None:
    """These students take the test in this session: they leave the list of their class's by the same stroke."""

    def work(db: Session) -> None:
        place_in(db, ctx, actor, changeable(db, actor, session_id), people, why)

    ctx.store.write(work)
    tell_changed(ctx, session_id)


def place_in(db: Session, ctx: Context, actor: Actor, session: PlannedSession, people: Sequence[int], why: str) -> None:
    """The same, in a transaction of somebody else. All or none of them."""
    put_in(db, ctx, actor, session, people, why)
    follow_same(db, session)
    follow_class(db, session)


def put_in(db: Session, ctx: Context, actor: Actor, session: PlannedSession, people: Sequence[int], why: str) -> None:
    """The same without making lists again, which whoever places many does once at the end."""
    ids = list(dict.fromkeys(people))
    if not 0 < len(ids) <= MOST:
        raise Invalid(f"choose 1 to {MOST} students", "people")
    allowed = scope(actor, Action.CODES_READ)  # theirs to test, not only to see
    found = {
        p.id: p
        for p in db.scalars(
            select(Person).where(Person.id.in_(ids), Person.student.is_(True), Person.active.is_(True), allowed)
        )
    }
    if len(found) < len(ids):
        raise NotFound("there is no such student, or they are not yours")
    resting = _refuse_done(db, session, found)
    same = select(PlannedSession.id).where(gives_the_same(db, session))
    db.execute(delete(Placement).where(Placement.person_id.in_(ids), Placement.session_id.in_(same)))
    there = set(db.scalars(select(Placement.person_id).where(Placement.session_id == session.id)))
    for id in ids:
        if id not in there:
            db.add(Placement(session_id=session.id, person_id=id, why=why, at=ctx.clock(), by_id=actor.person_id))
        after = {"session": session.id}
        audit.record(db, ctx.clock(), actor.person_id, "sitting.place", f"person:{id}", None, after, why)
    session.revision += 1
    db.flush()
    for attempt in resting:
        carry(db, attempt, session)


def _refuse_done(db: Session, session: PlannedSession, people: dict[int, Person]) -> list[Sitting]:
    """Whoever has begun the test elsewhere, unless the attempt rests: it comes along."""
    begun = begun_elsewhere(db, session)
    dates, zone = dates_of(db), zone_of(db)
    resting = []
    for id, person in people.items():
        if id in begun:
            sitting, other = begun[id]
            if sitting.state == "resting":
                resting.append(sitting)
                continue
            day = dates.long(other.start.astimezone(zone).date())
            what = f"submitted this test on {day} in {other.klass.title}"
            if sitting.state == "answering":
                what = f"is taking this test in {other.klass.title} now"
            raise Conflict(f"{person.name} {what}; invalidate that attempt first if it must not count", "people")
    exempt = exemptions_of(db, session.window_id, session.form.subject, school_day(session.end, zone), people.keys())
    for id, row in exempt.items():
        raise Conflict(f"{people[id].name} is exempt ({row.reason}); end the exemption first", "people")
    return resting


def unplace(ctx: Context, actor: Actor, session_id: int, person_id: int) -> None:
    """Back to the list of their class."""

    def work(db: Session) -> None:
        session = changeable(db, actor, session_id)
        row = db.scalar(select(Placement).where(Placement.session_id == session.id, Placement.person_id == person_id))
        if row is None:
            raise NotFound("this student was not moved into this session")
        begun = db.scalar(
            select(Sitting).where(
                Sitting.session_id == session.id, Sitting.person_id == person_id, Sitting.started_at.is_not(None)
            )
        )
        if begun is not None:
            raise Conflict("this student has started; invalidate the attempt first if it must not count")
        db.delete(row)
        session.revision += 1
        db.flush()
        follow_class(db, session)
        follow_same(db, session)
        audit.record(
            db, ctx.clock(), actor.person_id, "sitting.unplace", f"person:{person_id}", {"session": session.id}
        )

    ctx.store.write(work)
    tell_changed(ctx, session_id)


def split(
    ctx: Context, actor: Actor, session_id: int, people: Sequence[int], slot: Slot, why: str | None = None
) -> int:
    """These students take the test in a session of their own. Its id."""

    def work(db: Session) -> int:
        session = changeable(db, actor, session_id)
        made = by_name(db, ctx, actor, session, session.klass, slot, people, why)
        place_in(db, ctx, actor, made, people, "split from the session of the class")
        return made.id

    made = ctx.store.write(work)
    tell_changed(ctx, session_id)
    return made


def by_name(
    db: Session,
    ctx: Context,
    actor: Actor,
    like: PlannedSession,
    klass: SchoolClass,
    slot: Slot,
    people: Sequence[int],
    why: str | None = None,
    settled: bool = False,
) -> PlannedSession:
    """A session that gives the same test to these people, who are placed in it by whoever asks. settled: who has looked
    for what speaks against it already."""
    start, end = slot.start.astimezone(UTC), slot.end.astimezone(UTC)
    check_times(start, end, ctx.clock())
    if start < ctx.clock() and end <= ctx.clock():
        raise Invalid("the session lies ahead", "start")
    codes = set(db.scalars(select(PlannedSession.code)))
    made = PlannedSession(
        form_id=like.form_id,
        window_id=like.window_id,
        class_id=klass.id,
        room=slot.room.strip(),
        proctor_id=slot.proctor_id,
        start=start,
        end=end,
        code=new_code(SESSION_LENGTH, codes),
        part=like.part,
        by_name=True,
        title=like.title,
        instructions=like.instructions,
    )
    db.add(made)
    db.flush()
    if slot.proctor_id is not None:
        check_free(db, check_proctor(db, ctx, actor, slot.proctor_id, klass.school_id), made)
    plan = guards.Plan(
        klass=klass, form=made.form, window=made.window, room="", start=start, end=end, session=made.id, people=people
    )
    against = [] if settled else guards.refuse_without_reason(db, [plan], why)
    after = {"form": made.form.name, "start": start.isoformat(), "by name": True, "against": against}
    audit.record(db, ctx.clock(), actor.person_id, "session.schedule", f"session:{made.id}", None, after, why or "")
    return made


def merge(ctx: Context, actor: Actor, session_id: int, into_id: int) -> None:
    """Whoever has not begun in one session takes the test in the other; a session that nobody is left in is canceled."""

    def work(db: Session) -> None:
        session, into = changeable(db, actor, session_id), changeable(db, actor, into_id)
        if (
            session.id == into.id
            or db.scalar(select(PlannedSession.id).where(PlannedSession.id == into.id, gives_the_same(db, session)))
            is None
        ):
            raise Invalid("choose another session of this window that gives the same test", "into")
        people = list(
            db.scalars(
                select(Sitting.person_id).where(
                    Sitting.session_id == session.id, Sitting.state.in_(("not_started", "resting"))
                )
            )
        )
        if not people:
            raise Conflict("everyone in this session has started; no one is left to move")
        place_in(db, ctx, actor, into, people, "merged")
        left = db.scalars(select(Sitting.id).where(Sitting.session_id == session.id)).all()
        if not left:
            session.canceled_at = session.closed_at = ctx.clock()
            session.cancel_why = f"merged into the session of {into.klass.title}"
            session.revision += 1

    ctx.store.write(work)
    for id in (session_id, into_id):
        tell_changed(ctx, id)
