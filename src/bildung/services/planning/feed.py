"""Sessions of a member of staff as an iCalendar feed (RFC 5545) under a secret address that they can revoke.

Class, test, room and time only: a calendar program is outside of the school, so no student and no code is in it.
"""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from icalendar import Calendar, Event
from sqlalchemy import or_, select
from sqlalchemy.orm import Session, joinedload

from bildung.services.forms.settings import title_of
from bildung.services.people.teachers import taught_by
from bildung.services.shared import audit
from bildung.services.shared.access import Actor, attends
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.store.models import CalendarFeed, Federation, Person, PlannedSession

BEHIND = timedelta(days=60)  # sessions so long over are no longer sent


@dataclass(frozen=True)
class FeedState:
    """since: when the address was made; None: there is none."""

    since: datetime | None


def state(ctx: Context, actor: Actor) -> FeedState:
    """Whether they have a feed."""
    with ctx.store.read() as db:
        row = db.get(CalendarFeed, actor.person_id)
        return FeedState(row.made_at if row else None)


def make(ctx: Context, actor: Actor) -> str:
    """A new secret; one that was made before ends. It is told once and kept as a hash."""
    token = secrets.token_urlsafe(24)

    def work(db: Session) -> None:
        row = db.get(CalendarFeed, actor.person_id) or CalendarFeed(person_id=actor.person_id)
        row.token_hash, row.made_at = _hash(token), ctx.clock()
        db.add(row)
        audit.record(db, ctx.clock(), actor.person_id, "feed.make", f"person:{actor.person_id}")

    ctx.store.write(work)
    return token


def revoke(ctx: Context, actor: Actor) -> None:
    """The address stops working at once."""

    def work(db: Session) -> None:
        row = db.get(CalendarFeed, actor.person_id)
        if row is not None:
            db.delete(row)
            audit.record(db, ctx.clock(), actor.person_id, "feed.revoke", f"person:{actor.person_id}")

    ctx.store.write(work)


def read(ctx: Context, token: str) -> bytes:
    """The feed of whoever holds the secret; NotFound for any other, also after they left."""
    with ctx.store.read() as db:
        row = db.scalar(select(CalendarFeed).where(CalendarFeed.token_hash == _hash(token)))
        person = db.get(Person, row.person_id) if row else None
        if person is None or not person.active or person.kind != "staff":
            raise NotFound("there is no such calendar")
        name = db.scalar(select(Federation.name)) or "Bildung"
        return _calendar(name, ctx.clock(), person.id, _sessions(ctx, db, person.id))


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode(errors="replace")).hexdigest()


def _sessions(ctx: Context, db: Session, person_id: int) -> Sequence[PlannedSession]:
    """Sessions that they hold or support, and those of classes they teach."""
    return db.scalars(
        select(PlannedSession)
        .where(
            or_(attends(person_id), PlannedSession.class_id.in_(taught_by(person_id))),
            PlannedSession.canceled_at.is_(None),
            PlannedSession.end > ctx.clock() - BEHIND,
        )
        .options(joinedload(PlannedSession.form), joinedload(PlannedSession.klass))
        .order_by(PlannedSession.start, PlannedSession.id)
    ).all()


def _calendar(name: str, now: datetime, person_id: int, sessions: Sequence[PlannedSession]) -> bytes:
    calendar = Calendar()
    calendar.add("prodid", "-//Bildung//Testing sessions//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"Testing, {name}")
    for session in sessions:
        event = Event()
        event.add("uid", f"session-{session.id}@bildung")
        event.add("dtstamp", now.astimezone(UTC))
        event.add("sequence", session.revision)
        event.add("dtstart", session.start.astimezone(UTC))
        event.add("dtend", session.end.astimezone(UTC))
        does = " (proctor)" if session.proctor_id == person_id else ""
        event.add("summary", f"{session.title or title_of(session.form)}, {session.klass.title}{does}")
        if session.room:
            event.add("location", f"Room {session.room}")
        calendar.add_component(event)
    return bytes(calendar.to_ical())
