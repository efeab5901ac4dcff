"""Safety alerts: a response that tells of harm goes at once, with the name, to the persons whom the school named."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session, joinedload

from bildung.services.scoring.items import hand_item, may_score
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import (
    AlertPerson,
    AlertReceiver,
    FormItem,
    Item,
    ItemVersion,
    Person,
    PlannedSession,
    Response,
    Role,
    SafetyAlert,
    School,
    SchoolClass,
    Sitting,
    StudentWork,
)

MOST_PERSONS = 10


@dataclass(frozen=True, kw_only=True)
class AlertLine:
    """One alert, as whoever it went to reads it. words: response and notes as they were then. to: who received it. closed:
    what was done about it; empty while nothing was noted."""

    id: Id
    student: str
    grade: str
    school: str
    klass: str
    test: str
    item: str
    words: str
    raised_by: str
    at: datetime
    to: list[str]
    seen: bool
    closed: str
    closed_by: str


@dataclass(frozen=True)
class AlertsPage:
    finding: str
    lines: list[AlertLine]


@dataclass(frozen=True)
class AlertSchool:
    """persons: whom alerts about this school's students go to; fallback: where nobody is named, its coordinators."""

    school_id: Id
    school: str
    persons: list[AlertChoice]
    fallback: list[str]


@dataclass(frozen=True)
class AlertChoice:
    id: Id
    name: str


def raise_alert(ctx: Context, actor: Actor, place: int, window_id: int, sitting_id: int) -> list[str]:
    """By anybody who may read the response; the same response is told once. Whom it went to."""
    with ctx.store.read() as db:
        item = hand_item(db, place)
        allowed = may_score(actor, item.place)

    def work(db: Session) -> tuple[list[str], list[int]]:
        row = db.execute(
            select(PlannedSession, Response.answer)
            .select_from(Sitting)
            .join(PlannedSession, PlannedSession.id == Sitting.session_id)
            .outerjoin(Response, (Response.sitting_id == Sitting.id) & (Response.form_item_id == place))
            .where(Sitting.id == sitting_id, PlannedSession.window_id == window_id, allowed)
        ).first()
        if row is None:
            raise NotFound("there is no such response, or it is not yours to read")
        session, answer = row
        there = db.scalar(
            select(SafetyAlert).where(SafetyAlert.sitting_id == sitting_id, SafetyAlert.form_item_id == place)
        )
        school = db.get_one(SchoolClass, session.class_id).school_id
        persons = _receivers(db, school)
        if not persons:
            raise Conflict("no one is named for safety alerts at this school; tell the principal in person, now")
        if there is None:
            notes = db.scalar(
                select(StudentWork.content).where(
                    StudentWork.sitting_id == sitting_id,
                    StudentWork.form_item_id == place,
                    StudentWork.kind == "notes",
                )
            )
            words = "\n\n".join(text for text in (answer or "", f"Notes: {notes}" if notes else "") if text)
            there = SafetyAlert(
                sitting_id=sitting_id, form_item_id=place, by_id=actor.person_id, at=ctx.clock(), answer=words
            )
            db.add(there)
            db.flush()
            db.add_all(AlertReceiver(alert_id=there.id, person_id=p.id) for p in persons)
            after = {"to": [p.name for p in persons]}
            audit.record(db, ctx.clock(), actor.person_id, "alert.raise", f"sitting:{sitting_id}", None, after)
        return [p.name for p in persons], [p.id for p in persons]

    names, ids = ctx.store.write(work)
    for person in ids:
        ctx.bus.publish(f"alerts:{person}", {"alert": "new"})
    return names


def _receivers(db: Session, school_id: int) -> list[Person]:
    """Those named for a school; where nobody is, its coordinators and leaders, so that no alert goes nowhere."""
    named = db.scalars(
        select(Person)
        .join(AlertPerson, AlertPerson.person_id == Person.id)
        .where(AlertPerson.school_id == school_id, Person.active.is_(True))
        .order_by(Person.family, Person.given)
    ).all()
    if named:
        return list(named)
    leads = db.scalars(
        select(Person)
        .join(Role, Role.person_id == Person.id)
        .where(
            Role.role.in_(("coordinator", "leader")),
            (Role.school_id == school_id) | Role.school_id.is_(None),
            Person.active.is_(True),
        )
        .distinct()
        .order_by(Person.family, Person.given)
    )
    return list(leads)


def receivers_named(db: Session, sessions: Collection[int]) -> list[str]:
    """Whom an alert of one of these sessions goes to, by name."""
    schools = db.scalars(
        select(SchoolClass.school_id)
        .join(PlannedSession, PlannedSession.class_id == SchoolClass.id)
        .where(PlannedSession.id.in_(sessions))
        .distinct()
    ).all()
    return sorted({p.name for school in schools for p in _receivers(db, school)})


