"""Classes: who is in them, who has ever signed in, letting newcomers in, and their printed codes."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import date, datetime
from typing import Annotated, Any
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.school.names import alike
from bildung.reports.cards import TicketSheet, code_sheets, session_cards
from bildung.services.calendar.years import current_year, local_today
from bildung.services.owed import accommodated
from bildung.services.people.changes import LOCAL, moved
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.addresses import site_address, with_warning
from bildung.services.shared.codes import SESSION_LENGTH, STUDENT_LENGTH, as_typed, new_code
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.throttle import JOINING, count_try
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, Ref, listed
from bildung.store.models import (
    Enrolment,
    Federation,
    JoinRequest,
    Person,
    PlannedSession,
    School,
    SchoolClass,
    SchoolYear,
)

MOST_WAITING = 60
MOST_SHEETS = 200


@dataclass(frozen=True, kw_only=True)
class ClassLine:
    """students: in it now. signed_in: of those, how many ever have. waiting: who asks to be let in."""

    id: Id
    title: str
    subject: str
    grade: str
    course: str
    period: str
    homeroom: bool
    school: str
    teachers: str
    students: int
    signed_in: int
    waiting: int
    year: str


@dataclass(frozen=True, kw_only=True)
class ClassStudent:
    """begins: joined later than the class began. last_place: where the federation keeps it."""

    id: Id
    name: str
    code: str | None
    begins: date | None
    last_sign_in_at: datetime | None
    last_place: str
    needs: str


@dataclass(frozen=True, kw_only=True)
class Asking:
    """matches: students of the school with a name alike whom this person may see, so that nobody is made twice. others:
    how many more there are, about whom a coordinator decides."""

    id: Id
    name: str
    at: datetime
    matches: Annotated[list[tuple[int, str]], listed(Ref)]
    others: int


@dataclass(frozen=True, kw_only=True)
class ClassPage:
    finding: str
    klass: ClassLine
    code: str | None
    open_door: bool
    teachers: Annotated[list[tuple[int, str]], listed(Ref)]
    students: list[ClassStudent]
    left: list[str]
    asking: list[Asking]
    may_run: bool


def list_classes(
    ctx: Context, actor: Actor, year_id: int | None = None
) -> tuple[str, list[ClassLine], list[tuple[int, str]], int | None]:
    """The finding, the classes of a year in this person's scope (the present one's unless asked), the years there
    are, and the one shown. Last year's stay open to those who taught them."""
    allowed = scope(actor, Action.CLASSES_READ)
    with ctx.store.read() as db:
        years = db.scalars(select(SchoolYear).order_by(SchoolYear.start.desc())).all()
        now = current_year(db, local_today(ctx, db))
        shown = year_id if year_id is not None else now.id if now else None
        wanted = select(SchoolClass).where(allowed)
        present = now is None or shown == now.id
        wanted = wanted.where(SchoolClass.active.is_(True) if present else SchoolClass.year_id == shown)
        classes = db.scalars(wanted.order_by(SchoolClass.subject, SchoolClass.grade, SchoolClass.title)).all()
        lines = _lines(db, classes, present)
    students, signed = sum(c.students for c in lines), sum(c.signed_in for c in lines)
    waiting = sum(c.waiting for c in lines)
    if not lines:
        finding = "No class in this year."
    else:
        finding = f"{len(lines)} {'class' if len(lines) == 1 else 'classes'} with {students:,} {'enrollment' if students == 1 else 'enrollments'}; in {signed:,} of them the student has signed in."
        if waiting:
            finding += f" {waiting} join {'request is' if waiting == 1 else 'requests are'} open."
    return finding, lines, [(y.id, y.title) for y in years], shown


