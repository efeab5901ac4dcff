"""The people of the federation: finding who is there, and a person's own page."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Annotated, Any

from sqlalchemy import ColumnElement, and_, case, false, func, literal, or_, select
from sqlalchemy.orm import Session

from bildung.core.accommodations.holding import Needs
from bildung.core.school.usernames import normal_username
from bildung.services.calendar.years import local_today
from bildung.services.owed.accommodated import NONE, of_people, said
from bildung.services.people.accommodations import AccommodationChoices, AccommodationLine, choices, lines_of
from bildung.services.people.colleagues import RoleLine, roles_of
from bildung.services.people.kin import FamilyLine, families_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.codes import STUDENT_LENGTH, new_code
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id, Ref, Word, listed
from bildung.store.models import (
    Attribute,
    AttributeValue,
    Enrolment,
    FamilyLink,
    Group,
    GroupMember,
    Person,
    PlannedSession,
    ProviderAccount,
    Role,
    School,
    SchoolClass,
    Sitting,
)


@dataclass(frozen=True, kw_only=True)
class PersonLine:
    """kind: staff, student or family."""

    id: Id
    name: str
    student: bool
    grade: str
    school: str
    classes: str
    roles: str
    code: str | None
    kind: str = "student"


def _named(find: str) -> tuple[list[ColumnElement[bool]], ColumnElement[int]]:
    """Who is meant by what was typed, and in what order: initials (two letters typed together) first, then whose
    names begin so, then whose names hold it somewhere. The store's LIKE takes ASCII letters of either case."""
    words = [word.replace("%", "").replace("_", "") for word in find.split()]
    words = [word for word in words if word]
    if not words:
        return [], literal(0)
    fits: list[ColumnElement[bool]] = []
    initials: ColumnElement[bool] = false()
    if len(words) == 1 and len(words[0]) == 2:
        initials = and_(Person.given.like(f"{words[0][0]}%"), Person.family.like(f"{words[0][1]}%"))
    elif len(words) == 2 and all(len(word) == 1 for word in words):
        initials = and_(Person.given.like(f"{words[0]}%"), Person.family.like(f"{words[1]}%"))
    begins: list[ColumnElement[bool]] = []
    for word in words:
        begins.append(or_(Person.family.like(f"{word}%"), Person.given.like(f"{word}%")))
        fits.append(
            or_(
                Person.given.like(f"%{word}%"),
                Person.family.like(f"%{word}%"),
                Person.code == word.upper(),
                Person.source_id == word,
                Person.username == normal_username(word),
            )
        )
    return [or_(initials, and_(*fits))], case((initials, 0), (and_(*begins), 1), else_=2)


def list_people(
    ctx: Context, actor: Actor, find: str = "", limit: int = 100, kind: str = ""
) -> tuple[list[PersonLine], int]:
    """People in scope by name, and how many there are in all."""
    allowed = scope(actor, Action.PEOPLE_READ)
    with ctx.store.read() as db:
        wanted = select(Person).where(allowed, Person.active.is_(True), Person.kind != "substitute")
        if kind:
            wanted = wanted.where(Person.kind == kind)
        elif not find.strip():  # families are found by asking for them
            wanted = wanted.where(Person.kind != "family")
        fits, rank = _named(find)
        wanted = wanted.where(*fits)
        total = db.scalar(select(func.count()).select_from(wanted.subquery())) or 0
        people = db.scalars(wanted.order_by(rank, Person.family, Person.given, Person.id).limit(limit)).all()
        ids = [person.id for person in people]
        classes: dict[int, list[str]] = {}
        for person_id, title in db.execute(
            select(Enrolment.person_id, SchoolClass.title)
            .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
            .where(Enrolment.person_id.in_(ids), Enrolment.active.is_(True))
            .order_by(SchoolClass.title)
        ):
            classes.setdefault(person_id, []).append(title)
        roles: dict[int, list[str]] = {}
        for role in db.scalars(select(Role).where(Role.person_id.in_(ids)).order_by(Role.role)):
            roles.setdefault(role.person_id, []).append(role.role)
        schools = {school.id: school.name for school in db.scalars(select(School))}
        open_codes = _with_codes(db, actor, ids)
        return [
            PersonLine(
                id=p.id,
                name=p.name,
                student=p.student,
                grade=p.grade,
                school=schools.get(p.school_id or 0, ""),
                classes=", ".join(classes.get(p.id, [])),
                roles=", ".join(roles.get(p.id, [])) or ("family" if p.kind == "family" else ""),
                code=p.code if p.id in open_codes else None,
                kind=p.kind,
            )
            for p in people
        ], total


