"""Who counts for which class: whoever was enrolled there for most of the days between the windows."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import ColumnElement, or_, select
from sqlalchemy.orm import Session

from bildung.services.growth.cohort import Pair
from bildung.services.shared.access import Action, Actor, scope
from bildung.store.models import Enrolment, SchoolClass, SchoolYear


@dataclass(frozen=True, kw_only=True)
class Placed:
    """Where a student counts. class_id: 0 for nobody's class; part: they were in a class of this person's, for less than the share."""

    class_id: int
    title: str
    school_id: int | None
    grade: str
    part: bool


def placed(db: Session, actor: Actor, pair: Pair, least: float) -> dict[int, Placed]:
    """By person, of those in classes of the measure's subject that this person may see, in the year of the second occasion. least: share
    of the days between both that counts as having been there."""
    return _placed(db, scope(actor, Action.GROWTH_READ), pair.measure.subject, pair.start.start, pair.end.start, least)


def placed_at(
    db: Session, actor: Actor, subject: str, day: date, action: Action = Action.GROWTH_READ
) -> dict[int, Placed]:
    """By person, of those who were in a class of a subject on a day with which this person may do it."""
    return _placed(db, scope(actor, action), subject, day - timedelta(days=1), day, 0.0)


def _placed(
    db: Session, allowed: ColumnElement[bool], subject: str, start: date, last: date, least: float
) -> dict[int, Placed]:
    year = db.scalars(select(SchoolYear).where(SchoolYear.start <= last, SchoolYear.end >= last)).first()
    first = max(start, year.start) if year else start
    of_year: ColumnElement[bool] = SchoolClass.year_id.is_(None)
    if year is not None:
        of_year = or_(of_year, SchoolClass.year_id == year.id)
    rows = db.execute(
        select(
            Enrolment.person_id,
            Enrolment.begins,
            Enrolment.ends,
            SchoolClass.id,
            SchoolClass.title,
            SchoolClass.school_id,
            SchoolClass.grade,
        )
        .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
        .where(
            Enrolment.role == "student",
            SchoolClass.subject == subject,
            of_year,
            allowed,
        )
        .order_by(Enrolment.person_id, SchoolClass.id)
    )
    best: dict[int, tuple[float, tuple[int, str, int | None, str]]] = {}
    for person, begins, ends, *klass in rows:
        share = _share(first, last, begins, ends)
        if person not in best or share > best[person][0]:
            best[person] = (share, tuple(klass))  # type: ignore[assignment]
    placed: dict[tuple[int, bool], Placed] = {}
    found = {}
    for person, (share, (id, title, school, grade)) in best.items():
        key = (id, share < least)
        if key not in placed:
            placed[key] = Placed(class_id=0 if key[1] else id, title=title, school_id=school, grade=grade, part=key[1])
        found[person] = placed[key]
    return found


def _share(first: date, last: date, begins: date | None, ends: date | None) -> float:
    days = max(1, (last - first).days)
    here = (min(ends or last, last) - max(begins or first, first)).days
    return max(0, here) / days
