"""Where staff are at a time: at sessions that they hold, and at those where they support somebody on the list."""

from __future__ import annotations

from collections.abc import Collection
from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared.access import attends
from bildung.services.shared.errors import Conflict
from bildung.store.models import Person, PlannedSession, SessionSupport, Sitting

A_DAY = timedelta(hours=20)  # what lasts longer is open for some days


def supporters(db: Session, sessions: Collection[int]) -> dict[int, set[int]]:
    """By session, the staff who support somebody on its list."""
    found: dict[int, set[int]] = {id: set() for id in sessions}
    rows = db.execute(
        select(SessionSupport.session_id, SessionSupport.staff_id)
        .join(
            Sitting,
            (Sitting.session_id == SessionSupport.session_id) & (Sitting.person_id == SessionSupport.student_id),
        )
        .where(SessionSupport.session_id.in_(sessions))
    )
    for session, staff in rows:
        found[session].add(staff)
    return found


def check_free(db: Session, person: Person, session: PlannedSession, place: str = "proctor_id") -> None:
    """Conflict where they hold a session, or support somebody, in another room at that time, or do both in this one. In
    one room several tests can be taken at once."""
    if session.proctor_id == person.id and person.id in supporters(db, [session.id])[session.id]:
        raise Conflict(f"{person.name} supports a student at this session; someone else has to proctor it", place)
    clashes = db.scalars(
        select(PlannedSession).where(
            attends(person.id),
            PlannedSession.start < session.end,
            PlannedSession.end > session.start,
            PlannedSession.closed_at.is_(None),
            PlannedSession.id != session.id,
        )
    )
    for clash in clashes:
        together = session.room and clash.room == session.room and (session.by_name or clash.by_name)
        if not together and max(clash.end - clash.start, session.end - session.start) < A_DAY:
            does = "proctors" if clash.proctor_id == person.id else "supports a student at"
            raise Conflict(
                f"{person.name} {does} {clash.form.name} in {clash.room or 'another room'} at that time", place
            )
