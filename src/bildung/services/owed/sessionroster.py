"""Who is on a session's list, from planning until it closes: the class as it is, without those who take the test elsewhere
or not at all, and with those who were placed here."""

from __future__ import annotations

from datetime import date

from sqlalchemy import ColumnElement, and_, or_, select
from sqlalchemy.orm import Session

from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import zone_of
from bildung.services.owed.dealing import assign
from bildung.services.owed.exempt import exemptions_of
from bildung.services.owed.sametest import gives_the_same
from bildung.store.models import Enrolment, Person, Placement, PlannedSession, Sitting


def in_class_on(day: date) -> ColumnElement[bool]:
    """Enrolments that hold on a day: a late arrival is not on the list of what was before."""
    return and_(
        Enrolment.active.is_(True),
        or_(Enrolment.begins.is_(None), Enrolment.begins <= day),
        or_(Enrolment.ends.is_(None), Enrolment.ends >= day),
    )


def enrolled_on(db: Session, class_id: int, day: date) -> set[int]:
    """Students of a class on a day who are still in the records."""
    return set(
        db.scalars(
            select(Enrolment.person_id)
            .join(Person, Person.id == Enrolment.person_id)
            .where(
                Enrolment.class_id == class_id,
                Enrolment.role == "student",
                in_class_on(day),
                Person.active.is_(True),
            )
        )
    )


def expected(db: Session, session: PlannedSession) -> set[int]:
    """Who is to take the test in this session: students of its class and those placed here, without those who take it
    elsewhere, also with another class of theirs, have begun it elsewhere in this window, or are exempt."""
    day = school_day(session.end, zone_of(db))
    found = set() if session.by_name else enrolled_on(db, session.class_id, day)
    same = gives_the_same(db, session)
    open_ = PlannedSession.closed_at.is_(None)
    placed = select(Placement.person_id).join(PlannedSession, PlannedSession.id == Placement.session_id)
    found -= set(db.scalars(placed.where(same, open_)))
    # who is in two classes of the subject takes its test once, where it was scheduled first
    first = select(PlannedSession.class_id).where(
        same, open_, PlannedSession.by_name.is_(False), PlannedSession.id < session.id
    )
    in_two = select(Enrolment.person_id).where(
        Enrolment.class_id.in_(first), Enrolment.role == "student", in_class_on(day)
    )
    found -= set(db.scalars(in_two))
    here = select(Placement.person_id).join(Person, Person.id == Placement.person_id)
    found |= set(db.scalars(here.where(Placement.session_id == session.id, Person.active.is_(True))))
    return (
        found
        - begun_elsewhere(db, session).keys()
        - exemptions_of(db, session.window_id, session.form.subject, day).keys()
    )


def begun_elsewhere(db: Session, session: PlannedSession) -> dict[int, tuple[Sitting, PlannedSession]]:
    """By student, the attempt at the same test in another session of the window that is submitted, in progress or to be continued."""
    rows = db.execute(
        select(Sitting, PlannedSession)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(gives_the_same(db, session), Sitting.state.in_(("handed_in", "answering", "resting", "on_paper")))
        .order_by(PlannedSession.start.desc())
    ).all()
    return {sitting.person_id: (sitting, other) for sitting, other in rows}


def follow_class(db: Session, session: PlannedSession) -> bool:
    """Put on the session's list who is to take its test here, and take off who is not and has not touched it. Whether
    anything moved."""
    if session.closed_at is not None:
        return False
    wanted = expected(db, session)
    sittings = {s.person_id: s for s in db.scalars(select(Sitting).where(Sitting.session_id == session.id))}
    moved = False
    for person_id in sorted(wanted - sittings.keys()):
        db.add(Sitting(session_id=session.id, person_id=person_id))
        moved = True
    for person_id, sitting in sittings.items():
        if person_id not in wanted and sitting.state == "not_started" and sitting.takeover == 0:
            db.delete(sitting)
            moved = True
    if moved:
        session.data_version += 1
        db.flush()
    assign(db, session)
    return moved


def follow_same(db: Session, session: PlannedSession) -> None:
    """Make the lists of the sessions again that give the same test."""
    for other in db.scalars(
        select(PlannedSession).where(gives_the_same(db, session), PlannedSession.closed_at.is_(None))
    ).all():
        follow_class(db, other)


def ensure_sitting(db: Session, session: PlannedSession, person: Person) -> Sitting | None:
    """The person's sitting in this session; the list is brought up to date first. None where they are not on it."""
    wanted = select(Sitting).where(Sitting.session_id == session.id, Sitting.person_id == person.id)
    sitting = db.scalar(wanted)
    if sitting is None and follow_class(db, session):
        sitting = db.scalar(wanted)
    return sitting
