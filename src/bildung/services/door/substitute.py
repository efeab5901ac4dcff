"""A substitute opens one session with a code from the proctor's sheet, and can do there what a room needs: nothing else."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.calendar.years import zone_of
from bildung.services.door.signin import Token, WrongCode, is_a_guess, sign_in_person
from bildung.services.shared import audit
from bildung.services.shared.access import SUBSTITUTE_EARLY, substitute_may
from bildung.services.shared.codes import as_typed
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.throttle import CODES_HERE, CODES_OF, trying
from bildung.services.shared.typed import need_text
from bildung.store.models import Person, PlannedSession, Substitute

LONGEST_NAME = 60


def enter(ctx: Context, typed: str, name: str, address: str, device: str = "") -> tuple[Token, int]:
    """In with the code and a name, which is kept; to which session."""
    code = as_typed(typed)

    def work(db: Session) -> tuple[int, int]:
        session = db.scalar(select(PlannedSession).where(PlannedSession.substitute_code == code))
        if session is None or not code:
            raise WrongCode("no session is opened by this code; look at the proctor's sheet or ask", "code")
        given, _, family = need_text(name, "name", LONGEST_NAME).partition(" ")
        now = ctx.clock()
        if session.closed_at is not None or not substitute_may(session, now, zone_of(db)):
            raise Invalid(_when(session, now), "code")
        person = _person(db, session, given, family.strip())
        db.add(Substitute(session_id=session.id, person_id=person.id, code=code, at=now))
        audit.record(db, now, person.id, "substitute.enter", f"session:{session.id}", None, {"name": person.name})
        return person.id, session.id

    with trying(ctx, [(CODES_HERE, address), (CODES_OF, code)], is_a_guess):
        person_id, session_id = ctx.store.write(work)
    return sign_in_person(ctx, person_id, address, device), session_id


def _when(session: PlannedSession, now: datetime) -> str:
    if session.closed_at is not None or now > session.end:
        return "this session is over; its code opens nothing any more"
    return f"this code opens the session {SUBSTITUTE_EARLY // timedelta(minutes=1)} minutes before it begins"


def _person(db: Session, session: PlannedSession, given: str, family: str) -> Person:
    """The same name at the same session is the same person, also on another device."""
    known = db.scalar(
        select(Person)
        .join(Substitute, Substitute.person_id == Person.id)
        .where(Substitute.session_id == session.id, Person.given == given, Person.family == family)
    )
    if known is not None:
        return known
    made = Person(
        source_id=f"substitute-{secrets.token_hex(8)}",
        given=given,
        family=family,
        kind="substitute",
        school_id=session.klass.school_id,
    )
    db.add(made)
    db.flush()
    return made
