"""The windows of a school year."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.schooltime import EARLIEST, LATEST
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.typed import need_text
from bildung.store.models import (
    AcademicSession,
    Federation,
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
        window = Window(name=name, start=start, end=end)
        db.add(window)
        db.flush()
        audit.record(db, ctx.clock(), actor.person_id, "window.create", f"window:{window.id}", None, {"name": name})
        return window.id

    return ctx.store.write(work)
