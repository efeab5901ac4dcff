"""Signing in: staff and families by password, students by a session's or class's code and their own."""

from __future__ import annotations

import hashlib
import json
import secrets
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, TypeVar
from zoneinfo import ZoneInfo

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from bildung.core.school.usernames import normal_username
from bildung.services.forms.settings import settings, title_of
from bildung.services.owed.accommodated import added_to, end_for
from bildung.services.owed.dealing import begin, form_of
from bildung.services.owed.sessionroster import ensure_sitting
from bildung.services.shared.access import SUBSTITUTE, Actor, Grant, Own, Sitter, substitute_may
from bildung.services.shared.codes import as_typed
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound, NotSignedIn, Problem
from bildung.services.shared.passwords import password_fits
from bildung.services.shared.settings import setting
from bildung.services.shared.throttle import (
    ACCOUNT,
    ADDRESS,
    CODES_HERE,
    CODES_OF,
    CODES_OF_HERE,
    OWN_CODE,
    remember_here,
    seen_here,
    trying,
)
from bildung.services.sitting.delivery import delivery_hash, delivery_of
from bildung.services.sitting.resting import resume, resumed_from
from bildung.services.sitting.signs import lively, pause_with_the_rest
from bildung.services.sitting.taking import topic
from bildung.store.models import (
    Enrolment,
    Federation,
    Person,
    PlannedSession,
    Response,
    Role,
    SchoolClass,
    SignIn,
    Sitting,
    Substitute,
)

T = TypeVar("T")
STAFF_HOURS, STUDENT_HOURS = 12, 12
IDLE = timedelta(minutes=60)  # a screen that was left alone locks itself
SEEN_EVERY = timedelta(minutes=1)
AT_HAND = 10_000  # students whose sign-in is kept at hand


@dataclass(frozen=True)
class Token:
    """secret: for the cookie, known to nobody else. kind: staff, family, student (their own page) or sitting."""

    secret: str
    csrf: str
    kind: str


def welcome(ctx: Context) -> dict[str, Any]:
    """What anybody may know before signing in: whose installation this is, and in a demo who to sign in as."""
    with ctx.store.read() as db:
        federation = db.scalar(select(Federation))
        provider = setting(db, "provider_name") if setting(db, "provider_on") else ""
    demo = ctx.store.folder / "demo.json"
    people = json.loads(demo.read_text("utf-8"))["people"] if demo.exists() else []
    return {"federation": federation.name if federation else "", "demo_people": people, "provider": provider}


class WrongPassword(Invalid):
    """Name and password do not belong together: what somebody who guesses is told."""


def is_a_guess(problem: Problem) -> bool:
    """Right codes or a right password at the wrong time are none."""
    return isinstance(problem, WrongPassword | WrongCode)


def sign_in_staff(
    ctx: Context, username: str, password: str, address: str, device: str = "", end_others: bool = False
) -> Token:
    """Staff and families; the token says which of the two. end_others: sign-ins that were open until now end."""
    name = normal_username(username)
    guess = is_a_guess
    with trying(ctx, [(ADDRESS, address)], guess), trying(ctx, [(ACCOUNT, name)], guess, ahead=True):
        with ctx.store.read() as db:
            person = db.scalar(select(Person).where(Person.username == name, Person.kind != "student"))
        fits = password_fits(person.password_hash if person else None, password)
        if person is None or not fits or not person.active:
            raise WrongPassword("wrong username or password", "password")
        if person.password_temporary and person.temporary_until is not None and ctx.clock() > person.temporary_until:
            raise Invalid("this temporary password has expired; ask the coordinator for a new one", "password")
    return sign_in_person(ctx, person.id, address, device, end_others)


def sign_in_person(ctx: Context, person_id: int, address: str, device: str = "", end_others: bool = False) -> Token:
    """Somebody whose identity is proved: by password here, or by the federation's provider."""

    def work(db: Session) -> Token:
        if end_others:
            open_ones = update(SignIn).where(
                SignIn.person_id == person_id, SignIn.revoked_at.is_(None), SignIn.sitting_id.is_(None)
            )
            db.execute(open_ones.values(revoked_at=ctx.clock()))
        return _issue(db, ctx, db.get_one(Person, person_id), None, 0, STAFF_HOURS, device, address)

    return ctx.store.write(work)


def sign_in_student(
    ctx: Context, typed_code: str, own_code: str, address: str, device: str = "", at_home: bool = False
) -> Token:
    """With a session's code: joins it, and another device that held the sitting is taken over from. With a class's
    code: to the student's own page. at_home: not at school, as they said."""

    def work(db: Session) -> Token:
        session, klass, person = _found(db, typed_code, own_code)
        if session is not None:
            return _join(db, ctx, session, person, address, at_home)
        assert klass is not None
        student = _in_class(db, klass, person)
        _visit(db, student)
        return _issue(db, ctx, student, None, 0, STUDENT_HOURS, device, address)

    return _told(ctx, lambda: _with_codes(ctx, typed_code, own_code, address, work))


