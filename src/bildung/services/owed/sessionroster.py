"""Who is on a session's list: the class as it is, from planning until the session closes."""

from __future__ import annotations

from datetime import date

from sqlalchemy import ColumnElement, and_, or_, select
from sqlalchemy.orm import Session

from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import zone_of
from bildung.services.owed.dealing import assign
from bildung.store.models import Enrolment, Person, PlannedSession, Sitting


def in_class_on(day: date) -> ColumnElement[bool]:
    """Enrolments that hold on a day: a late arrival is not on the list of what was before."""
    return and_(
        Enrolment.active.is_(True),
        or_(Enrolment.begins.is_(None), Enrolment.begins <= day),
        or_(Enrolment.ends.is_(None), Enrolment.ends >= day),
    )


def follow_class(db: Session, session: PlannedSession) -> bool:
    """Add sittings for students who joined the class, drop untouched ones of those who left. Whether anything moved."""
    if session.closed_at is not None:
        return False
    enrolled = set(
        db.scalars(
            select(Enrolment.person_id)
            .join(Person, Person.id == Enrolment.person_id)
            .where(
                Enrolment.class_id == session.class_id,
                Enrolment.role == "student",
                in_class_on(school_day(session.end, zone_of(db))),
                Person.active.is_(True),
            )
        )
    )
    sittings = {s.person_id: s for s in db.scalars(select(Sitting).where(Sitting.session_id == session.id))}
    moved = False
    for person_id in enrolled - sittings.keys():
        db.add(Sitting(session_id=session.id, person_id=person_id))
        moved = True
    for person_id, sitting in sittings.items():
        if person_id not in enrolled and sitting.state == "not_started" and sitting.takeover == 0:
            db.delete(sitting)
            moved = True
    if moved:
        session.data_version += 1
        db.flush()
    assign(db, session)
    return moved


def ensure_sitting(db: Session, session: PlannedSession, person: Person) -> Sitting | None:
    """The person's sitting in this session; the list is brought up to date first. None where they are not on it."""
    wanted = select(Sitting).where(Sitting.session_id == session.id, Sitting.person_id == person.id)
    sitting = db.scalar(wanted)
    if sitting is None and follow_class(db, session):
        sitting = db.scalar(wanted)
    return sitting
