"""Classes: who is in them, who has ever signed in, letting newcomers in, and their printed codes."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.reports.cards import Sheet, code_sheets, session_cards
from bildung.services import accommodations, audit
from bildung.services.access import Action, Actor, scope
from bildung.services.bank import need_text
from bildung.services.codes import SESSION_LENGTH, STUDENT_LENGTH, as_typed, new_code
from bildung.services.context import Context
from bildung.services.errors import Conflict, Invalid, NotFound
from bildung.services.rosterplan import LOCAL, moved
from bildung.services.throttle import Throttle
from bildung.services.years import current_year, local_today
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
ask_throttle = Throttle(40, timedelta(minutes=5))


@dataclass(frozen=True)
class ClassLine:
    """students: in it now. signed_in: of those, how many ever have. waiting: who asks to be let in."""

    id: int
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


@dataclass(frozen=True)
class StudentLine:
    """begins: joined later than the class began. last_place: where the federation keeps it."""

    id: int
    name: str
    code: str | None
    begins: date | None
    last_sign_in_at: datetime | None
    last_place: str
    needs: str


@dataclass(frozen=True)
class Asking:
    """matches: students of the school with this name, so that nobody is made twice."""

    id: int
    name: str
    at: datetime
    matches: list[tuple[int, str]]


@dataclass(frozen=True)
class ClassPage:
    finding: str
    klass: ClassLine
    code: str | None
    open_door: bool
    teachers: list[tuple[int, str]]
    students: list[StudentLine]
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
        places = "place" if students == 1 else "places"
        finding = f"{len(lines)} {'class' if len(lines) == 1 else 'classes'} with {students} {places}; in {signed} of them a student has signed in."
        if waiting:
            finding += f" {waiting} {'asks' if waiting == 1 else 'ask'} to be let in."
    return finding, lines, [(y.id, y.title) for y in years], shown


def _lines(db: Session, classes: Any, present: bool) -> list[ClassLine]:
    ids = [c.id for c in classes]
    counts: dict[int, tuple[int, int]] = {}
    rows = (
        select(Enrolment.class_id, func.count(), func.count(Person.last_sign_in_at))
        .join(Person, Person.id == Enrolment.person_id)
        .where(Enrolment.role == "student", Enrolment.class_id.in_(ids)).group_by(Enrolment.class_id)
    )  # fmt: skip
    if present:
        rows = rows.where(Enrolment.active.is_(True), Person.active.is_(True))
    for id, n, signed in db.execute(rows):
        counts[id] = n, signed
    teachers: dict[int, list[str]] = {}
    for id, given, family in db.execute(
        select(Enrolment.class_id, Person.given, Person.family).join(Person, Person.id == Enrolment.person_id)
        .where(Enrolment.role == "teacher", Enrolment.class_id.in_(ids), Enrolment.active.is_(True) | (not present))
        .order_by(Person.family)
    ):  # fmt: skip
        teachers.setdefault(id, []).append(f"{given} {family}")
    waiting = {
        id: n
        for id, n in db.execute(
            select(JoinRequest.class_id, func.count()).where(JoinRequest.state == "waiting", JoinRequest.class_id.in_(ids))
            .group_by(JoinRequest.class_id)
        )
    }  # fmt: skip
    schools = {s.id: s.name for s in db.scalars(select(School))}
    years = {y.id: y.title for y in db.scalars(select(SchoolYear))}
    return [
        ClassLine(
            c.id, c.title, c.subject, c.grade, c.course, c.period, c.homeroom, schools[c.school_id],
            ", ".join(teachers.get(c.id, [])), *counts.get(c.id, (0, 0)), waiting.get(c.id, 0), years.get(c.year_id or 0, ""),
        )
        for c in classes
    ]  # fmt: skip


def get_class(ctx: Context, actor: Actor, class_id: int) -> ClassPage:
    with ctx.store.read() as db:
        klass = _get(db, actor, Action.CLASSES_READ, class_id)
        may_run = _reaches(db, actor, class_id)
        line = _lines(db, [klass], klass.active)[0]
        rows = db.execute(
            select(Enrolment, Person).join(Person, Person.id == Enrolment.person_id)
            .where(Enrolment.class_id == klass.id).order_by(Person.family, Person.given, Person.id)
        ).all()  # fmt: skip
        is_in = [(e, p) for e, p in rows if (e.active and p.active) or not klass.active]
        ids = [p.id for e, p in is_in if e.role == "student"]
        needs = accommodations.of_people(db, ids) if actor.may(Action.SUPPORT_READ) and may_run else {}
        none = accommodations.Needs()
        students = [
            StudentLine(
                p.id, p.name, p.code if may_run else None, e.begins, p.last_sign_in_at, p.last_place if may_run else "",
                accommodations.said(needs.get(p.id, none)),
            )
            for e, p in is_in if e.role == "student"
        ]  # fmt: skip
        teachers = [(p.id, p.name) for e, p in is_in if e.role == "teacher"]
        left = [
            f"{p.name} ({e.ends:%d %b})" if e.ends else p.name
            for e, p in rows if e.role == "student" and klass.active and not (e.active and p.active)
        ]  # fmt: skip
        asking = _asking(db, klass) if may_run else []
    never = sum(s.last_sign_in_at is None for s in students)
    finding = f"{line.title}: {len(students)} {'student' if len(students) == 1 else 'students'}"
    finding += f" with {line.teachers}." if line.teachers else ", and no teacher."
    if students and never:
        finding += f" {never} {'has' if never == 1 else 'have'} never signed in."
    if asking:
        finding += f" {len(asking)} {'asks' if len(asking) == 1 else 'ask'} to be let in."
    return ClassPage(
        finding, line, klass.code if may_run else None, klass.open_door, teachers, students, left, asking, may_run
    )  # fmt: skip


def _asking(db: Session, klass: SchoolClass) -> list[Asking]:
    waiting = db.scalars(
        select(JoinRequest)
        .where(JoinRequest.class_id == klass.id, JoinRequest.state == "waiting")
        .order_by(JoinRequest.id)
    )
    found = []
    for r in waiting:
        same = db.scalars(
            select(Person).where(
                Person.kind == "student", Person.active.is_(True), Person.school_id == klass.school_id,
                func.lower(Person.given) == r.given.lower(), func.lower(Person.family) == r.family.lower(),
            )
        )  # fmt: skip
        matches = [(p.id, f"{p.name}, grade {p.grade or '?'} ({p.source_id})") for p in same]
        found.append(Asking(r.id, f"{r.given} {r.family}", r.at, matches))
    return found


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
    ask_throttle.check(address, now)
    ask_throttle.failed(address, now)  # every try counts: a form open to anybody
    given, family = need_text(given, "given", 60), need_text(family, "family", 60)
    ticket = secrets.token_urlsafe(24)

    def work(db: Session) -> str:
        klass = db.scalar(
            select(SchoolClass).where(SchoolClass.code == as_typed(code), SchoolClass.active.is_(True), SchoolClass.open_door.is_(True))
        )  # fmt: skip
        if klass is None:
            raise Invalid("no class takes newcomers with this code; ask your teacher", "code")
        waiting = db.scalars(
            select(JoinRequest).where(JoinRequest.class_id == klass.id, JoinRequest.state == "waiting")
        ).all()
        if any((r.given.lower(), r.family.lower()) == (given.lower(), family.lower()) for r in waiting):
            raise Conflict("somebody with this name waits already; your teacher decides", "family")
        if len(waiting) >= MOST_WAITING:
            raise Conflict("too many wait for this class already; your teacher decides first", "code")
        db.add(JoinRequest(class_id=klass.id, given=given, family=family, ticket_hash=_hash(ticket), at=now))
        return ticket

    return ctx.store.write(work)


def ticket_state(ctx: Context, ticket: str) -> dict[str, str | None]:
    """waiting, let_in (then with the codes to sign in with), or refused."""
    with ctx.store.read() as db:
        row = db.scalar(select(JoinRequest).where(JoinRequest.ticket_hash == _hash(ticket)))
        if row is None:
            raise NotFound("nobody waits with this ticket any more; ask your teacher")
        klass = db.get_one(SchoolClass, row.class_id)
        person = db.get(Person, row.person_id) if row.person_id else None
        own = person.code if person and row.state == "let_in" else None
        return {"state": row.state, "klass": klass.title, "class_code": klass.code if own else None, "own_code": own}


def settle_request(ctx: Context, actor: Actor, request_id: int, let_in: bool, person_id: int | None) -> None:
    """The teacher decides: a student who is here already, a new one, or nobody."""

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
        person = _who(db, klass, row, person_id)
        row.person_id = person.id
        enrolment = db.scalar(select(Enrolment).where(Enrolment.class_id == klass.id, Enrolment.person_id == person.id))
        if enrolment is None:
            db.add(Enrolment(class_id=klass.id, person_id=person.id, role="student", begins=local_today(ctx, db)))
        else:
            enrolment.active, enrolment.ends = True, None
        audit.record(
            db, ctx.clock(), actor.person_id, "class.let_in", f"person:{person.id}", None,
            {"class": klass.title, "new": person_id is None},
        )  # fmt: skip
        moved(db, [person.id])

    ctx.store.write(work)


def _who(db: Session, klass: SchoolClass, row: JoinRequest, person_id: int | None) -> Person:
    if person_id is not None:
        person = db.get(Person, person_id)
        if person is None or person.kind != "student" or not person.active or person.school_id != klass.school_id:
            raise Invalid("choose a student of this school", "person_id")
        return person
    taken = {c for c in db.scalars(select(Person.code)) if c}
    person = Person(
        source_id=f"{LOCAL}joined-{row.id}", given=row.given, family=row.family, kind="student", grade=klass.grade,
        school_id=klass.school_id, code=new_code(STUDENT_LENGTH, taken),
    )  # fmt: skip
    db.add(person)
    db.flush()
    return person


def sheets(ctx: Context, actor: Actor, class_ids: list[int], address: str, cards: bool) -> bytes:
    """Codes of classes as PDF: cards to cut, or a list a class, each class on a page of its own."""
    if not 1 <= len(class_ids) <= MOST_SHEETS:
        raise Invalid(f"choose 1 to {MOST_SHEETS} classes", "class_ids")

    def work(db: Session) -> list[tuple[Sheet, list[tuple[str, str]]]]:
        federation = db.scalars(select(Federation)).one()
        now = ctx.clock().astimezone(ZoneInfo(federation.zone))
        pages = []
        for id in dict.fromkeys(class_ids):
            klass = _get(db, actor, Action.CLASSES_RUN, id)
            if klass.code is None:
                taken = {c for c in db.scalars(select(SchoolClass.code)) if c} | set(
                    db.scalars(select(PlannedSession.code))
                )
                klass.code = new_code(SESSION_LENGTH, taken)
            people = db.scalars(
                select(Person).join(Enrolment, Enrolment.person_id == Person.id).where(
                    Enrolment.class_id == klass.id, Enrolment.role == "student", Enrolment.active.is_(True), Person.active.is_(True)
                ).order_by(Person.family, Person.given, Person.id)
            )  # fmt: skip
            sheet = Sheet(
                klass.title, f"Sign in with the class code and your own code. {klass.school.name}", klass.title, address, klass.code,
                f"Holds codes: hand out, do not leave lying. Made by {actor.name}, {now:%d %b %Y %H:%M}",
            )  # fmt: skip
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