def _lines(db: Session, classes: Any, present: bool) -> list[ClassLine]:
    ids = [c.id for c in classes]
    counts: dict[int, tuple[int, int]] = {}
    rows = (
        select(Enrolment.class_id, func.count(), func.count(Person.last_sign_in_at))
        .join(Person, Person.id == Enrolment.person_id)
        .where(Enrolment.role == "student", Enrolment.class_id.in_(ids))
        .group_by(Enrolment.class_id)
    )
    if present:
        rows = rows.where(Enrolment.active.is_(True), Person.active.is_(True))
    for id, n, signed in db.execute(rows):
        counts[id] = n, signed
    teachers: dict[int, list[str]] = {}
    for id, given, family in db.execute(
        select(Enrolment.class_id, Person.given, Person.family)
        .join(Person, Person.id == Enrolment.person_id)
        .where(Enrolment.role == "teacher", Enrolment.class_id.in_(ids), Enrolment.active.is_(True) | (not present))
        .order_by(Person.family)
    ):
        teachers.setdefault(id, []).append(f"{given} {family}")
    waiting = {
        id: n
        for id, n in db.execute(
            select(JoinRequest.class_id, func.count())
            .where(JoinRequest.state == "waiting", JoinRequest.class_id.in_(ids))
            .group_by(JoinRequest.class_id)
        )
    }
    schools = {s.id: s.name for s in db.scalars(select(School))}
    years = {y.id: y.title for y in db.scalars(select(SchoolYear))}
    return [
        ClassLine(
            id=c.id,
            title=c.title,
            subject=c.subject,
            grade=c.grade,
            course=c.course,
            period=c.period,
            homeroom=c.homeroom,
            school=schools[c.school_id],
            teachers=", ".join(teachers.get(c.id, [])),
            students=counts.get(c.id, (0, 0))[0],
            signed_in=counts.get(c.id, (0, 0))[1],
            waiting=waiting.get(c.id, 0),
            year=years.get(c.year_id or 0, ""),
        )
        for c in classes
    ]


def get_class(ctx: Context, actor: Actor, class_id: int) -> ClassPage:
    """One class: who is in it, who has signed in, who asks to be let in."""
    with ctx.store.read() as db:
        klass = _get(db, actor, Action.CLASSES_READ, class_id)
        may_run = _reaches(db, actor, class_id)
        line = _lines(db, [klass], klass.active)[0]
        rows = db.execute(
            select(Enrolment, Person)
            .join(Person, Person.id == Enrolment.person_id)
            .where(Enrolment.class_id == klass.id)
            .order_by(Person.family, Person.given, Person.id)
        ).all()
        is_in = [(e, p) for e, p in rows if (e.active and p.active) or not klass.active]
        ids = [p.id for e, p in is_in if e.role == "student"]
        needs = (
            accommodated.of_people(db, ids, local_today(ctx, db)) if actor.may(Action.SUPPORT_READ) and may_run else {}
        )
        students = [
            ClassStudent(
                id=p.id,
                name=p.name,
                code=p.code if may_run else None,
                begins=e.begins,
                last_sign_in_at=p.last_sign_in_at,
                last_place=p.last_place if may_run else "",
                needs=accommodated.said(needs.get(p.id, accommodated.NONE)),
            )
            for e, p in is_in
            if e.role == "student"
        ]
        teachers = [(p.id, p.name) for e, p in is_in if e.role == "teacher"]
        dates = dates_of(db)
        left = [
            f"{p.name} ({dates.short(e.ends)})" if e.ends else p.name
            for e, p in rows
            if e.role == "student" and klass.active and not (e.active and p.active)
        ]
        asking = _asking(db, actor, klass) if may_run else []
    never = sum(s.last_sign_in_at is None for s in students)
    finding = f"{line.title}: {len(students)} {'student' if len(students) == 1 else 'students'}"
    finding += f" with {line.teachers}." if line.teachers else ", and no teacher."
    if students and never:
        finding += f" {never} {'has' if never == 1 else 'have'} never signed in."
    if asking:
        finding += f" {len(asking)} join {'request is' if len(asking) == 1 else 'requests are'} open."
    return ClassPage(
        finding=finding,
        klass=line,
        code=klass.code if may_run else None,
        open_door=klass.open_door,
        teachers=teachers,
        students=students,
        left=left,
        asking=asking,
        may_run=may_run,
    )


def _asking(db: Session, actor: Actor, klass: SchoolClass) -> list[Asking]:
    waiting = db.scalars(
        select(JoinRequest)
        .where(JoinRequest.class_id == klass.id, JoinRequest.state == "waiting")
        .order_by(JoinRequest.id)
    )
    found = []
    for r in waiting:
        mine, others = _same_name(db, actor, klass, f"{r.given} {r.family}")
        matches = [(p.id, f"{p.name}, grade {p.grade or '?'} ({p.source_id})") for p in mine]
        found.append(Asking(id=r.id, name=f"{r.given} {r.family}", at=r.at, matches=matches, others=others))
    return found


