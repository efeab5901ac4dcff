"""Signing in: staff by password, students by session code and their own code."""

from __future__ import annotations

import hashlib
import json
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.access import Actor, Grant, Sitter
from bildung.services.codes import as_typed
from bildung.services.context import Context
from bildung.services.errors import Invalid, NotSignedIn
from bildung.services.rosters import ensure_sitting
from bildung.services.throttle import Throttle
from bildung.store.models import Federation, Person, PlannedSession, Role, SignIn, Sitting

STAFF_HOURS, STUDENT_HOURS = 12, 12
IDLE = timedelta(minutes=60)  # a screen that was left alone locks itself
SEEN_EVERY = timedelta(minutes=1)
_hasher = PasswordHasher(time_cost=2, memory_cost=19 * 1024, parallelism=1)
_nobody = _hasher.hash(secrets.token_hex())  # so that an unknown name takes as long as a wrong password
staff_throttle = Throttle(10, timedelta(minutes=5))
student_throttle = Throttle(100, timedelta(minutes=5))


@dataclass(frozen=True)
class Token:
    """secret: for the cookie, known to nobody else."""

    secret: str
    csrf: str


def hash_password(password: str) -> str:
    return _hasher.hash(password)


def welcome(ctx: Context) -> dict[str, Any]:
    """What anybody may know before signing in: whose installation this is, and in a demo who to sign in as."""
    with ctx.store.read() as db:
        federation = db.scalar(select(Federation))
    demo = ctx.store.folder / "demo.json"
    people = json.loads(demo.read_text("utf-8"))["people"] if demo.exists() else []
    return {"federation": federation.name if federation else "", "demo_people": people}


def password_fits(hashed: str | None, password: str) -> bool:
    """Takes as long where there is no password to compare with."""
    try:
        return _hasher.verify(hashed or _nobody, password) and hashed is not None
    except (VerificationError, InvalidHashError):
        return False


def sign_in_staff(ctx: Context, username: str, password: str, address: str, device: str = "") -> Token:
    now = ctx.clock()
    key = f"{address} {username.lower()}"
    staff_throttle.check(key, now)
    with ctx.store.read() as db:
        person = db.scalar(select(Person).where(Person.username == username.strip(), Person.student.is_(False)))
    fits = password_fits(person.password_hash if person else None, password)
    if person is None or not fits or not person.active:
        staff_throttle.failed(key, now)
        raise Invalid("name and password do not belong together", "password")
    person_id = person.id
    return ctx.store.write(lambda db: _issue(db, ctx, person_id, None, 0, STAFF_HOURS, device))


def sign_in_student(ctx: Context, session_code: str, own_code: str, address: str) -> Token:
    """Joins a session; another device that held the sitting is taken over from."""
    now = ctx.clock()
    student_throttle.check(address, now)

    def work(db: Session) -> Token:
        session = db.scalar(select(PlannedSession).where(PlannedSession.code == as_typed(session_code)))
        if session is None:
            raise Invalid("there is no session with this code; look at the board or ask", "session_code")
        person = db.scalar(select(Person).where(Person.code == as_typed(own_code), Person.active.is_(True)))
        sitting = None if person is None else ensure_sitting(db, session, person)
        if person is None or sitting is None:
            raise Invalid("this code is not on the list of this session; look at your card or ask", "own_code")
        if sitting.state == "handed_in":
            raise Invalid("you have handed in already; nothing more to do", "own_code")
        if sitting.state in ("exempt", "void"):
            raise Invalid("this sitting is not open to you; ask the person in the room", "own_code")
        if session.closed_at or now > session.end:
            raise Invalid("this session is over; ask the person in the room", "session_code")
        if now < session.start:
            raise Invalid("this session has not opened yet; wait a moment and try again", "session_code")
        sitting.takeover += 1
        if sitting.state in ("not_started", "absent"):
            sitting.state = "answering"
            sitting.started_at = sitting.started_at or now
        sitting.last_at = now
        session.data_version += 1
        return _issue(db, ctx, person.id, sitting.id, sitting.takeover, STUDENT_HOURS)

    try:
        token = ctx.store.write(work)
    except Invalid as error:
        if error.place is not None and "over" not in error.detail:
            student_throttle.failed(address, now)
        raise
    with ctx.store.read() as db:
        sign_in = db.scalar(select(SignIn).where(SignIn.token_hash == _hash(token.secret)))
        assert sign_in is not None and sign_in.sitting_id is not None
        sitting = db.get_one(Sitting, sign_in.sitting_id)
        ctx.bus.publish(f"session:{sitting.session_id}", {"sitting": str(sitting.id)})
    return token


def sign_out(ctx: Context, sign_in_id: int) -> None:
    def work(db: Session) -> None:
        db.get_one(SignIn, sign_in_id).revoked_at = ctx.clock()

    ctx.store.write(work)


def actor_of(ctx: Context, secret: str | None) -> Actor:
    """The staff member behind a cookie, with roles as they are now; NotSignedIn otherwise."""
    with ctx.store.read() as db:
        sign_in, person = _signed_in(db, ctx, secret)
        if sign_in.sitting_id is not None:
            raise NotSignedIn("this is for staff; sign in")
        now, seen = ctx.clock(), sign_in.seen_at or sign_in.created_at
        if now - seen > IDLE:
            raise NotSignedIn("this screen was left alone for an hour; sign in to go on")
        roles = db.scalars(select(Role).where(Role.person_id == person.id)).all()
        grants = tuple(Grant(role.role, role.school_id) for role in roles)
        actor = Actor(person.id, person.name, grants, sign_in.id, sign_in.csrf, person.password_temporary)
    if now - seen > SEEN_EVERY:
        ctx.store.write(lambda db: _seen(db, actor.sign_in_id, now))
    return actor


def _seen(db: Session, sign_in_id: int, now: datetime) -> None:
    db.get_one(SignIn, sign_in_id).seen_at = now


def sitter_of(ctx: Context, secret: str | None) -> Sitter:
    """The student behind a sitting's cookie; NotSignedIn otherwise."""
    with ctx.store.read() as db:
        sign_in, person = _signed_in(db, ctx, secret)
        if sign_in.sitting_id is None:
            raise NotSignedIn("enter the session code and your own code")
        return Sitter(person.id, sign_in.sitting_id, sign_in.takeover, sign_in.id, sign_in.csrf)


def _signed_in(db: Session, ctx: Context, secret: str | None) -> tuple[SignIn, Person]:
    if secret:
        row = db.execute(
            select(SignIn, Person).join(Person, Person.id == SignIn.person_id).where(
                SignIn.token_hash == _hash(secret), SignIn.revoked_at.is_(None), SignIn.expires_at > ctx.clock(),
                Person.active.is_(True),
            )
        ).first()  # fmt: skip
        if row:
            return row[0], row[1]
    raise NotSignedIn("sign in to go on")


def _hash(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def _issue(
    db: Session, ctx: Context, person_id: int, sitting_id: int | None, takeover: int, hours: int, device: str = ""
) -> Token:
    token = Token(secrets.token_urlsafe(32), secrets.token_urlsafe(16))
    now = ctx.clock()
    db.add(
        SignIn(
            token_hash=_hash(token.secret), csrf=token.csrf, person_id=person_id, sitting_id=sitting_id,
            takeover=takeover, created_at=now, seen_at=now, device=device[:160], expires_at=now + timedelta(hours=hours),
        )
    )  # fmt: skip
    return token