def _with_codes(ctx: Context, typed_code: str, own_code: str, address: str, work: Callable[[Session], T]) -> T:
    """One try with two codes, slowed where too many failed: at the address, with the session's or class's code, with the
    sign-in code. Right codes at the wrong time are no guess: a whole school may stand at one address before a session opens."""
    code, own, now = as_typed(typed_code), as_typed(own_code), ctx.clock()

    def and_remember(db: Session) -> T:
        found = work(db)
        remember_here(db, code, address, now)
        return found

    with ctx.store.read() as db:
        of_code = (CODES_OF_HERE, f"{code} {address}") if seen_here(db, code, address, now) else (CODES_OF, code)
    with trying(ctx, [(CODES_HERE, address), of_code, (OWN_CODE, own)], is_a_guess):
        return ctx.store.write(and_remember)


@dataclass(frozen=True, kw_only=True)
class WhoseCodes:
    """Whom codes belong to, before anything is begun. title, klass: of the test, or the class alone. resumes: the test
    was begun already, here or on another device; answered: questions with an answer so far. elsewhere: another device has it
    open now and would stop. instructions: of the test and of whoever planned the session. practice: a practice
    question is offered first."""

    name: str
    grade: str
    title: str
    klass: str
    resumes: bool
    answered: int
    elsewhere: bool = False
    instructions: str = ""
    practice: bool = False


def who(ctx: Context, typed_code: str, own_code: str, address: str, secret: str | None = None) -> WhoseCodes:
    """Whose codes these are, so that a student sees their own name before they begin. Changes nothing but the list of
    a session, which follows its class; wrong codes count as they do in signing in. secret: of the cookie that this device has
    from a sitting, if any."""
    here = sitter_at_hand(ctx, secret)

    def work(db: Session) -> WhoseCodes:
        session, klass, person = _found(db, typed_code, own_code)
        if session is None:
            assert klass is not None
            person = _in_class(db, klass, person)
            return WhoseCodes(
                name=person.name, grade=person.grade, title="", klass=klass.title, resumes=False, answered=0
            )
        person, sitting = _may_join(db, ctx, session, person)
        given = (
            select(func.count()).select_from(Response).where(Response.sitting_id == sitting.id, Response.answer != "")
        )
        resumes = sitting.state in ("answering", "resting") and sitting.attempt == 1
        form = form_of(db, session, sitting)
        title, rules = session.title or title_of(form), settings(form)
        return WhoseCodes(
            name=person.name,
            grade=person.grade,
            title=title,
            klass=session.klass.title,
            resumes=resumes,
            answered=(db.scalar(given) or 0) if resumes else 0,
            elsewhere=_open_elsewhere(sitting, here, ctx.clock()),
            instructions="\n".join(text for text in (rules.instructions, session.instructions) if text),
            practice=rules.practice and not resumes,
        )

    return _with_codes(ctx, typed_code, own_code, address, work)


def _open_elsewhere(sitting: Sitting, here: Sitter | None, now: datetime) -> bool:
    """Whether a device that is not this one has it open."""
    mine = here is not None and here.sitting_id == sitting.id and here.takeover == sitting.takeover
    return lively(sitting, now) and not mine


def _found(
    db: Session, typed_code: str, own_code: str
) -> tuple[PlannedSession | None, SchoolClass | None, Person | None]:
    """The session or class with a code, and the student with one of their own; one of the first two is there."""
    code, own = as_typed(typed_code), as_typed(own_code)
    person = db.scalar(select(Person).where(Person.code == own, Person.active.is_(True), Person.kind == "student"))
    session = db.scalar(select(PlannedSession).where(PlannedSession.code == code))
    if session is not None:
        return session, None, person
    klass = db.scalar(select(SchoolClass).where(SchoolClass.code == code, SchoolClass.active.is_(True)))
    if klass is None:
        raise WrongCode("there is no session or class with this code; look at the board or ask", "session_code")
    return None, klass, person


def _in_class(db: Session, klass: SchoolClass, person: Person | None) -> Person:
    if person is None or not _is_in(db, klass, person):
        raise WrongCode("this code is not on the list of this class; look at your test ticket or ask", "own_code")
    return person


def join_session(ctx: Context, own: Own, session_id: int, address: str) -> Token:
    """From the student's own page, with no code to type."""

    def work(db: Session) -> Token:
        session = db.get(PlannedSession, session_id)
        if session is None:
            raise NotFound("there is no such session, or it is not yours")
        return _join(db, ctx, session, db.get_one(Person, own.person_id), address)

    return _told(ctx, lambda: ctx.store.write(work))


