"""Evidence and interventions entered by hand: scores and observations of a class on a standard, what was tried and when."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.calendar.years import local_today
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.store.models import Enrolment, EnteredEvidence, Intervention, SchoolClass, Standard

KINDS = ("score", "observation")
MOST_POINTS = 100
OLDEST = 400  # days back that evidence may lie


@dataclass(frozen=True, kw_only=True)
class EnteredPoints:
    """Of one student."""

    person: int
    earned: float


@dataclass(frozen=True, kw_only=True)
class NewEvidence:
    """Points of some students on a standard. kind: score or observation. what: of what, in words."""

    standard: int
    kind: str
    what: str
    on: date | None
    possible: float
    points: Sequence[EnteredPoints]


@dataclass(frozen=True, kw_only=True)
class NewIntervention:
    """What is tried with some students on a standard."""

    standard: int
    people: Sequence[int]
    what: str
    start: date | None
    until: date | None


def enter_evidence(ctx: Context, actor: Actor, new: NewEvidence) -> int:
    """How many were entered; all of them or none."""
    what = need_text(new.what, "what", 120)
    if new.kind not in KINDS:
        raise Invalid(f"one of {', '.join(KINDS)}", "kind")
    if new.on is None:
        raise Invalid("evidence needs its date: the day on which the work was done", "on")
    if not 0 < new.possible <= MOST_POINTS:
        raise Invalid(f"over 0 to {MOST_POINTS} points", "possible")
    if not new.points:
        raise Invalid("enter the points of at least one student", "points")
    if len({p.person for p in new.points}) < len(new.points):
        raise Invalid("a student is there twice", "points")
    for p in new.points:
        if not 0 <= p.earned <= new.possible:
            raise Invalid(f"{p.earned:g} points; allowed are 0 to {new.possible:g}", "points")
    on, today = new.on, ctx.clock()

    def work(db: Session) -> int:
        day = local_today(ctx, db)
        if on > day:
            raise Invalid("the day is still to come", "on")
        if (day - on).days > OLDEST:
            raise Invalid(f"the day lies more than {OLDEST} days back", "on")
        _theirs(db, actor, new.standard, [p.person for p in new.points])
        db.add_all(
            EnteredEvidence(
                person_id=p.person,
                standard_id=new.standard,
                kind=new.kind,
                what=what,
                on=on,
                earned=p.earned,
                possible=new.possible,
                by_id=actor.person_id,
                at=today,
            )
            for p in new.points
        )
        after = {"kind": new.kind, "what": what, "on": str(on), "students": len(new.points)}
        audit.record(db, today, actor.person_id, "evidence.enter", f"standard:{new.standard}", None, after)
        return len(new.points)

    return ctx.store.write(work)


def withdraw_evidence(ctx: Context, actor: Actor, id: int) -> None:
    """No longer evidence; it stays on record. By whoever entered it, or a coordinator."""

    def work(db: Session) -> None:
        row = db.get(EnteredEvidence, id)
        if row is None or not _may(db, actor, row.by_id, row.person_id):
            raise NotFound("there is no such entry, or it is not yours")
        if row.withdrawn_at is not None:
            raise Conflict("it was withdrawn already")
        row.withdrawn_at = ctx.clock()
        before = {"what": row.what, "on": str(row.on), "earned": row.earned, "possible": row.possible}
        audit.record(db, ctx.clock(), actor.person_id, "evidence.withdraw", f"person:{row.person_id}", before, None)

    ctx.store.write(work)


def enter_intervention(ctx: Context, actor: Actor, new: NewIntervention) -> int:
    """How many students it is entered for."""

    def work(db: Session) -> int:
        return put_intervention(ctx, db, actor, new, None)

    return ctx.store.write(work)


def put_intervention(ctx: Context, db: Session, actor: Actor, new: NewIntervention, group: int | None) -> int:
    """In the transaction of whoever made a group of them."""
    what = need_text(new.what, "what", 200)
    if new.start is None:
        raise Invalid("say since when", "start")
    if new.until is not None and new.until < new.start:
        raise Invalid("it ends before it begins", "until")
    if (new.start - local_today(ctx, db)).days > OLDEST:
        raise Invalid("it begins more than a year from now", "start")
    people = list(dict.fromkeys(new.people))
    if not people:
        raise Invalid("choose at least one student", "people")
    _theirs(db, actor, new.standard, people)
    db.add_all(
        Intervention(
            person_id=person,
            standard_id=new.standard,
            group_id=group,
            what=what,
            start=new.start,
            until=new.until,
            by_id=actor.person_id,
            at=ctx.clock(),
        )
        for person in people
    )
    after = {"what": what, "start": str(new.start), "students": len(people)}
    audit.record(db, ctx.clock(), actor.person_id, "intervention.enter", f"standard:{new.standard}", None, after)
    return len(people)


def end_intervention(ctx: Context, actor: Actor, id: int, until: date | None, withdraw: bool) -> None:
    """Ended on a day, or withdrawn as it was entered by mistake."""

    def work(db: Session) -> None:
        row = db.get(Intervention, id)
        if row is None or not _may(db, actor, row.by_id, row.person_id):
            raise NotFound("there is no such intervention, or it is not yours")
        if withdraw:
            row.withdrawn_at = ctx.clock()
        elif until is not None and until < row.start:
            raise Invalid("it ends before it begins", "until")
        else:
            row.until = until
        after = {"what": row.what, "until": str(until) if until else None, "withdrawn": withdraw}
        audit.record(db, ctx.clock(), actor.person_id, "intervention.end", f"person:{row.person_id}", None, after)

    ctx.store.write(work)


def _may(db: Session, actor: Actor, by: int, person: int) -> bool:
    """Whoever entered it; of others' entries, coordinators of the student's school."""
    if not actor.may(Action.MASTERY_ENTER):
        return False
    if by == actor.person_id:
        return True
    keeper = any(g.role == "coordinator" for g in actor.grants)
    return keeper and person in _reach(db, actor, None, [person])


def _theirs(db: Session, actor: Actor, standard: int, people: Sequence[int]) -> None:
    """Raises NotFound where the standard is not there, or a student is not in a class of its subject that is theirs."""
    found = db.get(Standard, standard)
    if found is None:
        raise NotFound("there is no such standard")
    missing = set(people) - _reach(db, actor, found.subject, people)
    if missing:
        raise NotFound(
            f"{len(missing)} of these students are in no class of {found.subject or 'this subject'} that you teach"
            if len(missing) > 1
            else f"a student is in no class of {found.subject or 'this subject'} that you teach"
        )


def _reach(db: Session, actor: Actor, subject: str | None, people: Sequence[int]) -> set[int]:
    wanted = [SchoolClass.subject == subject] if subject is not None else []
    return set(
        db.scalars(
            select(Enrolment.person_id)
            .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
            .where(
                Enrolment.person_id.in_(people),
                Enrolment.role == "student",
                Enrolment.active.is_(True),
                scope(actor, Action.MASTERY_ENTER),
                *wanted,
            )
        )
    )
