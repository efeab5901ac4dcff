"""What somebody decided about the rosters against what the files say, remembered so that the next file does not undo it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Person, RosterDecision, SchoolClass


@dataclass(frozen=True, kw_only=True)
class Decided:
    """The decisions in force. different: pairs of people, smaller id first. merged: source id of a second record to the
    one it was merged into. kept_out: person and class in which the file has them wrongly. both: person and class that is
    right although the person has another of the subject. gone: people whom the file still has although they left."""

    different: frozenset[tuple[int, int]] = frozenset()
    merged: dict[str, str] = field(default_factory=dict)
    kept_out: frozenset[tuple[int, int]] = frozenset()
    both: frozenset[tuple[int, int]] = frozenset()
    gone: frozenset[int] = frozenset()


NOTHING_DECIDED = Decided()


@dataclass(frozen=True)
class DecisionLine:
    """One decision in force, in words."""

    id: Id
    says: str
    by: str
    at: datetime


def decided(db: Session) -> Decided:
    """Everything that was decided against the files, to be held to."""
    found: defaultdict[str, set[tuple[int, int]]] = defaultdict(set)
    for row in db.scalars(select(RosterDecision).where(RosterDecision.ended_at.is_(None))):
        found[row.kind].add((row.person_id, row.other_id or row.class_id or 0))
    names = (
        {id: source for id, source in db.execute(select(Person.id, Person.source_id))}
        if found or _any_merged(db)
        else {}
    )
    merged = {
        source: names[into]
        for source, into in db.execute(
            select(Person.source_id, Person.merged_into_id).where(Person.merged_into_id.is_not(None))
        )
        if into is not None
    }
    return Decided(
        different=frozenset((min(a, b), max(a, b)) for a, b in found["different"]),
        merged=merged,
        kept_out=frozenset(found["keep_out"]),
        both=frozenset(found["both"]),
        gone=frozenset(person for person, _ in found["set_aside"]),
    )


def _any_merged(db: Session) -> bool:
    return db.scalar(select(Person.id).where(Person.merged_into_id.is_not(None)).limit(1)) is not None


def remember(
    db: Session,
    at: datetime,
    by: int,
    kind: str,
    person_id: int,
    other_id: int | None = None,
    class_id: int | None = None,
) -> None:
    """Once for each thing that was decided."""
    same = select(RosterDecision).where(
        RosterDecision.kind == kind,
        RosterDecision.person_id == person_id,
        RosterDecision.ended_at.is_(None),
        RosterDecision.other_id.is_not_distinct_from(other_id),
        RosterDecision.class_id.is_not_distinct_from(class_id),
    )
    if db.scalar(same) is None:
        db.add(RosterDecision(kind=kind, person_id=person_id, other_id=other_id, class_id=class_id, by_id=by, at=at))


def end_moot(db: Session, at: datetime, enrolments: Iterable[tuple[int, int]], people: Iterable[int]) -> None:
    """Decisions that the records agree with now: the enrolment or the person is no longer in the file."""
    pairs, persons = set(enrolments), set(people)
    for row in db.scalars(select(RosterDecision).where(RosterDecision.ended_at.is_(None))):
        if (row.kind == "keep_out" and (row.person_id, row.class_id) in pairs) or (
            row.kind == "set_aside" and row.person_id in persons
        ):
            row.ended_at = at


def lines(db: Session, actor: Actor) -> list[DecisionLine]:
    """In force, about people whom this person settles rosters of; newest first."""
    allowed = scope(actor, Action.PEOPLE_SETTLE)
    rows = db.scalars(
        select(RosterDecision)
        .join(Person, Person.id == RosterDecision.person_id)
        .where(RosterDecision.ended_at.is_(None), allowed)
        .order_by(RosterDecision.id.desc())
        .limit(200)
    ).all()
    people = (
        {row.person_id for row in rows} | {row.by_id for row in rows} | {row.other_id for row in rows if row.other_id}
    )
    names = {p.id: p for p in db.scalars(select(Person).where(Person.id.in_(people)))}
    titles = {
        c.id: c.title
        for c in db.scalars(select(SchoolClass).where(SchoolClass.id.in_([r.class_id for r in rows if r.class_id])))
    }

    def says(row: RosterDecision) -> str:
        who, where = names[row.person_id], titles.get(row.class_id or 0, "")
        if row.kind == "different":
            return f"{who.name} ({who.source_id}) and ({names[row.other_id or 0].source_id}) are different people"
        if row.kind == "keep_out":
            return f"{who.name} is not in {where}, although the records say so"
        if row.kind == "both":
            return f"{who.name} is in {where} as well, and that is right"
        return f"{who.name} has left, although the records still have them"

    return [DecisionLine(row.id, says(row), names[row.by_id].name, row.at) for row in rows]


def withdraw(ctx: Context, actor: Actor, decision_id: int) -> None:
    """From now on the files count again; what was changed here stays until the next one."""
    allowed = scope(actor, Action.PEOPLE_SETTLE)

    def work(db: Session) -> None:
        row = db.scalar(
            select(RosterDecision)
            .join(Person, Person.id == RosterDecision.person_id)
            .where(RosterDecision.id == decision_id, RosterDecision.ended_at.is_(None), allowed)
        )
        if row is None:
            raise NotFound("there is no such decision, or it is not yours")
        row.ended_at = ctx.clock()
        audit.record(db, ctx.clock(), actor.person_id, "roster.withdraw", f"person:{row.person_id}", row.kind, None)

    ctx.store.write(work)


def same_day(one: date | None, other: date | None) -> bool:
    """Whether two birth dates speak against two records being one person's: they do where both are known and differ."""
    return one is None or other is None or one == other
