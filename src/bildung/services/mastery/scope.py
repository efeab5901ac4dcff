"""Whose mastery somebody may see: classes of today with their students, groups, grades, schools, or a chosen few."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from bildung.core.grades import in_grade_order
from bildung.core.items.shown import counted
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Enrolment, Group, GroupMember, Person, School, SchoolClass

MOST_CHOSEN = 400


@dataclass(frozen=True, kw_only=True)
class MasteryClass:
    """A class that can be looked at."""

    id: Id
    title: str
    subject: str
    grade: str
    school: str


@dataclass(frozen=True, kw_only=True)
class MasteryScope:
    """A group, a grade or a school that can be looked at, in a subject. school, grade, group: empty where it is none."""

    label: str
    subject: str
    grade: str
    school: Id | None
    group: Id | None


@dataclass(frozen=True)
class InClass:
    id: int
    name: str


@dataclass(frozen=True, kw_only=True)
class WhoAsked:
    """One of: a class; a group; a grade, a school, or both together. people: only these of them, or these alone. subject: of all but a
    class."""

    class_id: int | None = None
    group_id: int | None = None
    school_id: int | None = None
    grade: str = ""
    people: tuple[int, ...] = ()
    subject: str = ""


@dataclass(frozen=True, kw_only=True)
class Who:
    """Students, by name. grade: of all of them, empty where they are of several. class_id: where it is a class."""

    title: str
    subject: str
    grade: str
    school_id: int | None
    class_id: int | None
    students: list[InClass]

    @property
    def people(self) -> list[int]:
        """Their ids."""
        return [s.id for s in self.students]


def class_choices(db: Session, actor: Actor) -> list[MasteryClass]:
    """Classes of today with a subject, by grade."""
    rows = db.execute(
        select(SchoolClass, School.name)
        .outerjoin(School, School.id == SchoolClass.school_id)
        .where(SchoolClass.active.is_(True), SchoolClass.subject != "", scope(actor, Action.MASTERY_READ))
        .order_by(SchoolClass.subject, SchoolClass.title)
    ).all()
    order = {grade: at for at, grade in enumerate(in_grade_order({k.grade for k, _ in rows}))}
    return [
        MasteryClass(id=k.id, title=k.title, subject=k.subject, grade=k.grade, school=name or "")
        for k, name in sorted(rows, key=lambda row: order[row[0].grade])
    ]


def scope_choices(db: Session, actor: Actor, subject: str) -> list[MasteryScope]:
    """Grades and schools of the classes that this person may see, and groups, in a subject."""
    rows = db.execute(
        select(SchoolClass.school_id, School.name, SchoolClass.grade)
        .join(School, School.id == SchoolClass.school_id)
        .where(SchoolClass.active.is_(True), SchoolClass.subject == subject, scope(actor, Action.MASTERY_READ))
        .distinct()
    ).all()
    grades = in_grade_order({grade for _, _, grade in rows if grade})
    schools = {id: name for id, name, _ in rows}
    found = []
    if len(schools) > 1:
        found += [MasteryScope(label=f"Grade {g}", subject=subject, grade=g, school=None, group=None) for g in grades]
    for id, name in sorted(schools.items(), key=lambda pair: pair[1]):
        mine = in_grade_order({grade for school, _, grade in rows if school == id and grade})
        found += [
            MasteryScope(label=f"{name}, grade {g}", subject=subject, grade=g, school=id, group=None) for g in mine
        ]
        if len(mine) > 1:
            found.append(MasteryScope(label=name, subject=subject, grade="", school=id, group=None))
    if actor.may(Action.GROUPS_READ):
        groups = db.execute(select(Group.id, Group.name).where(scope(actor, Action.GROUPS_READ)).order_by(Group.name))
        found += [MasteryScope(label=name, subject=subject, grade="", school=None, group=id) for id, name in groups]
    return found


def class_named(db: Session, actor: Actor, id: int) -> SchoolClass:
    """NotFound where it is not there, or not theirs to see."""
    found = db.scalar(select(SchoolClass).where(SchoolClass.id == id, scope(actor, Action.MASTERY_READ)))
    if found is None:
        raise NotFound("there is no such class, or it is not yours to see")
    return found


def who(db: Session, actor: Actor, asked: WhoAsked) -> Who:
    """NotFound where it is not there or not theirs; Invalid where no subject is named."""
    if asked.class_id is not None:
        klass = class_named(db, actor, asked.class_id)
        students = [s for s in students_of(db, klass.id) if not asked.people or s.id in asked.people]
        return Who(
            title=f"{klass.title}, {counted(len(students), 'student')}" if asked.people else klass.title,
            subject=klass.subject,
            grade=klass.grade,
            school_id=klass.school_id,
            class_id=klass.id,
            students=students,
        )
    if not asked.subject:
        raise Invalid("name a subject", "subject")
    conditions: list[ColumnElement[bool]] = [SchoolClass.subject == asked.subject, scope(actor, Action.MASTERY_READ)]
    titles = []
    if asked.group_id is not None:
        if not actor.may(Action.GROUPS_READ):
            raise NotFound("there is no such group, or it is not yours to see")
        group = db.scalar(select(Group).where(Group.id == asked.group_id, scope(actor, Action.GROUPS_READ)))
        if group is None:
            raise NotFound("there is no such group, or it is not yours to see")
        members = select(GroupMember.person_id).where(GroupMember.group_id == group.id)
        conditions.append(Enrolment.person_id.in_(members))
        titles.append(group.name)
    if asked.school_id is not None:
        school = db.get(School, asked.school_id)
        if school is None:
            raise NotFound("there is no such school")
        conditions.append(SchoolClass.school_id == school.id)
        titles.append(school.name)
    if asked.grade:
        conditions.append(SchoolClass.grade == asked.grade)
        titles.append(f"grade {asked.grade}" if titles else f"Grade {asked.grade}")
    if asked.people:
        if len(asked.people) > MOST_CHOSEN:
            raise Invalid(f"choose at most {MOST_CHOSEN} students", "people")
        conditions.append(Enrolment.person_id.in_(asked.people))
        titles.append(counted(len(asked.people), "student"))
    if not titles:
        raise Invalid("choose a class, a group, a grade, a school or some students", "klass")
    students, grades = _enrolled(db, conditions)
    return Who(
        title=", ".join(titles),
        subject=asked.subject,
        grade=grades.pop() if len(grades) == 1 else "",
        school_id=asked.school_id,
        class_id=None,
        students=students,
    )


def _enrolled(db: Session, conditions: Iterable[ColumnElement[bool]]) -> tuple[list[InClass], set[str]]:
    rows = db.execute(
        select(Person.id, Person.given, Person.family, SchoolClass.grade)
        .join(Enrolment, Enrolment.person_id == Person.id)
        .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
        .where(
            Enrolment.role == "student",
            Enrolment.active.is_(True),
            SchoolClass.active.is_(True),
            Person.active.is_(True),
            *conditions,
        )
        .order_by(Person.family, Person.given, Person.id)
    ).all()
    students = {id: InClass(id, f"{given} {family}") for id, given, family, _ in rows}
    return list(students.values()), {grade for *_, grade in rows}


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


def students_of_grade(db: Session, subject: str, grades: Sequence[str], school_id: int | None = None) -> list[int]:
    """Of all classes of a subject and some grades in the district or in a school, for comparison."""
    wanted = [SchoolClass.subject == subject, SchoolClass.grade.in_(grades), SchoolClass.active.is_(True)]
    if school_id is not None:
        wanted.append(SchoolClass.school_id == school_id)
    return list(
        db.scalars(
            select(Enrolment.person_id)
            .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
            .where(*wanted, Enrolment.role == "student", Enrolment.active.is_(True))
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