def alerts(ctx: Context, actor: Actor) -> AlertsPage:
    """Those that went to this person, and to nobody else; opening the page is noted."""

    with ctx.store.read() as db:
        rows = db.execute(
            select(SafetyAlert, AlertReceiver, PlannedSession, Person, Item.code, SchoolClass, School)
            .join(AlertReceiver, AlertReceiver.alert_id == SafetyAlert.id)
            .join(Sitting, Sitting.id == SafetyAlert.sitting_id)
            .join(Person, Person.id == Sitting.person_id)
            .join(PlannedSession, PlannedSession.id == Sitting.session_id)
            .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
            .join(School, School.id == SchoolClass.school_id)
            .join(FormItem, FormItem.id == SafetyAlert.form_item_id)
            .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
            .join(Item, Item.id == ItemVersion.item_id)
            .where(AlertReceiver.person_id == actor.person_id)
            .options(joinedload(PlannedSession.form))
            .order_by(SafetyAlert.closed_at.is_not(None), SafetyAlert.at.desc())
        ).all()
        ids = [alert.id for alert, *_ in rows]
        to: dict[int, list[str]] = {}
        for alert_id, person in db.execute(
            select(AlertReceiver.alert_id, Person)
            .join(Person, Person.id == AlertReceiver.person_id)
            .where(AlertReceiver.alert_id.in_(ids))
            .order_by(Person.family, Person.given)
        ):
            to.setdefault(alert_id, []).append(person.name)
        staff = {alert.by_id for alert, *_ in rows} | {alert.closed_by_id for alert, *_ in rows}
        names = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_(staff - {None})))}
        lines = [
            AlertLine(
                id=alert.id,
                student=person.name,
                grade=person.grade,
                school=school.name,
                klass=klass.title,
                test=session.form.title,
                item=code,
                words=alert.answer,
                raised_by=names[alert.by_id],
                at=alert.at,
                to=to[alert.id],
                seen=receiver.seen_at is not None,
                closed=alert.outcome,
                closed_by=names[alert.closed_by_id] if alert.closed_by_id else "",
            )
            for alert, receiver, session, person, code, klass, school in rows
        ]
    if not all(line.seen for line in lines):
        seen = update(AlertReceiver).where(AlertReceiver.person_id == actor.person_id, AlertReceiver.seen_at.is_(None))
        ctx.store.write(lambda db: db.execute(seen.values(seen_at=ctx.clock())))
    return AlertsPage(_finding(lines), lines)


def _finding(lines: list[AlertLine]) -> str:
    open_ = sum(not line.closed for line in lines)
    if not lines:
        return "No safety alert has come to you."
    if open_:
        return f"{open_} safety {'alert waits' if open_ == 1 else 'alerts wait'} for you to act."
    return "Every safety alert that came to you has been dealt with."


def open_alerts(db: Session, actor: Actor) -> int:
    """How many came to this person about which nothing was noted yet."""
    wanted = (
        select(func.count())
        .select_from(SafetyAlert)
        .join(AlertReceiver, AlertReceiver.alert_id == SafetyAlert.id)
        .where(AlertReceiver.person_id == actor.person_id, SafetyAlert.closed_at.is_(None))
    )
    return db.scalar(wanted) or 0


def close_alert(ctx: Context, actor: Actor, alert_id: int, outcome: str) -> None:
    """What was done about it, by one of those it went to."""
    outcome = need_text(outcome, "outcome")

    def work(db: Session) -> None:
        alert = db.scalar(
            select(SafetyAlert)
            .join(AlertReceiver, AlertReceiver.alert_id == SafetyAlert.id)
            .where(SafetyAlert.id == alert_id, AlertReceiver.person_id == actor.person_id)
        )
        if alert is None:
            raise NotFound("there is no such alert, or it did not come to you")
        alert.closed_at, alert.closed_by_id, alert.outcome = ctx.clock(), actor.person_id, outcome
        audit.record(
            db, ctx.clock(), actor.person_id, "alert.close", f"sitting:{alert.sitting_id}", None, {"alert": alert_id}
        )

    ctx.store.write(work)


def alert_schools(ctx: Context, actor: Actor) -> list[AlertSchool]:
    """Whom alerts go to, by school that this person coordinates."""
    with ctx.store.read() as db:
        schools = db.scalars(select(School).where(scope(actor, Action.WINDOWS_PLAN)).order_by(School.name)).all()
        found = []
        for school in schools:
            named = db.scalars(
                select(Person)
                .join(AlertPerson, AlertPerson.person_id == Person.id)
                .where(AlertPerson.school_id == school.id)
                .order_by(Person.family, Person.given)
            ).all()
            persons = [AlertChoice(p.id, p.name) for p in named]
            fallback = [] if named else [p.name for p in _receivers(db, school.id)]
            found.append(AlertSchool(school.id, school.name, persons, fallback))
        return found


def name_persons(ctx: Context, actor: Actor, school_id: int, persons: Collection[int]) -> list[AlertSchool]:
    """Whom alerts about a school's students go to from now on: staff only."""
    if len(set(persons)) > MOST_PERSONS:
        raise Invalid(f"at most {MOST_PERSONS} persons", "persons")

    def work(db: Session) -> None:
        school = db.scalar(select(School).where(School.id == school_id, scope(actor, Action.WINDOWS_PLAN)))
        if school is None:
            raise NotFound("there is no such school, or it is not yours")
        staff = set(
            db.scalars(select(Person.id).where(Person.id.in_(persons), Person.kind == "staff", Person.active.is_(True)))
        )
        if staff != set(persons):
            raise Invalid("safety alerts go to staff of the district only", "persons")
        before = sorted(db.scalars(select(AlertPerson.person_id).where(AlertPerson.school_id == school_id)))
        db.execute(delete(AlertPerson).where(AlertPerson.school_id == school_id))
        db.add_all(AlertPerson(school_id=school_id, person_id=id) for id in sorted(staff))
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "alert.persons",
            f"school:{school_id}",
            {"persons": before},
            {"persons": sorted(staff)},
        )

    ctx.store.write(work)
    return alert_schools(ctx, actor)
