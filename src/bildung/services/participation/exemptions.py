"""Exemptions: given for a reason, kept with who asked for them, and ended."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import or_, select, true
from sqlalchemy.orm import Session

from bildung.services.calendar.years import local_today, zone_of
from bildung.services.people.changes import follow
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.settings import dates_of, setting
from bildung.services.shared.wire import Id
from bildung.store.models import (
    Exemption,
    Form,
    Group,
    GroupMember,
    Person,
    PlannedSession,
    SchoolClass,
    Sitting,
    Window,
)

LONGEST = 300


@dataclass(frozen=True, kw_only=True)
class ExemptionWish:
    """As in the table. people: students, one exemption each; or group_id, for whoever is in it."""

    people: Sequence[int] = ()
    group_id: int | None = None
    window_id: int | None = None
    subject: str = ""
    reason: str
    asked_by: str = ""
    note: str = ""
    instead: str = ""
    starts: date | None = None
    ends: date | None = None


@dataclass(frozen=True, kw_only=True)
class ExemptionLine:
    """who: the student's or the group's name. holds: today. by: who entered it."""

    id: Id
    person: Id | None
    who: str
    reason: str
    subject: str
    window: str
    asked_by: str
    note: str
    instead: str
    starts: date
    ends: date | None
    by: str
    holds: bool


def exempt(ctx: Context, actor: Actor, wish: ExemptionWish) -> list[int]:
    """Students, or a group, do not have to take the tests of a subject. They leave the lists of sessions that are still to
    come. All or none of them."""
    allowed = scope(actor, Action.SUPPORT_WRITE)
    for name in ("asked_by", "note", "instead", "subject"):
        if len(getattr(wish, name)) > LONGEST:
            raise Invalid(f"at most {LONGEST} characters", name)

    def work(db: Session) -> list[int]:
        starts = wish.starts or local_today(ctx, db)
        if wish.reason not in setting(db, "exemption_reasons"):
            raise Invalid("choose a reason from the district's list", "reason")
        if wish.ends is not None and wish.ends < starts:
            raise Invalid("the last day is on or after the first", "ends")
        if wish.window_id is not None and db.get(Window, wish.window_id) is None:
            raise Invalid("choose a window", "window_id")
        people = _people(db, wish, allowed)
        _refuse_taken(db, people, wish, starts)
        made = []
        for person_id in [None] if wish.group_id is not None else [p.id for p in people]:
            row = Exemption(
                person_id=person_id,
                group_id=wish.group_id,
                window_id=wish.window_id,
                subject=wish.subject.strip(),
                reason=wish.reason,
                asked_by=wish.asked_by.strip(),
                note=wish.note.strip(),
                instead=wish.instead.strip(),
                starts=starts,
                ends=wish.ends,
                at=ctx.clock(),
                by_id=actor.person_id,
            )
            db.add(row)
            db.flush()
            made.append(row.id)
            subject = f"person:{person_id}" if person_id is not None else f"group:{wish.group_id}"
            after = {"exemption": row.id, "subject": row.subject or "all", "asked by": row.asked_by}
            audit.record(db, ctx.clock(), actor.person_id, "exemption.give", subject, None, after, row.reason)
        follow(db, [p.id for p in people])
        return made

    return ctx.store.write(work)


def _people(db: Session, wish: ExemptionWish, allowed: object) -> list[Person]:
    """Whom it is about, all of them this person's to exempt."""
    if (wish.group_id is None) == (not wish.people):
        raise Invalid("choose students, or a group", "people")
    wanted = select(Person).where(Person.student.is_(True), Person.active.is_(True), allowed)  # type: ignore[arg-type]
    if wish.group_id is not None:
        if db.get(Group, wish.group_id) is None:
            raise NotFound("there is no such group")
        members = select(GroupMember.person_id).where(GroupMember.group_id == wish.group_id)
        inside = set(db.scalars(members))
        found = list(db.scalars(wanted.where(Person.id.in_(inside))))
        if len(found) < len(inside):
            raise NotFound("not all students of this group are yours to exempt")
        return found
    found = list(db.scalars(wanted.where(Person.id.in_(wish.people))))
    if len(found) < len(set(wish.people)):
        raise NotFound("there is no such student, or they are not yours to exempt")
    return found


