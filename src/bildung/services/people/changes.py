"""That who is where has changed, and what follows it: open sessions and rule groups."""

from __future__ import annotations

from collections.abc import Collection, Hashable

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from bildung.services.owed.sessionroster import follow_class
from bildung.services.people.membership import refresh
from bildung.store.models import (
    Enrolment,
    Federation,
    Placement,
    PlannedSession,
    Sitting,
)

LOCAL = "local:"  # people made here, whom no records file knows


def stamp(db: Session) -> Hashable:
    """Moves with every change of who is where."""
    return db.scalar(select(Federation.roster_version))


def moved(db: Session, people: Collection[int] | None = None) -> None:
    """Whoever changes who is where says so, and what hangs on it follows: open sessions and rule groups. people:
    whom it is about, where it is not about everybody; then only what hangs on them is looked at."""
    db.execute(update(Federation).values(roster_version=Federation.roster_version + 1))
    db.flush()
    refresh(db, people=people)  # a group may be exempt, or have a form of its own
    follow(db, people)


def follow(db: Session, people: Collection[int] | None = None) -> None:
    """Make the lists of open sessions again; of those that these people are or were on."""
    db.flush()
    sessions = select(PlannedSession).where(PlannedSession.closed_at.is_(None))
    if people is not None:
        theirs = select(Enrolment.class_id).where(Enrolment.person_id.in_(people))
        placed = select(Placement.session_id).where(Placement.person_id.in_(people))
        listed = select(Sitting.session_id).where(Sitting.person_id.in_(people))
        sessions = sessions.where(
            PlannedSession.class_id.in_(theirs) | PlannedSession.id.in_(placed) | PlannedSession.id.in_(listed)
        )
    for session in db.scalars(sessions).all():
        follow_class(db, session)
