"""What speaks against a session: the wrong test, the wrong day, a room that is taken. Each can be decided otherwise, with a
reason that is kept."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from bildung.core.school.dates import Dates
from bildung.services.calendar.years import calendar, closed_days, zone_of
from bildung.services.owed.sametest import forms_of
from bildung.services.participation.windowdates import window_dates
from bildung.services.sessions.busy import A_DAY
from bildung.services.sessions.wrongtest import wrong_test
from bildung.services.shared.errors import Conflict
from bildung.services.shared.settings import dates_of
from bildung.services.shared.typed import need_text
from bildung.store.models import (
    ClosedDays,
    Enrolment,
    Form,
    Person,
    PlannedSession,
    SchoolClass,
    Sitting,
    Window,
)

LONGEST_WHY = 300
NAMED = 3


@dataclass(frozen=True, kw_only=True)
class Plan:
    """A session as it is to be. session: the one that exists already. people: the students placed in one by name."""

    klass: SchoolClass
    form: Form
    window: Window
    room: str
    start: datetime
    end: datetime
    session: int | None = None
    people: Collection[int] = ()


def concerns(db: Session, plan: Plan) -> list[str]:
    """Sentences that name what speaks against it; none where nothing does."""
    zone, dates = zone_of(db), dates_of(db)
    return [
        *wrong_test(db, plan.form, plan.klass, plan.window, plan.start),
        *_wrong_day(db, plan, zone, dates),
        *_taken_room(db, plan, zone, dates),
        *_students_elsewhere(db, plan, zone, dates),
    ]


def refuse_without_reason(db: Session, plans: Sequence[Plan], why: str | None) -> list[str]:
    """Conflict about `why` where something speaks against a plan and nobody said why it is right; what it was otherwise.
    None: whoever asks has settled it."""
    if why is None:
        return []
    found = list(dict.fromkeys(text for plan in plans for text in concerns(db, plan)))
    if found and not why.strip():
        more = f" ({len(found) - 4} more)" if len(found) > 4 else ""
        raise Conflict(f"{' '.join(found[:4])}{more} Give a reason to schedule it anyway.", "why")
    if found:
        need_text(why, "why", LONGEST_WHY)
    return found


def _wrong_day(db: Session, plan: Plan, zone: ZoneInfo, dates: Dates) -> list[str]:
    first, last = (moment.astimezone(zone).date() for moment in (plan.start, plan.end))
    found = []
    opens, closes = window_dates(db, plan.window, plan.klass.school_id, plan.klass.grade, plan.people)
    if first < opens or last > closes:
        found.append(
            f"{dates.long(first if first < opens else last)} is outside the window {plan.window.name}, "
            f"{dates.day(opens)} to {dates.day(closes)}."
        )
    if plan.end - plan.start < A_DAY and calendar(db, plan.klass.school_id)(first, first).days == 0:
        closed = next((c for c in closed_days(db, plan.klass.school_id) if c.start <= first <= c.end), None)
        name = "" if closed is None else _name_of(db, closed.start, plan.klass.school_id)
        found.append(f"{dates.long(first)} is {name or f'a {first:%A}, not a school day'}.")
    return found


def _name_of(db: Session, start: date, school_id: int) -> str:
    row = db.scalars(
        select(ClosedDays).where(
            ClosedDays.start == start, ClosedDays.school_id.is_(None) | (ClosedDays.school_id == school_id)
        )
    ).first()
    return f"closed: {row.name}" if row is not None else ""


def _taken_room(db: Session, plan: Plan, zone: ZoneInfo, dates: Dates) -> list[str]:
    """By another class at the same time; sessions by name share a room on purpose."""
    if not plan.room or plan.end - plan.start >= A_DAY:
        return []
    other = db.scalars(
        select(PlannedSession)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(
            PlannedSession.room == plan.room,
            SchoolClass.school_id == plan.klass.school_id,
            PlannedSession.start < plan.end,
            PlannedSession.end > plan.start,
            PlannedSession.closed_at.is_(None),
            PlannedSession.by_name.is_(False),
            PlannedSession.id != (plan.session or 0),
        )
        .options(joinedload(PlannedSession.klass))
    ).first()
    if other is None or other.end - other.start >= A_DAY:
        return []
    until = dates.time(other.end.astimezone(zone))
    return [f"Room {plan.room} is taken by {other.klass.title} until {until}."]


def _students_elsewhere(db: Session, plan: Plan, zone: ZoneInfo, dates: Dates) -> list[str]:
    """Students who take another test at that time, at this school or another one that they attend."""
    if plan.end - plan.start >= A_DAY:
        return []
    enrolled = select(Enrolment.person_id).where(
        Enrolment.class_id == plan.klass.id, Enrolment.role == "student", Enrolment.active.is_(True)
    )
    rows = db.execute(
        select(PlannedSession, Person)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .join(Person, Person.id == Sitting.person_id)
        .where(
            Sitting.person_id.in_(plan.people or enrolled),
            Sitting.state.in_(("not_started", "answering", "resting")),
            PlannedSession.start < plan.end,
            PlannedSession.end > plan.start,
            PlannedSession.closed_at.is_(None),
            PlannedSession.form_id.not_in(forms_of(db, plan.form.id)),  # of the same test they leave the other list
            PlannedSession.id != (plan.session or 0),
        )
        .options(joinedload(PlannedSession.klass).joinedload(SchoolClass.school), joinedload(PlannedSession.form))
        .order_by(Person.family, Person.given, Person.id)
    ).all()
    found = []
    for session, person in rows:
        if session.end - session.start >= A_DAY:
            continue
        there = "" if session.klass.school_id == plan.klass.school_id else f" at {session.klass.school.name}"
        until = dates.time(session.end.astimezone(zone))
        found.append(f"{person.name} takes {session.form.name} with {session.klass.title}{there} until {until}.")
    more = len(found) - NAMED
    return [*found[:NAMED], f"So do {more} more students."] if more > 0 else found