def _is_in(db: Session, klass: SchoolClass, person: Person) -> bool:
    return (
        db.scalar(
            select(Enrolment.id).where(
                Enrolment.class_id == klass.id, Enrolment.person_id == person.id, Enrolment.active.is_(True)
            )
        )
        is not None
    )


def _may_join(db: Session, ctx: Context, session: PlannedSession, person: Person | None) -> tuple[Person, Sitting]:
    """The student and their attempt, where it is open to them now."""
    now = ctx.clock()
    sitting = None if person is None else ensure_sitting(db, session, person)
    if person is None or sitting is None:
        raise WrongCode("this code is not on the list of this session; look at your test ticket or ask", "own_code")
    if sitting.state == "handed_in" and sitting.attempt >= settings(form_of(db, session, sitting)).attempts:
        raise Invalid("you have already submitted this test", "own_code")
    if sitting.state == "on_paper":
        raise Invalid("you take this test on paper; ask your proctor", "own_code")
    if sitting.state in ("exempt", "void"):
        raise Invalid("this test is not open to you; ask your proctor", "own_code")
    limit = settings(form_of(db, session, sitting)).minutes if sitting.state in ("answering", "resting") else None
    began = resumed_from(sitting, now)
    if session.closed_at or now > end_for(db, session, person.id, began, limit, added_to(sitting, now)):
        raise Invalid("this session is over; ask your proctor", "session_code")
    if now < session.start:
        raise Invalid("this session has not opened yet; wait a moment and try again", "session_code")
    return person, sitting


def _visit(db: Session, student: Person) -> None:
    """A visit of their own page begins: what is new since the last one is told there."""
    student.visited_at, student.seen_before = student.last_sign_in_at, student.seen_sitting
    student.seen_sitting = db.scalar(select(func.max(Sitting.id)).where(Sitting.person_id == student.id)) or 0


def _join(
    db: Session, ctx: Context, session: PlannedSession, found: Person | None, address: str, at_home: bool = False
) -> Token:
    now = ctx.clock()
    person, sitting = _may_join(db, ctx, session, found)
    sitting.takeover += 1
    if sitting.state in ("not_started", "absent"):
        begin(db, session, sitting)
        sitting.state = "answering"
        sitting.started_at = sitting.started_at or now
    elif sitting.state == "resting":
        resume(sitting, now)
    sitting.last_at = sitting.seen_at = now
    sitting.way = "home" if at_home else sitting.way or "school"
    pause_with_the_rest(db, session, sitting, now)
    session.data_version += 1
    return _issue(db, ctx, person, sitting.id, sitting.takeover, STUDENT_HOURS, "", address)


class WrongCode(Invalid):
    """A code that belongs to nothing, or not to the other one: what somebody who guesses is told."""


def _told(ctx: Context, work: Callable[[], Token]) -> Token:
    """Run it; an attempt that began is told to whoever watches."""
    token = work()
    with ctx.store.read() as db:
        sign_in = db.scalar(select(SignIn).where(SignIn.token_hash == _hash(token.secret)))
        if sign_in is not None and sign_in.sitting_id is not None:
            sitting = db.get_one(Sitting, sign_in.sitting_id)
            ctx.bus.publish(f"session:{sitting.session_id}", {"sitting": str(sitting.id)})
            if sitting.takeover > 1:  # the device that had it until now
                ctx.bus.publish(topic(sitting.session_id), {"sitting": str(sitting.id)})
    return token


def sign_out(ctx: Context, sign_in_id: int) -> None:
    """End one sign-in."""

    def work(db: Session) -> None:
        db.get_one(SignIn, sign_in_id).revoked_at = ctx.clock()

    ctx.store.write(work)


def actor_of(ctx: Context, secret: str | None) -> Actor:
    """The staff member behind a cookie, with roles as they are now; NotSignedIn otherwise."""
    with ctx.store.read() as db:
        sign_in, person = _signed_in(db, ctx, secret)
        if sign_in.sitting_id is not None or person.kind not in ("staff", SUBSTITUTE):
            raise NotSignedIn("this is for staff; sign in")
        now, seen = ctx.clock(), sign_in.seen_at or sign_in.created_at
        if now - seen > IDLE:
            raise NotSignedIn("this screen was left alone for an hour; sign in to continue")
        roles = db.scalars(select(Role).where(Role.person_id == person.id)).all()
        grants = tuple(Grant(role.role, role.school_id) for role in roles)
        zone = ZoneInfo(db.scalar(select(Federation.zone)) or "UTC")
        if person.kind == SUBSTITUTE:
            if not _still_substitutes(db, person, sign_in, now, zone):
                raise NotSignedIn("the session is over, or its code was withdrawn")
            grants = (Grant(SUBSTITUTE, None),)
        today = now.astimezone(zone).date()
        actor = Actor(
            person_id=person.id,
            name=person.name,
            grants=grants,
            sign_in_id=sign_in.id,
            csrf=sign_in.csrf,
            must_change=person.password_temporary,
            letter_keys=person.letter_keys,
            day=today,
        )
    if now - seen > SEEN_EVERY:
        ctx.store.write(lambda db: _seen(db, actor.sign_in_id, now))
    return actor


