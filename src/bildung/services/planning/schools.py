"""The school a plan is for, and whether somebody may look at it or change it."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.errors import NotFound
from bildung.store.models import School, Window


def schools_of(db: Session, actor: Actor, action: Action = Action.WINDOWS_READ) -> list[School]:
    """Those that this person plans, or reads, in order of name."""
    return list(db.scalars(select(School).where(scope(actor, action)).order_by(School.name)))


def school_of(db: Session, actor: Actor, school_id: int, action: Action) -> School:
    """One of them."""
    school = db.scalar(select(School).where(School.id == school_id, scope(actor, action)))
    if school is None:
        raise NotFound("there is no such school, or it is not yours to plan")
    return school


def school_or_first(db: Session, actor: Actor, school_id: int | None, schools: list[School]) -> School:
    """The one asked for, else the first of theirs; NotFound in an installation that has no schools yet."""
    if school_id is not None:
        return school_of(db, actor, school_id, Action.WINDOWS_READ)
    if not schools:
        raise NotFound("no school is entered yet; import a roster under People first")
    return schools[0]


def plans_at(db: Session, actor: Actor, school_id: int) -> bool:
    """Whether this person plans there."""
    return actor.may(Action.WINDOWS_PLAN) and any(s.id == school_id for s in schools_of(db, actor, Action.WINDOWS_PLAN))


def window_of(db: Session, window_id: int) -> Window:
    """The window asked for."""
    window = db.get(Window, window_id)
    if window is None:
        raise NotFound("there is no such window")
    return window
