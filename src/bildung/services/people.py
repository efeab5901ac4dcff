"""The people of the federation: finding who is there, and a person's own page."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from bildung.services import audit
from bildung.services.access import Action, Actor, scope
from bildung.services.codes import STUDENT_LENGTH, new_code
from bildung.services.context import Context
from bildung.services.errors import NotFound
from bildung.store.models import (
    Enrolment,
    Person,
    PlannedSession,
    Role,
    School,
    SchoolClass,
    Sitting,
)

@dataclass(frozen=True)
class PersonLine:
    id: int
    name: str
    student: bool
    grade: str
    school: str
    classes: str
    roles: str
    code: str | None


def list_people(ctx: Context, actor: Actor, find: str = "", limit: int = 100) -> tuple[list[PersonLine], int]:
    """People in scope by name, and how many there are in all."""
    allowed = scope(actor, Action.PEOPLE_READ)
    with ctx.store.read() as db:
        wanted = select(Person).where(allowed, Person.active.is_(True))
        for word in find.split():
            like = f"%{word.replace('%', '')}%"
            wanted = wanted.where(or_(Person.given.ilike(like), Person.family.ilike(like), Person.code == word.upper()))
        total = db.scalar(select(func.count()).select_from(wanted.subquery())) or 0
        people = db.scalars(wanted.order_by(Person.family, Person.given, Person.id).limit(limit)).all()
        ids = [person.id for person in people]
        classes: dict[int, list[str]] = {}
        for person_id, title in db.execute(
            select(Enrolment.person_id, SchoolClass.title).join(SchoolClass, SchoolClass.id == Enrolment.class_id)
            .where(Enrolment.person_id.in_(ids), Enrolment.active.is_(True)).order_by(SchoolClass.title)
        ):  # fmt: skip
            classes.setdefault(person_id, []).append(title)
        roles: dict[int, list[str]] = {}
        for role in db.scalars(select(Role).where(Role.person_id.in_(ids)).order_by(Role.role)):
            roles.setdefault(role.person_id, []).append(role.role)
        schools = {school.id: school.name for school in db.scalars(select(School))}
        return [
            PersonLine(
                p.id, p.name, p.student, p.grade, schools.get(p.school_id or 0, ""), ", ".join(classes.get(p.id, [])),
                ", ".join(roles.get(p.id, [])), p.code,
            )
            for p in people
        ], total  # fmt: skip


def overview(ctx: Context, actor: Actor) -> dict[str, Any]:
    """Counts for the head of the page, within this person's scope."""
    allowed, classes = scope(actor, Action.PEOPLE_READ), scope(actor, Action.CLASSES_READ)
    with ctx.store.read() as db:
        in_force = select(func.count()).select_from(Person).where(allowed, Person.active.is_(True))
        students = db.scalar(in_force.where(Person.student.is_(True))) or 0
        staff = db.scalar(in_force.where(Person.kind == "staff")) or 0
        number = db.scalar(
            select(func.count()).select_from(SchoolClass).where(classes, SchoolClass.active.is_(True))
        ) or 0  # fmt: skip
        grades = db.execute(
            select(Person.grade, func.count()).where(allowed, Person.active.is_(True), Person.student.is_(True))
            .group_by(Person.grade).order_by(Person.grade)
        ).all()  # fmt: skip
        in_no_class = db.scalar(
            in_force.where(
                Person.student.is_(True),
                ~select(Enrolment.id).where(Enrolment.person_id == Person.id, Enrolment.active.is_(True)).exists(),
            )
        ) or 0  # fmt: skip
    finding = f"{students} students and {staff} staff in {number} classes."
    if in_no_class:
        finding += f" {in_no_class} {'student is' if in_no_class == 1 else 'students are'} in no class."
    if not students:
        finding = "Nobody is here yet. Bring in the roster from the school's records."
    return {
        "finding": finding,
        "students": students, "staff": staff, "classes": number, "in_no_class": in_no_class,
        "grades": [{"grade": grade, "students": count} for grade, count in grades],
    }  # fmt: skip


@dataclass(frozen=True)
class SittingOf:
    session_id: int
    form: str
    window: str
    klass: str
    at: datetime
    state: str


@dataclass(frozen=True)
class PersonPage:
    finding: str
    person: PersonLine
    source_id: str
    username: str | None
    classes: list[tuple[str, str]]
    sittings: list[SittingOf]
    may_settle: bool


def get_person(ctx: Context, actor: Actor, person_id: int) -> PersonPage:
    """A person with classes and, for a student, every sitting in a session that the asker may see."""
    allowed = scope(actor, Action.PEOPLE_READ)
    with ctx.store.read() as db:
        p = db.scalar(select(Person).where(Person.id == person_id, allowed))
        if p is None:
            raise NotFound("there is no such person, or they are not yours to see")
        classes = [
            (title, role)
            for title, role in db.execute(
                select(SchoolClass.title, Enrolment.role).join(Enrolment, Enrolment.class_id == SchoolClass.id)
                .where(Enrolment.person_id == p.id, Enrolment.active.is_(True)).order_by(SchoolClass.title)
            )
        ]  # fmt: skip
        sessions = (
            select(PlannedSession, Sitting.state).join(Sitting, Sitting.session_id == PlannedSession.id)
            .where(Sitting.person_id == p.id, scope(actor, Action.SESSIONS_READ)).order_by(PlannedSession.start.desc())
        )  # fmt: skip
        sittings = [
            SittingOf(s.id, s.form.name, s.window.name, s.klass.title, s.start, state)
            for s, state in db.execute(sessions)
        ]
        roles = ", ".join(db.scalars(select(Role.role).where(Role.person_id == p.id).order_by(Role.role)))
        school = db.get(School, p.school_id) if p.school_id else None
        line = PersonLine(
            p.id,
            p.name,
            p.student,
            p.grade,
            school.name if school else "",
            ", ".join(t for t, _ in classes),
            roles,
            p.code,
        )
        may = actor.may(Action.PEOPLE_SETTLE)
    return PersonPage(_person_finding(line, p.active, sittings), line, p.source_id, p.username, classes, sittings, may)


def _person_finding(line: PersonLine, active: bool, sittings: list[SittingOf]) -> str:
    if not active:
        return f"{line.name} is set aside: no longer on any list, results stay."
    if not line.student:
        return f"{line.name}, {line.roles or 'without a role'}, {line.classes or 'no class'}."
    sat = sum(s.state == "handed_in" for s in sittings)
    absent = sum(s.state == "absent" for s in sittings)
    finding = f"{line.name}, grade {line.grade}: {sat} {'test' if sat == 1 else 'tests'} sat"
    return finding + (
        f", absent from {absent} that still {'needs' if absent == 1 else 'need'} a time." if absent else "."
    )


def new_own_code(ctx: Context, actor: Actor, person_id: int) -> str:
    """For a lost card: the old code opens nothing from now on."""
    allowed = scope(actor, Action.PEOPLE_SETTLE)

    def work(db: Session) -> str:
        person = db.scalar(select(Person).where(Person.id == person_id, allowed, Person.student.is_(True)))
        if person is None:
            raise NotFound("there is no such student, or they are not yours")
        taken = {code for code in db.scalars(select(Person.code)) if code}
        person.code = new_code(STUDENT_LENGTH, taken)
        audit.record(db, ctx.clock(), actor.person_id, "person.new_code", f"person:{person.id}")
        return person.code

    return ctx.store.write(work)
