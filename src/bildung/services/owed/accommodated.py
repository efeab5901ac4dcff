"""What students are given when they take a test, read from one place for lists, clocks, papers and plans."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from datetime import date, datetime, timedelta
from math import inf

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from bildung.core.accommodations.holding import Line, Needs, Occasion, holds, together
from bildung.core.accommodations.kinds import UNLIMITED
from bildung.core.school.schooltime import school_day
from bildung.core.school.timing import personal_end, time_added
from bildung.services.calendar.years import zone_of
from bildung.store.models import Accommodation, Form, PlannedSession, Sitting

MOST_NAMED = 500  # ids in one query; with more all rows are read
NONE = Needs()


def line_of(row: Accommodation) -> Line:
    """A row of the store as the core knows it."""
    return Line(
        kind=row.kind,
        value=row.value,
        subject=row.subject,
        test_kind=row.test_kind,
        start=row.start,
        until=row.until,
        approved=row.approved_at is not None,
    )


def occasion_of(form: Form) -> Occasion:
    """What of a test decides which accommodations hold for it."""
    return Occasion(subject=form.subject, test_kind=form.kind)


def of_people(
    db: Session, ids: Collection[int] | None, day: date | None, occasion: Occasion | None = None
) -> dict[int, Needs]:
    """What holds on a day, of those among these (None: all students) for whom anything does."""
    lines: dict[int, list[Line]] = {}
    for row in db.scalars(select(Accommodation).where(_among(ids)).order_by(Accommodation.id)):
        lines.setdefault(row.person_id, []).append(line_of(row))
    found = {id: together(theirs, day, occasion) for id, theirs in lines.items()}
    return {id: needs for id, needs in found.items() if needs.kinds}


def in_session(
    db: Session, session: PlannedSession, ids: Collection[int], form: Form | None = None
) -> dict[int, Needs]:
    """The same at a session, on its day and for its test, or another form that it gives."""
    day = school_day(session.start, zone_of(db))
    return of_people(db, ids, day, occasion_of(form or session.form))


def in_sessions(db: Session, wanted: Sequence[tuple[PlannedSession, int]]) -> dict[tuple[int, int], Needs]:
    """The same for students of several sessions, by session and person, in as many queries as for one."""
    lines: dict[int, list[Line]] = {}
    for row in db.scalars(select(Accommodation).where(_among({p for _, p in wanted})).order_by(Accommodation.id)):
        lines.setdefault(row.person_id, []).append(line_of(row))
    zone, found = zone_of(db), dict[tuple[int, int], Needs]()
    for session, person in wanted:
        if person in lines:
            needs = together(lines[person], school_day(session.start, zone), occasion_of(session.form))
            if needs.kinds:
                found[session.id, person] = needs
    return found


def of_person(db: Session, session: PlannedSession, person_id: int) -> Needs:
    """Of one student at a session."""
    return in_session(db, session, [person_id]).get(person_id, NONE)


def _among(ids: Collection[int] | None) -> ColumnElement[bool]:
    if ids is None or len(ids) > MOST_NAMED:
        return Accommodation.id.is_not(None)
    return Accommodation.person_id.in_(ids)


def said(needs: Needs) -> str:
    """In words, for lists and the log; empty where nothing holds."""
    return ", ".join(needs.says)


def end_for(
    db: Session,
    session: PlannedSession,
    person_id: int,
    began: datetime | None = None,
    limit: int | None = None,
    added: timedelta = timedelta(0),
) -> datetime:
    """When this student has to submit. began, limit: of a test with a time limit of its own, in minutes. added: by which it
    moved (`added_to`)."""
    factor = extra_times(db, session, [person_id]).get(person_id, 1.0)
    return personal_end(session.start, session.end, factor, began, limit, added)


def added_to(sitting: Sitting, now: datetime) -> timedelta:
    """By how much the end of an attempt has moved: pauses, and minutes that were given."""
    return time_added(sitting.added_seconds, sitting.paused_at, now)


def extra_times(db: Session, session: PlannedSession, people: Collection[int]) -> dict[int, float]:
    """Factors on the time at a session, of those who have one; infinite without a limit."""
    found = extra_times_at(db, [(session, person) for person in people])
    return {person: factor for (_, person), factor in found.items()}


def extra_times_at(db: Session, wanted: Sequence[tuple[PlannedSession, int]]) -> dict[tuple[int, int], float]:
    """The same for students of several sessions, by session and person, in as many queries as for one."""
    kept: dict[int, list[Accommodation]] = {}
    among = _among({person for _, person in wanted})
    for row in db.scalars(select(Accommodation).where(Accommodation.kind == "extra_time", among)):
        kept.setdefault(row.person_id, []).append(row)
    if not kept:
        return {}
    zone, found = zone_of(db), dict[tuple[int, int], float]()
    for session, person in wanted:
        for row in kept.get(person, ()):
            if holds(line_of(row), school_day(session.start, zone), occasion_of(session.form)):
                factor = inf if row.value == UNLIMITED else float(row.value)
                found[session.id, person] = max(found.get((session.id, person), 1.0), factor)
    return found


def last_end(db: Session, session: PlannedSession, now: datetime) -> datetime:
    """When the last of a session's students has to submit."""
    factors = extra_times(db, session, [sitting.person_id for sitting in session.sittings])
    added = (added_to(sitting, now) for sitting in session.sittings if sitting.state == "answering")
    longest = max(added, default=timedelta(0))
    return personal_end(session.start, session.end, max(factors.values(), default=1.0), added=longest)


def counts(needs: Mapping[int, Needs]) -> dict[str, int]:
    """How many of these have which, in words, the most frequent first."""
    found: dict[str, int] = {}
    for one in needs.values():
        for word in one.says:
            found[word] = found.get(word, 0) + 1
    return dict(sorted(found.items(), key=lambda entry: (-entry[1], entry[0])))
