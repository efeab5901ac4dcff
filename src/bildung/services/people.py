"""The people of the federation: bringing a roster in, finding who is there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any, TypeVar

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from bildung.formats.oneroster import Roster, read_roster
from bildung.services import audit
from bildung.services.access import Action, Actor, scope
from bildung.services.codes import STUDENT_LENGTH, new_code
from bildung.services.context import Context
from bildung.services.errors import NotFound
from bildung.services.rosters import follow_class
from bildung.services.staging import Line, Preview, decide, stage
from bildung.store.models import (
    AcademicSession,
    Base,
    Enrolment,
    Person,
    PlannedSession,
    Role,
    School,
    SchoolClass,
    Sitting,
)

M = TypeVar("M", bound=Base)
LOCAL = "local:"  # people made here, whom no records file knows


def preview_roster(ctx: Context, actor: Actor, files: dict[str, bytes]) -> Preview:
    scope(actor, Action.PEOPLE_IMPORT)
    return stage(ctx, actor, "people", files, plan_roster)


def apply_roster(ctx: Context, actor: Actor, id: str) -> Preview:
    scope(actor, Action.PEOPLE_IMPORT)
    return decide(ctx, actor, "people", id, plan_roster)


def plan_roster(
    db: Session, files: dict[str, bytes], apply: bool, code: Callable[[set[str]], str] | None = None
) -> list[Line]:
    """What becomes of each row of a OneRoster bulk file; with `apply` it is done."""
    return _RosterPlan(db, read_roster(files), apply, code).lines()


class _RosterPlan:
    def __init__(self, db: Session, roster: Roster, apply: bool, code: Callable[[set[str]], str] | None = None) -> None:
        self.db, self.roster, self.apply = db, roster, apply
        self.code = code or (lambda taken: new_code(STUDENT_LENGTH, taken))
        self.found: list[Line] = []

    def lines(self) -> list[Line]:
        schools = self._table(
            "school", School, "source_id",
            {o.id: {"name": o.name} for o in self.roster.orgs if o.kind == "school"}, lambda _, row: str(row["name"]),
        )  # fmt: skip
        self._table(
            "academic session", AcademicSession, "source_id",
            {s.id: {"title": s.title, "kind": s.kind, "start": s.start, "end": s.end} for s in self.roster.sessions},
            lambda _, row: str(row["title"]),
        )  # fmt: skip
        people = self._people(schools)
        classes = self._table(
            "class", SchoolClass, "source_id",
            {
                c.id: {
                    "title": c.title, "school_id": self._school(schools, c.school), "subject": c.subject,
                    "grade": c.grade, "location": c.location, "active": True,
                }
                for c in self.roster.classes
            },
            lambda _, row: str(row["title"]),
        )  # fmt: skip
        self._enrolments(people, classes)
        self._departed(schools)
        self.found += [
            Line("left_out", left.file, left.id, f"line {left.line}", left.reason) for left in self.roster.left_out
        ]
        if self.apply:
            self.db.flush()
            for session in self.db.scalars(select(PlannedSession).where(PlannedSession.closed_at.is_(None))):
                follow_class(self.db, session)
        return self.found

    def _school(self, schools: dict[str, School], key: str) -> int | str | None:
        """The school's id; while planning, a placeholder for one that this file adds."""
        return schools[key].id if key in schools else f"new:{key}" if key else None

    def _shown(self, name: str, value: Any) -> str:
        if name == "school_id" and value is not None:
            if isinstance(value, str):
                return next(org.name for org in self.roster.orgs if f"new:{org.id}" == value)
            return self.db.get_one(School, value).name
        return "–" if value in (None, "") else "yes" if value is True else "no" if value is False else str(value)

    def _table(
        self, what: str, model: type[M], key: str, wanted: dict[str, dict[str, Any]],
        label: Callable[[str, dict[str, Any]], str],
    ) -> dict[str, M]:  # fmt: skip
        """Add or change rows of one table; returns them by source id (while only planning, what is there)."""
        known = {getattr(row, key): row for row in self.db.scalars(select(model)) if getattr(row, key) in wanted}
        for id, values in wanted.items():
            row = known.get(id)
            if row is None:
                self.found.append(Line("added", what, id, label(id, values)))
                if self.apply:
                    known[id] = model(**{key: id}, **values)
                    self.db.add(known[id])
                continue
            changes = {n: (getattr(row, n), new) for n, new in values.items() if getattr(row, n) != new}
            if changes:
                detail = "; ".join(
                    f"{_word(n)}: {self._shown(n, old)} → {self._shown(n, new)}" for n, (old, new) in changes.items()
                )
                self.found.append(Line("changed", what, id, label(id, values), detail))
                if self.apply:
                    for name, (_, new) in changes.items():
                        setattr(row, name, new)
            else:
                self.found.append(Line("same", what, id, label(id, values)))
        if self.apply:
            self.db.flush()
        return known

    def _people(self, schools: dict[str, School]) -> dict[str, Person]:
        names = {u.username for u in self.roster.users if u.username and u.role != "student"}
        held = {
            p.username: p.source_id for p in self.db.scalars(select(Person).where(Person.username.in_(names)))
        }  # fmt: skip
        wanted: dict[str, dict[str, Any]] = {}
        for user in self.roster.users:
            values: dict[str, Any] = {
                "given": user.given, "family": user.family, "student": user.role == "student", "grade": user.grade,
                "school_id": self._school(schools, user.school), "active": True,
            }  # fmt: skip
            if user.role != "student" and user.username:
                if held.setdefault(user.username, user.id) == user.id:
                    values["username"] = user.username
                else:
                    self.found.append(
                        Line(
                            "left_out",
                            "user name",
                            user.username,
                            f"{user.given} {user.family}",
                            "taken by another person",
                        )
                    )
            wanted[user.id] = values
        known_before = set(self.db.scalars(select(Person.source_id)))
        roles = {u.id: u.role for u in self.roster.users}

        def label(id: str, row: dict[str, Any]) -> str:
            name = f"{row['given']} {row['family']}".strip()
            return name if row["student"] else f"{name}, {roles[id]}"

        people = self._table("person", Person, "source_id", wanted, label)
        if self.apply:
            taken = set(self.db.scalars(select(Person.code).where(Person.code.is_not(None))))
            codes = {code for code in taken if code}
            for user in self.roster.users:
                person = people[user.id]
                if person.student and person.code is None:
                    person.code = self.code(codes)
                if user.id not in known_before and user.role != "student":
                    self.db.add(Role(person_id=person.id, role=user.role, school_id=person.school_id))
        return people

    def _enrolments(self, people: dict[str, Person], classes: dict[str, SchoolClass]) -> None:
        names = {u.id: f"{u.given} {u.family}".strip() for u in self.roster.users}
        titles = {c.id: c.title for c in self.roster.classes}
        known = {
            (e.class_id, e.person_id): e
            for e in self.db.scalars(
                select(Enrolment).where(Enrolment.class_id.in_([c.id for c in classes.values() if c.id is not None]))
            )
        }  # fmt: skip
        kept: set[tuple[int, int]] = set()
        for enrolment in self.roster.enrolments:
            label = f"{names[enrolment.user]} in {titles[enrolment.klass]}"
            klass, person = classes.get(enrolment.klass), people.get(enrolment.user)
            row = None
            if klass is not None and person is not None:
                kept.add((klass.id, person.id))
                row = known.get((klass.id, person.id))
            if row is None:
                self.found.append(Line("added", "enrolment", enrolment.id, label))
                if self.apply:
                    assert klass is not None and person is not None
                    self.db.add(Enrolment(class_id=klass.id, person_id=person.id, role=enrolment.role))
            elif not row.active or row.role != enrolment.role:
                self.found.append(Line("changed", "enrolment", enrolment.id, label, f"again as {enrolment.role}"))
                if self.apply:
                    row.active, row.role = True, enrolment.role
            else:
                self.found.append(Line("same", "enrolment", enrolment.id, label))
        for key, row in known.items():
            if row.active and key not in kept:
                person, klass = self.db.get_one(Person, row.person_id), self.db.get_one(SchoolClass, row.class_id)
                detail = "no longer in the file: leaves the class, results stay"
                self.found.append(Line("changed", "enrolment", str(row.id), f"{person.name} in {klass.title}", detail))
                if self.apply:
                    row.active = False

    def _departed(self, schools: dict[str, School]) -> None:
        """People and classes of these schools that a bulk file no longer has: kept with their results, set aside."""
        ids = [school.id for school in schools.values() if school.id is not None]
        people, classes = {u.id for u in self.roster.users}, {c.id for c in self.roster.classes}
        for person in self.db.scalars(
            select(Person).where(Person.school_id.in_(ids), Person.active.is_(True)).order_by(Person.source_id)
        ):
            if person.source_id not in people and not person.source_id.startswith(LOCAL):
                detail = "no longer in the file: set aside, results stay"
                self.found.append(Line("changed", "person", person.source_id, person.name, detail))
                if self.apply:
                    person.active = False
        for klass in self.db.scalars(
            select(SchoolClass).where(SchoolClass.school_id.in_(ids), SchoolClass.active.is_(True))
        ):
            if klass.source_id not in classes:
                detail = "no longer in the file: set aside, results stay"
                self.found.append(Line("changed", "class", klass.source_id, klass.title, detail))
                if self.apply:
                    klass.active = False


def _word(name: str) -> str:
    return {"school_id": "school", "given": "given name", "family": "family name"}.get(name, name)


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
        staff = db.scalar(in_force.where(Person.student.is_(False))) or 0
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
