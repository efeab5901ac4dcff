"""Other dates of a window than the district's: for a school, a grade, or one student."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Person, School, Window, WindowDates

LONGEST_WHY = 300


@dataclass(frozen=True, kw_only=True)
class WindowDatesLine:
    """whose: the school, the grade or the student that they are of."""

    id: Id
    whose: str
    start: date
    end: date
    why: str


@dataclass(frozen=True, kw_only=True)
class WindowDatesWish:
    """For a school, for a grade (of a school or of all), or for one student."""

    window_id: int
    school_id: int | None = None
    grade: str = ""
    person_id: int | None = None
    start: date
    end: date
    why: str = ""


def window_dates(
    db: Session, window: Window, school_id: int, grade: str, people: Collection[int] = ()
) -> tuple[date, date]:
    """First and last day of a window for a class: a school's or a grade's own dates go before the district's, the closest
    first. people: where all of them have dates of their own, theirs hold."""
    rows = db.scalars(select(WindowDates).where(WindowDates.window_id == window.id)).all()
    own = {row.person_id: row for row in rows if row.person_id in people}
    if people and len(own) == len(set(people)):
        return min(row.start for row in own.values()), max(row.end for row in own.values())
    fits = [
        row for row in rows if row.person_id is None and row.school_id in (None, school_id) and row.grade in ("", grade)
    ]
    closest = max(fits, key=lambda row: (row.school_id is not None) + 2 * (row.grade != ""), default=None)
    return (closest.start, closest.end) if closest is not None else (window.start, window.end)


def list_dates(ctx: Context, actor: Actor, window_id: int) -> list[WindowDatesLine]:
    """In the order in which they were entered."""
    scope(actor, Action.SESSIONS_READ)
    with ctx.store.read() as db:
        rows = db.scalars(select(WindowDates).where(WindowDates.window_id == window_id).order_by(WindowDates.id)).all()
        return [
            WindowDatesLine(id=row.id, whose=_whose(db, row), start=row.start, end=row.end, why=row.why) for row in rows
        ]


def _whose(db: Session, row: WindowDates) -> str:
    if row.person_id is not None:
        return db.get_one(Person, row.person_id).name
    school = db.get_one(School, row.school_id).name if row.school_id is not None else ""
    grade = f"grade {row.grade}" if row.grade else ""
    return ", ".join(text for text in (school, grade) if text)


def put_dates(ctx: Context, actor: Actor, wish: WindowDatesWish) -> int:
    """They hold from now on; what was there for the same school, grade or student is replaced."""
    scope(actor, Action.YEARS_WRITE)
    if wish.end < wish.start:
        raise Invalid("a window ends on or after the day it starts", "end")
    if wish.school_id is None and not wish.grade and wish.person_id is None:
        raise Invalid(
            "choose a school, a grade or a student; the window's own dates are changed in the calendar", "school"
        )
    if len(wish.why) > LONGEST_WHY:
        raise Invalid(f"at most {LONGEST_WHY} characters", "why")

    def work(db: Session) -> int:
        for table, id, name in (
            (Window, wish.window_id, "window"),
            (School, wish.school_id, "school"),
            (Person, wish.person_id, "student"),
        ):
            if id is not None and db.get(table, id) is None:
                raise NotFound(f"there is no such {name}")
        row = db.scalar(
            select(WindowDates).where(
                WindowDates.window_id == wish.window_id,
                WindowDates.school_id.is_not_distinct_from(wish.school_id),
                WindowDates.grade == wish.grade,
                WindowDates.person_id.is_not_distinct_from(wish.person_id),
            )
        )
        before = None if row is None else {"start": str(row.start), "end": str(row.end)}
        if row is None:
            row = WindowDates(
                window_id=wish.window_id,
                school_id=wish.school_id,
                grade=wish.grade,
                person_id=wish.person_id,
                start=wish.start,
                end=wish.end,
            )
            db.add(row)
        row.start, row.end, row.why = wish.start, wish.end, wish.why.strip()
        db.flush()
        after = {"whose": _whose(db, row), "start": str(wish.start), "end": str(wish.end)}
        subject = f"window:{wish.window_id}"
        audit.record(db, ctx.clock(), actor.person_id, "window.dates", subject, before, after, row.why)
        return row.id

    return ctx.store.write(work)


def drop_dates(ctx: Context, actor: Actor, dates_id: int) -> None:
    """The window's own dates hold again."""
    scope(actor, Action.YEARS_WRITE)

    def work(db: Session) -> None:
        row = db.get(WindowDates, dates_id)
        if row is None:
            raise Conflict("these dates were removed already")
        before = {"whose": _whose(db, row), "start": str(row.start), "end": str(row.end)}
        audit.record(db, ctx.clock(), actor.person_id, "window.dates", f"window:{row.window_id}", before, None, row.why)
        db.delete(row)

    ctx.store.write(work)
