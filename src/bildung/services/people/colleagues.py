"""Staff among each other: roles that are given and taken back, and classes shown to a colleague."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared import audit
from bildung.services.shared.access import ROLES, Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Consent, Enrolment, Person, Role, School, SchoolClass

EVERYWHERE = ("writer",)  # the bank belongs to the whole federation


@dataclass(frozen=True)
class RoleLine:
    id: Id
    role: str
    school: str


@dataclass(frozen=True, kw_only=True)
class ColleagueLine:
    """classes: what is shown. mine: whether one shows it, or is shown it."""

    id: Id
    name: str
    classes: str
    since: datetime
    mine: bool


def roles_of(db: Session, person_id: int) -> list[RoleLine]:
    """The roles of a member of staff."""
    schools = {s.id: s.name for s in db.scalars(select(School))}
    return [
        RoleLine(r.id, r.role, schools.get(r.school_id or 0, "the district"))
        for r in db.scalars(select(Role).where(Role.person_id == person_id).order_by(Role.id))
    ]


def grant(ctx: Context, actor: Actor, person_id: int, role: str, school_id: int | None) -> None:
    """Nobody gives what they do not hold: a school's coordinator gives roles of that school only."""
    ctx.store.write(lambda db: give_role(db, ctx, actor, person_id, role, school_id))


def give_role(db: Session, ctx: Context, actor: Actor, person_id: int, role: str, school_id: int | None) -> None:
    """As `grant`, in a transaction that does more."""
    allowed = scope(actor, Action.ROLES_GRANT)
    if role not in ROLES:
        raise Invalid(f"a role is one of {', '.join(ROLES)}", "role")
    everywhere = any(g.role == "coordinator" and g.school_id is None for g in actor.grants)
    if not everywhere and (
        role in EVERYWHERE or not any(g.role == "coordinator" and g.school_id == school_id for g in actor.grants)
    ):
        raise NotAllowed("a role beyond your own school is assigned by the district's coordinator")
    person = db.scalar(select(Person).where(Person.id == person_id, Person.kind == "staff", allowed))
    if person is None:
        raise NotFound("there is no such member of staff, or they are not yours")
    if school_id is not None and db.get(School, school_id) is None:
        raise Invalid("there is no such school", "school_id")
    same = Role.school_id.is_(None) if school_id is None else Role.school_id == school_id
    if db.scalar(select(Role.id).where(Role.person_id == person.id, Role.role == role, same)):
        raise Conflict(f"{person.name} has this role already", "role")
    db.add(Role(person_id=person.id, role=role, school_id=school_id))
    after = {"role": role, "school": school_id}
    audit.record(db, ctx.clock(), actor.person_id, "role.grant", f"person:{person.id}", None, after)


def take_back(ctx: Context, actor: Actor, role_id: int) -> None:
    """It ends at once, everywhere. The last coordinator of the federation stays."""
    allowed = scope(actor, Action.ROLES_GRANT)
    everywhere = any(g.role == "coordinator" and g.school_id is None for g in actor.grants)

    def work(db: Session) -> None:
        row = db.get(Role, role_id)
        person = None if row is None else db.scalar(select(Person).where(Person.id == row.person_id, allowed))
        if row is None or person is None:
            raise NotFound("there is no such role, or you may not remove it")
        if not everywhere and (row.school_id is None or row.role in EVERYWHERE):
            raise NotAllowed("a role beyond your own school is removed by the district's coordinator")
        if row.role == "coordinator" and row.school_id is None:
            others = db.scalars(
                select(Role.id)
                .join(Person, Person.id == Role.person_id)
                .where(Role.role == "coordinator", Role.school_id.is_(None), Role.id != row.id, Person.active.is_(True))
            ).all()
            if not others:
                raise Conflict("this is the only coordinator of the district; assign someone else the role first")
        before = {"role": row.role, "school": row.school_id}
        db.delete(row)
        audit.record(db, ctx.clock(), actor.person_id, "role.take_back", f"person:{person.id}", before, None)

    ctx.store.write(work)


def colleagues(ctx: Context, actor: Actor) -> tuple[list[ColleagueLine], list[tuple[int, str]]]:
    """Who sees one's classes and whose one sees, and the teachers that could be asked."""
    with ctx.store.read() as db:
        rows = db.scalars(
            select(Consent)
            .where(
                (Consent.giver_id == actor.person_id) | (Consent.receiver_id == actor.person_id),
                Consent.ended_at.is_(None),
            )
            .order_by(Consent.id)
        ).all()
        lines = []
        for c in rows:
            mine = c.giver_id == actor.person_id
            other = db.get_one(Person, c.receiver_id if mine else c.giver_id)
            lines.append(
                ColleagueLine(id=c.id, name=other.name, classes=_classes(db, c.giver_id), since=c.given_at, mine=mine)
            )
        me = db.get_one(Person, actor.person_id)
        shown = {c.receiver_id for c in rows if c.giver_id == actor.person_id}
        teachers = db.scalars(
            select(Person)
            .join(Role, Role.person_id == Person.id)
            .where(
                Role.role == "teacher", Person.active.is_(True), Person.id != me.id, Person.school_id == me.school_id
            )
            .distinct()
            .order_by(Person.family, Person.given)
        )
        return lines, [(p.id, p.name) for p in teachers if p.id not in shown]


def _classes(db: Session, teacher_id: int) -> str:
    titles = db.scalars(
        select(SchoolClass.title)
        .join(Enrolment, Enrolment.class_id == SchoolClass.id)
        .where(Enrolment.person_id == teacher_id, Enrolment.role == "teacher", SchoolClass.active.is_(True))
        .order_by(SchoolClass.title)
    )
    return ", ".join(titles)


def show_classes(ctx: Context, actor: Actor, person_id: int) -> None:
    """Let a colleague see one's classes by name: students, sessions, answers; nothing to change."""
    if not actor.may(Action.CLASSES_RUN):
        raise NotAllowed("only staff who teach classes can share them")

    def work(db: Session) -> None:
        other = db.get(Person, person_id)
        if other is None or other.kind != "staff" or not other.active or other.id == actor.person_id:
            raise Invalid("choose a colleague", "person_id")
        if db.scalar(
            select(Consent.id).where(
                Consent.giver_id == actor.person_id, Consent.receiver_id == other.id, Consent.ended_at.is_(None)
            )
        ):
            raise Conflict(f"{other.name} sees your classes already", "person_id")
        db.add(Consent(giver_id=actor.person_id, receiver_id=other.id, given_at=ctx.clock()))
        audit.record(
            db, ctx.clock(), actor.person_id, "classes.show", f"person:{actor.person_id}", None, {"to": other.name}
        )

    ctx.store.write(work)


def hide_classes(ctx: Context, actor: Actor, consent_id: int) -> None:
    """Only the one who gave it takes it back; it ends at once."""

    def work(db: Session) -> None:
        row = db.get(Consent, consent_id)
        if row is None or row.giver_id != actor.person_id or row.ended_at is not None:
            raise NotFound("this is over already, or not yours to end")
        row.ended_at = ctx.clock()
        audit.record(db, ctx.clock(), actor.person_id, "classes.hide", f"person:{actor.person_id}")

    ctx.store.write(work)