def _same_name(db: Session, actor: Actor, klass: SchoolClass, name: str) -> tuple[list[Person], int]:
    """Students of the school whose name is alike: those whom this person may see, and how many others there are."""
    school = (Person.kind == "student") & Person.active.is_(True) & (Person.school_id == klass.school_id)
    people = [p for p in db.scalars(select(Person).where(school).order_by(Person.id)) if alike(p.name, name)]
    seen = set(
        db.scalars(select(Person.id).where(Person.id.in_([p.id for p in people]), scope(actor, Action.PEOPLE_READ)))
    )
    return [p for p in people if p.id in seen], len(people) - len(seen)


def set_door(ctx: Context, actor: Actor, class_id: int, is_open: bool, fresh_code: bool) -> str:
    """Whether newcomers may ask with the class code; and a new code where the old one got about."""

    def work(db: Session) -> str:
        klass = _get(db, actor, Action.CLASSES_RUN, class_id)
        klass.open_door = is_open
        if fresh_code or klass.code is None:
            taken = set(db.scalars(select(PlannedSession.code))) | {
                c for c in db.scalars(select(SchoolClass.code)) if c
            }
            klass.code = new_code(SESSION_LENGTH, taken)
        after = {"open_door": is_open, "new_code": fresh_code}
        audit.record(db, ctx.clock(), actor.person_id, "class.door", f"class:{klass.id}", None, after)
        return klass.code

    return ctx.store.write(work)


def ask_to_join(ctx: Context, code: str, given: str, family: str, address: str) -> str:
    """Somebody types a class code and their name; the ticket is what their device waits with."""
    now = ctx.clock()
    count_try(ctx, JOINING, address)  # every try counts: a form open to anybody
    given, family = need_text(given, "given", 60), need_text(family, "family", 60)
    ticket = secrets.token_urlsafe(24)

    def work(db: Session) -> str:
        klass = db.scalar(
            select(SchoolClass).where(
                SchoolClass.code == as_typed(code), SchoolClass.active.is_(True), SchoolClass.open_door.is_(True)
            )
        )
        if klass is None:
            raise Invalid("no class accepts join requests with this code; ask your teacher", "code")
        waiting = db.scalars(
            select(JoinRequest).where(JoinRequest.class_id == klass.id, JoinRequest.state == "waiting")
        ).all()
        if any((r.given.lower(), r.family.lower()) == (given.lower(), family.lower()) for r in waiting):
            raise Conflict("a request with this name is already waiting for your teacher", "family")
        if len(waiting) >= MOST_WAITING:
            raise Conflict("too many requests are waiting for this class; your teacher decides first", "code")
        db.add(JoinRequest(class_id=klass.id, given=given, family=family, ticket_hash=_hash(ticket), at=now))
        return ticket

    return ctx.store.write(work)


def ticket_state(ctx: Context, ticket: str) -> dict[str, str]:
    """waiting, let_in or refused. Codes are never told to the device that asks: anybody may have typed a name. Whoever
    let the student in hands the code over."""
    with ctx.store.read() as db:
        row = db.scalar(select(JoinRequest).where(JoinRequest.ticket_hash == _hash(ticket)))
        if row is None:
            raise NotFound("this request is no longer waiting; ask your teacher")
        return {"state": row.state, "klass": db.get_one(SchoolClass, row.class_id).title}


def settle_request(
    ctx: Context, actor: Actor, request_id: int, let_in: bool, person_id: int | None, why: str = ""
) -> None:
    """The teacher decides: a student who is here already, a new one, or nobody. why: needed where the student who was
    chosen has another name than the one that was typed; it stands in the log."""

    def work(db: Session) -> None:
        row = db.get(JoinRequest, request_id)
        klass = None if row is None else _get(db, actor, Action.CLASSES_RUN, row.class_id)
        if row is None or klass is None:
            raise NotFound("there is no such request, or it is not yours")
        if row.state != "waiting":
            raise Conflict("this request is settled already")
        row.settled_at = ctx.clock()
        if not let_in:
            row.state = "refused"
            return
        row.state = "let_in"
        person = _who(db, actor, klass, row, person_id, why)
        row.person_id = person.id
        enrolment = db.scalar(select(Enrolment).where(Enrolment.class_id == klass.id, Enrolment.person_id == person.id))
        if enrolment is None:
            db.add(Enrolment(class_id=klass.id, person_id=person.id, role="student", begins=local_today(ctx, db)))
        else:
            enrolment.active, enrolment.ends = True, None
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "class.let_in",
            f"person:{person.id}",
            None,
            {"class": klass.title, "new": person_id is None, "typed": f"{row.given} {row.family}"},
            why,
        )
        moved(db, [person.id])

    ctx.store.write(work)


