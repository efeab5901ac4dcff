"""Passwords and sign-ins of staff: one's own, and those that a coordinator sets right."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, Own, scope
from bildung.services.shared.codes import ALPHABET
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.passwords import TEMPORARY, TEMPORARY_LENGTH, hash_password, password_fits
from bildung.services.shared.throttle import ACCOUNT, trying
from bildung.services.shared.wire import Id
from bildung.store.models import Person, SignIn

SHORTEST, LONGEST = 10, 200


@dataclass(frozen=True, kw_only=True)
class SignInLine:
    """device: what the browser calls itself. here: the one that asks."""

    id: Id
    created_at: datetime
    seen_at: datetime | None
    device: str
    here: bool


def set_letter_keys(ctx: Context, actor: Actor, on: bool) -> None:
    """Whether single letters are shortcuts to this person (WCAG 2.2, 2.1.4), on whatever device they sign in."""

    def work(db: Session) -> None:
        db.get_one(Person, actor.person_id).letter_keys = on

    ctx.store.write(work)


def change_password(ctx: Context, actor: Actor | Own, old: str, new: str) -> None:
    """One's own; every other sign-in of this person ends."""
    with ctx.store.read() as db:
        person = db.get_one(Person, actor.person_id)
    with trying(ctx, [(ACCOUNT, f"password of {actor.person_id}")], ahead=True):
        if not password_fits(person.password_hash, old):
            raise Invalid("this is not your current password", "old")
    if not SHORTEST <= len(new) <= LONGEST:
        raise Invalid(f"a password has {SHORTEST} to {LONGEST} characters", "new")
    if new == old or new.casefold() in (person.username or "", person.name.casefold()):
        raise Invalid("choose a password that differs from your current one and your name", "new")
    hashed = hash_password(new)

    def work(db: Session) -> None:
        person = db.get_one(Person, actor.person_id)
        person.password_hash, person.password_temporary, person.temporary_until = hashed, False, None
        _end(db, ctx, actor.person_id, keep=actor.sign_in_id)
        audit.record(db, ctx.clock(), actor.person_id, "password.change", f"person:{actor.person_id}")

    ctx.store.write(work)


def reset_password(ctx: Context, actor: Actor, person_id: int) -> str:
    """A temporary password for a member of staff or a family, told once; all their sign-ins end."""
    allowed = scope(actor, Action.ACCOUNTS_RESET)
    temporary = "".join(secrets.choice(ALPHABET) for _ in range(TEMPORARY_LENGTH))
    hashed = hash_password(temporary)

    def work(db: Session) -> None:
        person = db.scalar(select(Person).where(Person.id == person_id, Person.kind != "student", allowed))
        if person is None:
            raise NotFound("there is no such member of staff, or they are not yours")
        if person.username is None:
            raise Invalid(f"{person.name} has no user name in the records; enter one there first", "person_id")
        if person.id == actor.person_id:
            raise Invalid("change your own password under your name, at the top", "person_id")
        person.password_hash, person.password_temporary = hashed, True
        person.temporary_until = ctx.clock() + TEMPORARY
        _end(db, ctx, person.id)
        audit.record(db, ctx.clock(), actor.person_id, "password.reset", f"person:{person.id}")

    ctx.store.write(work)
    return temporary


def list_sign_ins(ctx: Context, actor: Actor) -> list[SignInLine]:
    """One's own that are open, newest first."""
    with ctx.store.read() as db:
        rows = db.scalars(
            select(SignIn)
            .where(
                SignIn.person_id == actor.person_id,
                SignIn.revoked_at.is_(None),
                SignIn.expires_at > ctx.clock(),
                SignIn.sitting_id.is_(None),
            )
            .order_by(SignIn.id.desc())
        ).all()
        return [
            SignInLine(
                id=s.id, created_at=s.created_at, seen_at=s.seen_at, device=s.device, here=s.id == actor.sign_in_id
            )
            for s in rows
        ]


def end_sign_in(ctx: Context, actor: Actor, sign_in_id: int) -> None:
    """One of one's own."""

    def work(db: Session) -> None:
        row = db.get(SignIn, sign_in_id)
        if row is None or row.person_id != actor.person_id or row.revoked_at is not None:
            raise NotFound("this sign-in has ended already, or is not yours")
        row.revoked_at = ctx.clock()

    ctx.store.write(work)


def _end(db: Session, ctx: Context, person_id: int, keep: int | None = None) -> None:
    ended = update(SignIn).where(
        SignIn.person_id == person_id, SignIn.revoked_at.is_(None), SignIn.sitting_id.is_(None)
    )
    if keep is not None:
        ended = ended.where(SignIn.id != keep)
    db.execute(ended.values(revoked_at=ctx.clock()))