def _still_substitutes(db: Session, person: Person, sign_in: SignIn, now: datetime, zone: ZoneInfo) -> bool:
    """Whether the code they came in with still opens the session, on the day on which they came."""
    session = db.scalar(
        select(PlannedSession)
        .join(Substitute, Substitute.session_id == PlannedSession.id)
        .where(Substitute.person_id == person.id, Substitute.code == PlannedSession.substitute_code)
    )
    same_day = sign_in.created_at.astimezone(zone).date() == now.astimezone(zone).date()
    return session is not None and same_day and substitute_may(session, now, zone)


def _seen(db: Session, sign_in_id: int, now: datetime) -> None:
    db.get_one(SignIn, sign_in_id).seen_at = now


def sitter_of(ctx: Context, secret: str | None) -> Sitter:
    """The student behind a sitting's cookie; NotSignedIn otherwise."""
    with ctx.store.read() as db:
        sign_in, person = _signed_in(db, ctx, secret)
        if sign_in.sitting_id is None:
            raise NotSignedIn("enter the session code and your sign-in code")
        sitter = Sitter(
            person_id=person.id,
            sitting_id=sign_in.sitting_id,
            takeover=sign_in.takeover,
            sign_in_id=sign_in.id,
            csrf=sign_in.csrf,
        )
        kept = ctx.own(SittersAtHand).by
        while len(kept) >= AT_HAND:
            kept.pop(next(iter(kept)), None)
        kept[sign_in.token_hash] = sitter
    return sitter


@dataclass
class SittersAtHand:
    """By digest of the cookie. A sign-in never changes; whether it still holds must be asked of the store."""

    by: dict[str, Sitter] = field(default_factory=dict)


def sitter_at_hand(ctx: Context, secret: str | None) -> Sitter | None:
    """Who was behind a cookie when it was last looked at, for a service that asks the store itself whether that holds."""
    return ctx.own(SittersAtHand).by.get(_hash(secret)) if secret else None


def own_of(ctx: Context, secret: str | None, kind: str) -> Own:
    """The student or family behind a cookie of their own page; NotSignedIn otherwise."""
    with ctx.store.read() as db:
        sign_in, person = _signed_in(db, ctx, secret)
        if sign_in.sitting_id is not None or person.kind != kind:
            raise NotSignedIn("sign in to continue")
        if ctx.clock() - (sign_in.seen_at or sign_in.created_at) > IDLE:
            raise NotSignedIn("this screen was left alone for an hour; sign in to continue")
        own = Own(
            person_id=person.id,
            name=person.name,
            sign_in_id=sign_in.id,
            csrf=sign_in.csrf,
            must_change=person.password_temporary,
        )
        stale = ctx.clock() - (sign_in.seen_at or sign_in.created_at) > SEEN_EVERY
    if stale:
        ctx.store.write(lambda db: _seen(db, own.sign_in_id, ctx.clock()))
    return own


def _signed_in(db: Session, ctx: Context, secret: str | None) -> tuple[SignIn, Person]:
    if secret:
        row = db.execute(
            select(SignIn, Person)
            .join(Person, Person.id == SignIn.person_id)
            .where(
                SignIn.token_hash == _hash(secret),
                SignIn.revoked_at.is_(None),
                SignIn.expires_at > ctx.clock(),
                Person.active.is_(True),
            )
        ).first()
        if row:
            return row[0], row[1]
    raise NotSignedIn("sign in to continue")


def _hash(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def _issue(
    db: Session,
    ctx: Context,
    person: Person,
    sitting_id: int | None,
    takeover: int,
    hours: int,
    device: str,
    address: str,
) -> Token:
    kind = "sitting" if sitting_id is not None else "staff" if person.kind == SUBSTITUTE else person.kind
    token = Token(secrets.token_urlsafe(32), secrets.token_urlsafe(16), kind)
    now = ctx.clock()
    place = address if setting(db, "keep_places") else ""
    person.last_sign_in_at, person.last_place = now, place
    db.add(
        SignIn(
            token_hash=_hash(token.secret),
            delivery_hash=None if sitting_id is None else delivery_hash(delivery_of(token.secret)),
            csrf=token.csrf,
            person_id=person.id,
            sitting_id=sitting_id,
            takeover=takeover,
            created_at=now,
            seen_at=now,
            device=device[:160],
            place=place,
            expires_at=now + timedelta(hours=hours),
        )
    )
    return token