def overview(ctx: Context, actor: Actor) -> dict[str, Any]:
    """Counts for the head of the page, within this person's scope."""
    allowed = scope(actor, Action.PEOPLE_READ)
    classes = scope(actor, Action.CLASSES_READ) if actor.may(Action.CLASSES_READ) else false()
    with ctx.store.read() as db:
        in_force = select(func.count()).select_from(Person).where(allowed, Person.active.is_(True))
        students = db.scalar(in_force.where(Person.student.is_(True))) or 0
        staff = db.scalar(in_force.where(Person.kind == "staff")) or 0
        families = db.scalar(in_force.where(Person.kind == "family")) or 0
        number = (
            db.scalar(select(func.count()).select_from(SchoolClass).where(classes, SchoolClass.active.is_(True))) or 0
        )
        grades = db.execute(
            select(Person.grade, func.count())
            .where(allowed, Person.active.is_(True), Person.student.is_(True))
            .group_by(Person.grade)
            .order_by(Person.grade)
        ).all()
        in_no_class = (
            db.scalar(
                in_force.where(
                    Person.student.is_(True),
                    ~select(Enrolment.id).where(Enrolment.person_id == Person.id, Enrolment.active.is_(True)).exists(),
                )
            )
            or 0
        )
    finding = f"{students} students and {staff} staff in {number} classes"
    finding += f", {families} families." if families else "."
    if in_no_class:
        finding += f" {in_no_class} {'student is' if in_no_class == 1 else 'students are'} in no class."
    if not students:
        finding = "No one is here yet. Import the roster from the school's records."
    return {
        "finding": finding,
        "students": students,
        "staff": staff,
        "classes": number,
        "in_no_class": in_no_class,
        "grades": [{"grade": grade, "students": count} for grade, count in grades],
    }


@dataclass(frozen=True, kw_only=True)
class SittingOf:
    session_id: Id
    form: str
    window: str
    klass: str
    at: datetime
    state: str


@dataclass(frozen=True, kw_only=True)
class ClassOf:
    """active: in it now. past: the class is of an earlier year."""

    id: Id
    title: str
    role: str
    begins: date | None
    ends: date | None
    active: bool
    past: bool


@dataclass(frozen=True, kw_only=True)
class PersonPage:
    """accommodations: empty where the asker may not see them. choices: what may be entered. children: of a family."""

    finding: str
    person: PersonLine
    source_id: str
    username: str | None
    active: bool
    classes: list[ClassOf]
    sittings: list[SittingOf]
    may_settle: bool
    accommodations: list[AccommodationLine]
    choices: AccommodationChoices | None
    case_manager: Ref | None
    may_enter: bool
    needs_said: str
    may_support: bool
    groups: Annotated[list[tuple[int, str]], listed(Ref)]
    attributes: Annotated[list[tuple[str, str]], listed(Word)]
    families: list[FamilyLine]
    children: Annotated[list[tuple[int, str]], listed(Ref)]
    roles: list[RoleLine]
    may_grant: bool
    last_sign_in_at: datetime | None
    last_place: str
    accounts: list[AccountLine]


@dataclass(frozen=True)
class AccountLine:
    """An account of the sign-in provider. waits: nobody has confirmed yet that it is this person's."""

    id: Id
    name: str
    waits: bool
    at: datetime


def _accounts(db: Session, actor: Actor, person_id: int) -> list[AccountLine]:
    if not _reaches(db, actor, Action.ACCOUNTS_RESET, person_id):
        return []
    rows = db.scalars(
        select(ProviderAccount)
        .where((ProviderAccount.person_id == person_id) | (ProviderAccount.proposed_id == person_id))
        .order_by(ProviderAccount.id)
    )
    return [AccountLine(a.id, a.name or a.subject, a.person_id is None, a.at) for a in rows]


def get_person(ctx: Context, actor: Actor, person_id: int) -> PersonPage:
    """A person with classes and, for a student, every sitting in a session that the asker may see."""
    allowed = scope(actor, Action.PEOPLE_READ)
    with ctx.store.read() as db:
        p = db.scalar(select(Person).where(Person.id == person_id, allowed))
        if p is None:
            raise NotFound("there is no such person, or they are not yours to see")
        classes, sittings = _classes_of(db, p.id), _sittings_of(db, actor, p.id)
        roles = ", ".join(db.scalars(select(Role.role).where(Role.person_id == p.id).order_by(Role.role)))
        school = db.get(School, p.school_id) if p.school_id else None
        line = PersonLine(
            id=p.id,
            name=p.name,
            student=p.student,
            grade=p.grade,
            school=school.name if school else "",
            classes=", ".join(c.title for c in classes if c.active),
            roles=roles,
            code=p.code if p.id in _with_codes(db, actor, [p.id]) else None,
        )
        settles, sees, supports = (
            _reaches(db, actor, action, p.id)
            for action in (Action.PEOPLE_SETTLE, Action.SUPPORT_READ, Action.SUPPORT_WRITE)
        )
        needs = of_people(db, [p.id], local_today(ctx, db)).get(p.id, NONE) if p.student and sees else None
        enters = p.student and _reaches(db, actor, Action.SUPPORT_ENTER, p.id)
        manager = db.get(Person, p.case_manager_id) if p.case_manager_id and sees else None
        staff = p.kind == "staff" and _reaches(db, actor, Action.ROLES_GRANT, p.id)
        children = _children_of(db, p.id)
        line = replace(line, roles=line.roles or ("family" if p.kind == "family" else ""), kind=p.kind)
        return PersonPage(
            finding=_person_finding(line, p.active, sittings, needs, children),
            person=line,
            source_id=p.source_id,
            username=p.username if not p.student else None,
            active=p.active,
            classes=classes,
            sittings=sittings,
            may_settle=settles,
            accommodations=lines_of(ctx, db, p.id) if p.student and (sees or enters) else [],
            choices=choices(db) if enters else None,
            case_manager=Ref(manager.id, manager.name) if manager else None,
            may_enter=enters,
            needs_said=said(needs) if needs else "",
            may_support=supports,
            groups=_groups_of(db, actor, p.id),
            attributes=_attributes(db, actor, p, sees, supports),
            families=families_of(db, p.id) if p.student and sees else [],
            children=children,
            roles=roles_of(db, p.id) if staff else [],
            may_grant=staff,
            last_sign_in_at=p.last_sign_in_at,
            last_place=p.last_place if settles else "",
            accounts=_accounts(db, actor, p.id),
        )


