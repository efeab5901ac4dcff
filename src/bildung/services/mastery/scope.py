"""Whose mastery somebody may see: classes of today, with their students."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Enrolment, Person, School, SchoolClass


@dataclass(frozen=True, kw_only=True)
class MasteryClass:
    """A class that can be looked at."""

    id: Id
    title: str
    subject: str
    grade: str
    school: str


@dataclass(frozen=True)
class InClass:
    id: int
    name: str


def class_choices(db: Session, actor: Actor) -> list[MasteryClass]:
    """Classes of today with a subject, by grade."""
    rows = db.execute(
        select(SchoolClass, School.name)
        .outerjoin(School, School.id == SchoolClass.school_id)
        .where(SchoolClass.active.is_(True), SchoolClass.subject != "", scope(actor, Action.MASTERY_READ))
        .order_by(SchoolClass.grade, SchoolClass.subject, SchoolClass.title)
    )
    return [
        MasteryClass(id=k.id, title=k.title, subject=k.subject, grade=k.grade, school=name or "") for k, name in rows
    ]


def class_named(db: Session, actor: Actor, id: int) -> SchoolClass:
    """NotFound where it is not there, or not theirs to see."""
    found = db.scalar(select(SchoolClass).where(SchoolClass.id == id, scope(actor, Action.MASTERY_READ)))
    if found is None:
        raise NotFound("there is no such class, or it is not yours to see")
    return found


def students_of(db: Session, class_id: int) -> list[InClass]:
    """Who is in a class today, by name."""
    rows = db.scalars(
        select(Person)
        .join(Enrolment, Enrolment.person_id == Person.id)
        .where(
            Enrolment.class_id == class_id,
            Enrolment.role == "student",
            Enrolment.active.is_(True),
            Person.active.is_(True),
        )
        .order_by(Person.family, Person.given, Person.id)
    )
    return [InClass(p.id, p.name) for p in rows]


def students_of_grade(db: Session, subject: str, grade: str) -> list[int]:
    """Of all classes of a subject and grade in the district, for comparison."""
    return list(
        db.scalars(
            select(Enrolment.person_id)
            .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
            .where(
                SchoolClass.subject == subject,
                SchoolClass.grade == grade,
                SchoolClass.active.is_(True),
                Enrolment.role == "student",
                Enrolment.active.is_(True),
            )
            .distinct()
            .order_by(Enrolment.person_id)
        )
    )


def class_of_student(db: Session, actor: Actor, person: int, subject: str) -> SchoolClass:
    """A class of the subject in which this person may see the student. NotFound where there is none."""
    found = db.scalars(
        select(SchoolClass)
        .join(Enrolment, Enrolment.class_id == SchoolClass.id)
        .where(
            Enrolment.person_id == person,
            Enrolment.role == "student",
            Enrolment.active.is_(True),
            SchoolClass.active.is_(True),
            SchoolClass.subject == subject,
            scope(actor, Action.MASTERY_READ),
        )
        .order_by(SchoolClass.id)
    ).first()
    if found is None:
        raise NotFound("there is no such student in a class that you may see")
    return found
