"""Ending a window early for a school or a grade: what has not begun is canceled for one reason, and what stays untested is
told."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from sqlalchemy import select

from bildung.core.items.shown import counted
from bildung.core.participation.standing import Standing
from bildung.services.calendar.years import zone_of
from bildung.services.participation.obligations import owed_tests
from bildung.services.participation.windowdates import WindowDatesWish, put_dates
from bildung.services.sessions.changing import cancel
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import PlannedSession, School, SchoolClass, Window


@dataclass(frozen=True, kw_only=True)
class Untested:
    """A student who will not take a test of the window any more."""

    person: Id
    name: str
    klass: str
    test: str


@dataclass(frozen=True, kw_only=True)
class EndedEarly:
    """canceled: sessions. untested: what stays open in those classes, by name."""

    finding: str
    canceled: int
    untested: list[Untested]


def end_early(
    ctx: Context, actor: Actor, window_id: int, last: date, school_id: int | None, grade: str, why: str
) -> EndedEarly:
    """last: the last day on which sessions take place."""
    scope(actor, Action.YEARS_WRITE)
    why = need_text(why, "why", 300)
    if school_id is None and not grade:
        raise Invalid("choose a school or a grade; for everyone, change the window in the calendar", "school")
    with ctx.store.read() as db:
        window = db.get(Window, window_id)
        if window is None:
            raise NotFound("there is no such window")
        if not window.start <= last <= window.end:
            raise Invalid("the last day is a day of the window", "last")
        after = datetime.combine(last + timedelta(days=1), time(), zone_of(db))
        classes = select(SchoolClass.id)
        if school_id is not None:
            if db.get(School, school_id) is None:
                raise NotFound("there is no such school")
            classes = classes.where(SchoolClass.school_id == school_id)
        if grade:
            classes = classes.where(SchoolClass.grade == grade)
        ids = list(
            db.scalars(
                select(PlannedSession.id).where(
                    PlannedSession.window_id == window_id,
                    PlannedSession.class_id.in_(classes),
                    PlannedSession.closed_at.is_(None),
                    PlannedSession.start >= after,
                    scope(actor, Action.SESSIONS_PLAN),
                )
            )
        )
        start = window.start
        school = db.get_one(School, school_id).name if school_id is not None else ""
    put_dates(
        ctx,
        actor,
        WindowDatesWish(window_id=window_id, school_id=school_id, grade=grade, start=start, end=last, why=why),
    )
    if ids:
        cancel(ctx, actor, ids, why)
    with ctx.store.read() as db:
        open_ = [
            one
            for one in owed_tests(ctx, db, actor, window_id)
            if one.owed.standing is Standing.NOT_SCHEDULED
            and (not school or one.school == school)
            and (not grade or one.grade == grade)
        ]
    untested = [Untested(person=o.person, name=o.name, klass=o.klass, test=o.title) for o in open_]
    finding = f"{counted(len(ids), 'session')} canceled. "
    finding += f"{counted(len(untested), 'test')} will stay untested." if untested else "Every test there is submitted."
    return EndedEarly(finding=finding, canceled=len(ids), untested=untested)