def _who(db: Session, actor: Actor, klass: SchoolClass, row: JoinRequest, person_id: int | None, why: str) -> Person:
    typed = f"{row.given} {row.family}"
    if person_id is not None:
        person = db.scalar(
            select(Person).where(
                Person.id == person_id,
                Person.kind == "student",
                Person.active.is_(True),
                Person.school_id == klass.school_id,
                scope(actor, Action.PEOPLE_READ),
            )
        )
        if person is None:
            raise Invalid(
                "choose a student whom you may see; a coordinator can choose any student of the school", "person_id"
            )
        if not alike(person.name, typed) and not why.strip():
            raise Conflict(
                f"{typed} asked to join, and {person.name} is a different name; say why they are the same person", "why"
            )
        return person
    others = _same_name(db, actor, klass, typed)[1]
    if others:
        raise Conflict(
            f"the school has a student of this name already; a coordinator decides whether {typed} is the same",
            "person_id",
        )
    taken = {c for c in db.scalars(select(Person.code)) if c}
    person = Person(
        source_id=f"{LOCAL}joined-{row.id}",
        given=row.given,
        family=row.family,
        kind="student",
        grade=klass.grade,
        school_id=klass.school_id,
        code=new_code(STUDENT_LENGTH, taken),
    )
    db.add(person)
    db.flush()
    return person


def sheets(ctx: Context, actor: Actor, class_ids: list[int], address: str, cards: bool) -> bytes:
    """Codes of classes as PDF: cards to cut, or a list a class, each class on a page of its own."""
    if not 1 <= len(class_ids) <= MOST_SHEETS:
        raise Invalid(f"choose 1 to {MOST_SHEETS} classes", "class_ids")

    def work(db: Session) -> list[tuple[TicketSheet, list[tuple[str, str]]]]:
        federation = db.scalars(select(Federation)).one()
        printed = dates_of(db).dated_moment(ctx.clock().astimezone(ZoneInfo(federation.zone)))
        here = site_address(db, address)
        pages = []
        for id in dict.fromkeys(class_ids):
            klass = _get(db, actor, Action.CLASSES_RUN, id)
            if klass.code is None:
                taken = {c for c in db.scalars(select(SchoolClass.code)) if c} | set(
                    db.scalars(select(PlannedSession.code))
                )
                klass.code = new_code(SESSION_LENGTH, taken)
            people = db.scalars(
                select(Person)
                .join(Enrolment, Enrolment.person_id == Person.id)
                .where(
                    Enrolment.class_id == klass.id,
                    Enrolment.role == "student",
                    Enrolment.active.is_(True),
                    Person.active.is_(True),
                )
                .order_by(Person.family, Person.given, Person.id)
            )
            sheet = TicketSheet(
                heading=klass.title,
                what=f"Sign in with the class code and your sign-in code. {klass.school.name}",
                klass=klass.title,
                address=here,
                code=klass.code,
                footer=with_warning(
                    f"Contains codes: hand out and do not leave unattended. Printed by {actor.name}, {printed}", here
                ),
            )
            pages.append((sheet, [(p.name, p.code) for p in people if p.code]))
            audit.record(db, ctx.clock(), actor.person_id, "class.codes", f"class:{klass.id}")
        return pages

    pages = ctx.store.write(work)
    return session_cards(pages) if cards else code_sheets(pages)


def _get(db: Session, actor: Actor, action: Action, class_id: int) -> SchoolClass:
    klass = db.scalar(select(SchoolClass).where(SchoolClass.id == class_id, scope(actor, action)))
    if klass is None:
        raise NotFound("there is no such class, or it is not yours")
    return klass


def _reaches(db: Session, actor: Actor, class_id: int) -> bool:
    if not actor.may(Action.CLASSES_RUN):
        return False
    return (
        db.scalar(select(SchoolClass.id).where(SchoolClass.id == class_id, scope(actor, Action.CLASSES_RUN)))
        is not None
    )


def _hash(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()