def _classes_of(db: Session, person_id: int) -> list[ClassOf]:
    """Present and past ones, the present first."""
    return [
        ClassOf(
            id=k.id,
            title=k.title,
            role=e.role,
            begins=e.begins,
            ends=e.ends,
            active=e.active and k.active,
            past=not k.active,
        )
        for e, k in db.execute(
            select(Enrolment, SchoolClass)
            .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
            .where(Enrolment.person_id == person_id)
            .order_by(Enrolment.active.desc(), SchoolClass.title)
        )
    ]


def _sittings_of(db: Session, actor: Actor, person_id: int) -> list[SittingOf]:
    """In the sessions that the asker may see, the latest first."""
    seen = scope(actor, Action.SESSIONS_READ) if actor.may(Action.SESSIONS_READ) else false()
    sessions = (
        select(PlannedSession, Sitting.state)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .where(Sitting.person_id == person_id, seen)
        .order_by(PlannedSession.start.desc())
    )
    return [
        SittingOf(session_id=s.id, form=s.form.name, window=s.window.name, klass=s.klass.title, at=s.start, state=state)
        for s, state in db.execute(sessions)
    ]


def _groups_of(db: Session, actor: Actor, person_id: int) -> list[tuple[int, str]]:
    """Those that the asker may see."""
    if not actor.may(Action.GROUPS_READ):
        return []
    found = db.execute(
        select(Group.id, Group.name)
        .join(GroupMember, GroupMember.group_id == Group.id)
        .where(GroupMember.person_id == person_id, scope(actor, Action.GROUPS_READ))
        .order_by(Group.name)
    )
    return [(id, name) for id, name in found]


def _children_of(db: Session, person_id: int) -> list[tuple[int, str]]:
    """The students whose family this person is."""
    found = db.execute(
        select(Person.id, Person.given, Person.family)
        .join(FamilyLink, FamilyLink.student_id == Person.id)
        .where(FamilyLink.family_id == person_id)
        .order_by(Person.given)
    )
    return [(id, f"{given} {family}") for id, given, family in found]


def _with_codes(db: Session, actor: Actor, ids: list[int]) -> set[int]:
    """Whose sign-in code this person may see: with it one signs in as the student."""
    if not actor.may(Action.CODES_READ):
        return set()
    return set(db.scalars(select(Person.id).where(Person.id.in_(ids), scope(actor, Action.CODES_READ))))


def _reaches(db: Session, actor: Actor, action: Action, person_id: int) -> bool:
    if not actor.may(action):
        return False
    return db.scalar(select(Person.id).where(Person.id == person_id, scope(actor, action))) is not None


def _attributes(db: Session, actor: Actor, p: Person, sees: bool, all_of_them: bool) -> list[tuple[str, str]]:
    """Those whose values this asker may see: a coordinator all, others what is marked so."""
    if not sees:
        return []
    wanted = (
        select(Attribute.name, AttributeValue.value)
        .join(AttributeValue, AttributeValue.attribute_id == Attribute.id)
        .where(AttributeValue.person_id == p.id)
        .order_by(Attribute.name)
    )
    if not all_of_them:
        wanted = wanted.where(Attribute.seen_by == "teacher")
    return [(name, value) for name, value in db.execute(wanted)]


def _person_finding(
    line: PersonLine, active: bool, sittings: list[SittingOf], needs: Needs | None, children: list[tuple[int, str]]
) -> str:
    if not active:
        return f"{line.name} is archived: no longer on any list, results stay."
    if line.kind == "family":
        return f"{line.name}, family of {' and '.join(name for _, name in children) or 'no one here'}."
    if not line.student:
        return f"{line.name}, {line.roles or 'no role'}, {line.classes or 'no class'}."
    sat = sum(s.state == "handed_in" for s in sittings)
    absent = sum(s.state == "absent" for s in sittings)
    finding = f"{line.name}, grade {line.grade}: {sat} {'test' if sat == 1 else 'tests'} taken"
    finding += f", absent from {absent} that still {'needs' if absent == 1 else 'need'} a makeup." if absent else "."
    return finding + (f" Accommodations: {said(needs)}." if needs and said(needs) else "")


def new_own_code(ctx: Context, actor: Actor, person_id: int) -> str:
    """For a lost test ticket: the old code opens nothing from now on."""
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