def _refuse_taken(db: Session, people: Sequence[Person], wish: ExemptionWish, starts: date) -> None:
    """What is submitted stays so, and what is in progress is ended first."""
    names = {p.id: p.name for p in people}
    rows = db.execute(
        select(Sitting, Form, PlannedSession)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .join(Form, Form.id == PlannedSession.form_id)
        .join(Window, Window.id == PlannedSession.window_id)
        .where(
            Sitting.person_id.in_(names),
            Sitting.state.in_(("handed_in", "answering")),
            Form.subject == wish.subject.strip() if wish.subject else true(),
            PlannedSession.window_id == wish.window_id if wish.window_id is not None else Window.end >= starts,
        )
        .order_by(Sitting.state, PlannedSession.start)
    ).all()
    for sitting, form, session in rows:
        who = names[sitting.person_id]
        if sitting.state == "answering":
            raise Conflict(
                f"{who} is taking {form.title} now; wait until it is submitted, or invalidate the attempt first",
                "people",
            )
        if wish.subject:
            day = dates_of(db).long(session.start.astimezone(zone_of(db)).date())
            raise Conflict(
                f"{who} submitted {form.title} on {day}; invalidate that attempt first if it must not count", "people"
            )


def end_exemption(ctx: Context, actor: Actor, exemption_id: int) -> None:
    """From now on the tests are owed again; sessions that are still to come take the student back."""
    allowed = scope(actor, Action.SUPPORT_WRITE)

    def work(db: Session) -> None:
        row = db.get(Exemption, exemption_id)
        people = [] if row is None else _whom(db, row)
        mine = set(db.scalars(select(Person.id).where(Person.id.in_(people), allowed)))
        if row is None or not set(people) <= mine:
            raise NotFound("there is no such exemption, or it is not yours to end")
        if row.ended_at is not None:
            raise Conflict("this exemption has ended already")
        row.ended_at, row.ended_by = ctx.clock(), actor.person_id
        subject = f"person:{row.person_id}" if row.person_id is not None else f"group:{row.group_id}"
        audit.record(
            db, ctx.clock(), actor.person_id, "exemption.end", subject, {"exemption": row.id}, None, row.reason
        )
        follow(db, people)

    ctx.store.write(work)


def _whom(db: Session, row: Exemption) -> list[int]:
    if row.person_id is not None:
        return [row.person_id]
    return list(db.scalars(select(GroupMember.person_id).where(GroupMember.group_id == row.group_id)))


@dataclass(frozen=True, kw_only=True)
class ExemptionsPage:
    """reasons, subjects: what an exemption can be for."""

    exemptions: list[ExemptionLine]
    reasons: list[str]
    subjects: list[str]


def exemptions_page(ctx: Context, actor: Actor, person_id: int | None = None) -> ExemptionsPage:
    """Exemptions as `list_exemptions` has them, with what a new one can be made of."""
    found = list_exemptions(ctx, actor, person_id)
    with ctx.store.read() as db:
        subjects = db.scalars(select(SchoolClass.subject).where(SchoolClass.subject != "").distinct())
        return ExemptionsPage(exemptions=found, reasons=setting(db, "exemption_reasons"), subjects=sorted(subjects))


def list_exemptions(ctx: Context, actor: Actor, person_id: int | None = None) -> list[ExemptionLine]:
    """Exemptions of students whom this person sees with their accommodations, the newest first; of one, or of all that
    have not been ended."""
    allowed = scope(actor, Action.SUPPORT_READ)
    with ctx.store.read() as db:
        today = local_today(ctx, db)
        members = select(GroupMember.group_id).where(GroupMember.person_id == person_id)
        wanted = (
            select(Exemption, Person, Group.name, Window.name)
            .outerjoin(Person, Person.id == Exemption.person_id)
            .outerjoin(Group, Group.id == Exemption.group_id)
            .outerjoin(Window, Window.id == Exemption.window_id)
            .where(or_(Exemption.person_id.is_(None), allowed))
            .order_by(Exemption.id.desc())
        )
        if person_id is not None:
            wanted = wanted.where(or_(Exemption.person_id == person_id, Exemption.group_id.in_(members)))
        else:
            wanted = wanted.where(Exemption.ended_at.is_(None))
        rows = db.execute(wanted).all()
        entered = {
            id: f"{given} {family}".strip()
            for id, given, family in db.execute(
                select(Person.id, Person.given, Person.family).where(Person.id.in_({e.by_id for e, *_ in rows}))
            )
        }
        return [
            ExemptionLine(
                id=e.id,
                person=e.person_id,
                who=p.name if p is not None else f"group {group}",
                reason=e.reason,
                subject=e.subject,
                window=window or "",
                asked_by=e.asked_by,
                note=e.note,
                instead=e.instead,
                starts=e.starts,
                ends=e.ends,
                by=entered.get(e.by_id or 0, ""),
                holds=e.ended_at is None and e.starts <= today and (e.ends is None or e.ends >= today),
            )
            for e, p, group, window in rows
        ]
