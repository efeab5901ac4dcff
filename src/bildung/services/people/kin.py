"""The families of a student and their accounts."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.usernames import normal_username
from bildung.services.people.changes import LOCAL
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.codes import ALPHABET
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.passwords import TEMPORARY, TEMPORARY_LENGTH, hash_password
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import FamilyLink, Person


@dataclass(frozen=True, kw_only=True)
class FamilyLine:
    """results: whether they may see this student's results."""

    id: Id
    name: str
    relation: str
    username: str | None
    last_sign_in_at: datetime | None
    results: bool


def families_of(db: Session, student_id: int) -> list[FamilyLine]:
    """The families of a student."""
    rows = db.execute(
        select(Person, FamilyLink.relation, FamilyLink.results)
        .join(FamilyLink, FamilyLink.family_id == Person.id)
        .where(FamilyLink.student_id == student_id)
        .order_by(Person.family, Person.given)
    )
    return [
        FamilyLine(
            id=p.id,
            name=p.name,
            relation=relation,
            username=p.username,
            last_sign_in_at=p.last_sign_in_at,
            results=results,
        )
        for p, relation, results in rows
    ]


def add_family(
    ctx: Context, actor: Actor, student_id: int, given: str, family: str, username: str, relation: str
) -> str | None:
    """A family for a student. A user name that a family has already links that family to one more child, and there
    is no password to tell; a new one gets a temporary password, told once."""
    allowed = scope(actor, Action.ACCOUNTS_RESET)
    given, family = need_text(given, "given", 60), need_text(family, "family", 60)
    username, relation = need_text(normal_username(username), "username", 60), relation.strip()[:40]
    temporary = "".join(secrets.choice(ALPHABET) for _ in range(TEMPORARY_LENGTH))
    hashed = hash_password(temporary)

    def work(db: Session) -> str | None:
        student = db.scalar(select(Person).where(Person.id == student_id, Person.kind == "student", allowed))
        if student is None:
            raise NotFound("there is no such student, or they are not yours")
        known = db.scalar(select(Person).where(Person.username == username))
        told = None
        if known is None:
            known = Person(
                source_id=f"{LOCAL}family-{secrets.token_hex(6)}",
                given=given,
                family=family,
                kind="family",
                username=username,
                password_hash=hashed,
                password_temporary=True,
                school_id=student.school_id,
                temporary_until=ctx.clock() + TEMPORARY,
            )
            db.add(known)
            db.flush()
            told = temporary
        elif known.kind != "family" or known.name.lower() != f"{given} {family}".lower():
            raise Conflict(f"the username {username} belongs to someone else; choose another", "username")
        if db.get(FamilyLink, (known.id, student.id)):
            raise Conflict(f"{known.name} is linked to {student.name} already", "username")
        db.add(FamilyLink(family_id=known.id, student_id=student.id, relation=relation))
        after = {"family": known.name, "relation": relation}
        audit.record(db, ctx.clock(), actor.person_id, "family.link", f"person:{student.id}", None, after)
        return told

    return ctx.store.write(work)


def unlink_family(ctx: Context, actor: Actor, student_id: int, family_id: int) -> None:
    """That family sees this child no more, at once."""
    allowed = scope(actor, Action.ACCOUNTS_RESET)

    def work(db: Session) -> None:
        student = db.scalar(select(Person).where(Person.id == student_id, Person.kind == "student", allowed))
        link = None if student is None else db.get(FamilyLink, (family_id, student.id))
        if student is None or link is None:
            raise NotFound("there is no such link, or you may not remove it")
        before = {"family": db.get_one(Person, family_id).name, "relation": link.relation}
        db.delete(link)
        audit.record(db, ctx.clock(), actor.person_id, "family.unlink", f"person:{student.id}", before, None)

    ctx.store.write(work)


def let_see_results(ctx: Context, actor: Actor, student_id: int, family_id: int, results: bool) -> None:
    """Whether this family may see this student's results: with two households, or an adult who is barred, one may and another not. At
    once, also by addresses that they kept."""
    allowed = scope(actor, Action.ACCOUNTS_RESET)

    def work(db: Session) -> None:
        student = db.scalar(select(Person).where(Person.id == student_id, Person.kind == "student", allowed))
        link = None if student is None else db.get(FamilyLink, (family_id, student.id))
        if student is None or link is None:
            raise NotFound("there is no such link, or you may not change it")
        if link.results == results:
            return
        link.results = results
        name = db.get_one(Person, family_id).name
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "family.results",
            f"person:{student.id}",
            None,
            {"family": name, "results": results},
        )

    ctx.store.write(work)
