"""The windows of a school year."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.schooltime import EARLIEST, LATEST
from bildung.services.calendar.years import refuse_overlap
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.store.models import (
    AcademicSession,
    Federation,
    SchoolYear,
    Window,
)


def calendar(ctx: Context, actor: Actor) -> dict[str, Any]:
    """The school year and its windows, for the year line; and the zone that times are shown in."""
    scope(actor, Action.SESSIONS_READ)
    today = ctx.clock()
    with ctx.store.read() as db:
        federation = db.scalar(select(Federation))
        zone = federation.zone if federation else "UTC"
        day = today.astimezone(ZoneInfo(zone)).date()
        windows = db.scalars(select(Window).order_by(Window.start)).all()
        years = db.scalars(select(AcademicSession).where(AcademicSession.kind == "schoolYear")).all()
        current = next((y for y in years if y.start <= day <= y.end), None)
        start = current.start if current else date(day.year if day.month >= 8 else day.year - 1, 8, 1)
        end = current.end if current else date(start.year + 1, 7, 31)
        over = [w for w in windows if w.end < day]
        if over and over[-1].start < start:  # early in a year what matters is the last one's last window
            start = over[-1].start - timedelta(days=14)
        return {
            "zone": zone,
            "today": day,
            "start": start,
            "end": end,
            "windows": [{"id": w.id, "name": w.name, "start": w.start, "end": w.end} for w in windows],
        }


def create_window(ctx: Context, actor: Actor, name: str, start: date, end: date) -> int:
    """Windows are the whole federation's, so only its own coordinators make them."""
    scope(actor, Action.YEARS_WRITE)
    name = need_text(name, "name", 40)
    if end < start:
        raise Invalid("a window ends on or after the day it starts", "end")
    if not EARLIEST <= start.year <= end.year <= LATEST:
        raise Invalid(f"years are between {EARLIEST} and {LATEST}", "start")

    def work(db: Session) -> int:
        if db.scalar(select(Window.id).where(Window.name == name, Window.start == start)):
            raise Conflict(f"there is a window {name} from that day already", "name")
        refuse_overlap(db, name, start, end)
        window = Window(name=name, start=start, end=end)
        db.add(window)
        db.flush()
        audit.record(db, ctx.clock(), actor.person_id, "window.create", f"window:{window.id}", None, {"name": name})
        return window.id

    return ctx.store.write(work)


YEAR = timedelta(weeks=52)


def copy_windows(ctx: Context, actor: Actor, year_id: int) -> int:
    """The windows of a school year once more a year later, on the same weekdays, all or none; those that are there by
    name and about the same time are left as they are. How many are new."""
    scope(actor, Action.YEARS_WRITE)

    def work(db: Session) -> int:
        year = db.get(SchoolYear, year_id)
        if year is None:
            raise NotFound("there is no such school year")
        inside = select(Window).where(Window.start <= year.end, Window.end >= year.start).order_by(Window.start)
        found = db.scalars(inside).all()
        if not found:
            raise Conflict("this school year has no windows to copy")
        made = []
        for window in found:
            start, end = window.start + YEAR, window.end + YEAR
            there = select(Window.id).where(Window.name == window.name, Window.start <= end, Window.end >= start)
            if db.scalar(there) is None:
                refuse_overlap(db, window.name, start, end)
                made.append(Window(name=window.name, start=start, end=end))
        if not made:
            raise Conflict("the windows of this year have been copied already")
        db.add_all(made)
        db.flush()
        said = {"windows": [window.name for window in made]}
        audit.record(db, ctx.clock(), actor.person_id, "window.copy", f"year:{year_id}", None, said)
        return len(made)

    return ctx.store.write(work)
