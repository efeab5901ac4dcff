"""The school year: its days, closed days and windows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session

from bildung.core.school.calendar import Closed, Instruction, instruction
from bildung.core.school.dates import Style
from bildung.core.school.schooltime import school_day
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, Ref, listed
from bildung.store.models import ClosedDays, Federation, PlannedSession, School, SchoolYear, Window

LONGEST_CLOSED = 100


def zone_of(db: Session) -> ZoneInfo:
    """The zone of the schools, in which every day here is a day."""
    return ZoneInfo(db.scalar(select(Federation.zone)) or "UTC")


def zone_and_style(ctx: Context) -> tuple[str, Style]:
    """The zone in which pages show every moment, and how they write it."""
    with ctx.store.read() as db:
        return zone_of(db).key, dates_of(db).style


def local_today(ctx: Context, db: Session) -> date:
    """The day it is where the schools are."""
    return school_day(ctx.clock(), zone_of(db))


def current_year(db: Session, today: date) -> SchoolYear | None:
    """The year that holds today, else the last one begun, else the first."""
    years = db.scalars(select(SchoolYear).order_by(SchoolYear.start)).all()
    begun = [y for y in years if y.start <= today]
    return begun[-1] if begun else years[0] if years else None


def closed_days(db: Session, school_id: int | None) -> list[Closed]:
    """Days without lessons of everybody, and of the school where one is named."""
    wanted: ColumnElement[bool] = ClosedDays.school_id.is_(None)
    if school_id is not None:
        wanted = or_(wanted, ClosedDays.school_id == school_id)
    return [Closed(c.start, c.end) for c in db.scalars(select(ClosedDays).where(wanted))]


def instruction_between(db: Session, start: date, end: date, school_id: int | None = None) -> Instruction:
    """Days and weeks of instruction, for growth and for course plans."""
    return calendar(db, school_id)(start, end)


def calendar(db: Session, school_id: int | None = None) -> Callable[[date, date], Instruction]:
    """`instruction_between` for many spans, reading the days once."""
    weekdays, closed = db.scalar(select(Federation.weekdays)) or 31, closed_days(db, school_id)
    return lambda start, end: instruction(start, end, weekdays, closed)


@dataclass(frozen=True, kw_only=True)
class WindowLine:
    """weeks_before: instructional weeks from the year's first day to the window's. sessions: planned in it."""

    id: Id
    name: str
    start: date
    end: date
    days: int
    weeks_before: float
    sessions: int


@dataclass(frozen=True, kw_only=True)
class ClosedLine:
    id: Id
    name: str
    start: date
    end: date
    school: str


@dataclass(frozen=True, kw_only=True)
class YearPage:
    """counted: the year's instruction; so_far: up to today, where today lies in it."""

    finding: str
    year_id: Id
    title: str
    start: date
    end: date
    weekdays: list[bool]
    counted: Instruction
    so_far: Instruction | None
    closed: list[ClosedLine]
    windows: list[WindowLine]
    years: Annotated[list[tuple[int, str]], listed(Ref)]
    schools: Annotated[list[tuple[int, str]], listed(Ref)]
    today: date
    may_change: bool


def year_page(ctx: Context, actor: Actor, year_id: int | None = None) -> YearPage | None:
    """A year with everything in it; None where there is none yet."""
    scope(actor, Action.YEARS_READ)
    with ctx.store.read() as db:
        today = local_today(ctx, db)
        year = current_year(db, today) if year_id is None else db.get(SchoolYear, year_id)
        if year is None:
            if year_id is not None:
                raise NotFound("there is no such school year")
            return None
        schools = {s.id: s.name for s in db.scalars(select(School).order_by(School.name))}
        rows = db.scalars(
            select(ClosedDays)
            .where(ClosedDays.start <= year.end, ClosedDays.end >= year.start)
            .order_by(ClosedDays.start)
        )
        closed = [
            ClosedLine(id=c.id, name=c.name, start=c.start, end=c.end, school=schools.get(c.school_id or 0, ""))
            for c in rows
        ]
        between = calendar(db)
        counted = between(year.start, year.end)
        so_far = between(year.start, today) if year.start <= today <= year.end else None
        sessions = {
            id: n
            for id, n in db.execute(select(PlannedSession.window_id, func.count()).group_by(PlannedSession.window_id))
        }
        windows = []
        for w in db.scalars(
            select(Window).where(Window.start <= year.end, Window.end >= year.start).order_by(Window.start)
        ):
            inside = between(w.start, w.end)
            before = w.start - timedelta(days=1)
            weeks = between(year.start, before).weeks if before >= year.start else 0.0
            windows.append(
                WindowLine(
                    id=w.id,
                    name=w.name,
                    start=w.start,
                    end=w.end,
                    days=inside.days,
                    weeks_before=weeks,
                    sessions=sessions.get(w.id, 0),
                )
            )
        weekdays = db.scalar(select(Federation.weekdays)) or 31
        years = [(y.id, y.title) for y in db.scalars(select(SchoolYear).order_by(SchoolYear.start.desc()))]
        finding = _finding(year.title, counted, so_far, windows, today)
        return YearPage(
            finding=finding,
            year_id=year.id,
            title=year.title,
            start=year.start,
            end=year.end,
            weekdays=[bool(weekdays >> at & 1) for at in range(7)],
            counted=counted,
            so_far=so_far,
            closed=closed,
            windows=windows,
            years=years,
            schools=list(schools.items()),
            today=today,
            may_change=actor.may(Action.YEARS_WRITE),
        )


def _finding(
    title: str, counted: Instruction, so_far: Instruction | None, windows: list[WindowLine], today: date
) -> str:
    text = f"{title}: {counted.days} days of instruction, {counted.weeks:.0f} weeks"
    text += f"; {so_far.days} are behind us." if so_far else "."
    ahead = next((w for w in windows if w.start > today), None)
    now = next((w for w in windows if w.start <= today <= w.end), None)
    if now:
        return f"{text} {now.name} is on."
    if ahead:
        days = (ahead.start - today).days
        return f"{text} {ahead.name} opens in {days} {'day' if days == 1 else 'days'}."
    return text if windows else f"{text} No window is set yet."


def change_year(
    ctx: Context, actor: Actor, year_id: int | None, title: str, start: date, end: date, weekdays: list[bool]
) -> int:
    """Make a year, or change one. Years do not overlap; the days of the week hold for all years."""
    scope(actor, Action.YEARS_WRITE)
    title = need_text(title, "title", 40)
    if not 90 <= (end - start).days <= 400:
        raise Invalid("a school year lasts between 90 and 400 days", "end")
    if len(weekdays) != 7 or not any(weekdays):
        raise Invalid("choose at least one weekday as a school day", "weekdays")

    def work(db: Session) -> int:
        others = select(SchoolYear).where(SchoolYear.id != (year_id or -1))
        clash = db.scalar(others.where(SchoolYear.start <= end, SchoolYear.end >= start))
        if clash is not None:
            raise Conflict(f"it would overlap {clash.title} ({clash.start} to {clash.end})", "start")
        if db.scalar(others.where(SchoolYear.title == title)):
            raise Conflict(f"there is a school year {title} already", "title")
        year = SchoolYear(title=title, start=start, end=end) if year_id is None else db.get(SchoolYear, year_id)
        if year is None:
            raise NotFound("there is no such school year")
        before = None if year_id is None else {"title": year.title, "start": str(year.start), "end": str(year.end)}
        year.title, year.start, year.end = title, start, end
        db.add(year)
        federation = db.scalars(select(Federation)).one()
        federation.weekdays = sum(1 << at for at, on in enumerate(weekdays) if on)
        db.flush()
        after = {"title": title, "start": str(start), "end": str(end)}
        audit.record(db, ctx.clock(), actor.person_id, "year.change", f"year:{year.id}", before, after)
        return year.id

    return ctx.store.write(work)


def close_days(ctx: Context, actor: Actor, name: str, start: date, end: date, school_id: int | None) -> int:
    """Close days for all schools or for one; returns the id."""
    scope(actor, Action.YEARS_WRITE)
    name = need_text(name, "name", 60)
    if not 0 <= (end - start).days < LONGEST_CLOSED:
        raise Invalid(f"closed days end on or after the day they start, within {LONGEST_CLOSED} days", "end")

    def work(db: Session) -> int:
        if school_id is not None and db.get(School, school_id) is None:
            raise Invalid("there is no such school", "school_id")
        row = ClosedDays(name=name, start=start, end=end, school_id=school_id)
        db.add(row)
        db.flush()
        after = {"name": name, "start": str(start), "end": str(end)}
        audit.record(db, ctx.clock(), actor.person_id, "year.close_days", f"closed:{row.id}", None, after)
        return row.id

    return ctx.store.write(work)


def open_days(ctx: Context, actor: Actor, closed_id: int) -> None:
    """Take closed days back."""
    scope(actor, Action.YEARS_WRITE)

    def work(db: Session) -> None:
        row = db.get(ClosedDays, closed_id)
        if row is None:
            raise NotFound("these days are not closed any more")
        before = {"name": row.name, "start": str(row.start), "end": str(row.end)}
        db.delete(row)
        audit.record(db, ctx.clock(), actor.person_id, "year.open_days", f"closed:{closed_id}", before, None)

    ctx.store.write(work)


def refuse_overlap(db: Session, name: str, start: date, end: date, window_id: int = 0) -> None:
    """Conflict where another window has some of these days: a session belongs to one."""
    wanted = select(Window).where(Window.start <= end, Window.end >= start, Window.id != window_id)
    other = db.scalars(wanted.order_by(Window.start)).first()
    if other is not None:
        dates = dates_of(db)
        raise Conflict(
            f"{other.name} is from {dates.long(other.start)} to {dates.long(other.end)}; windows do not overlap, so choose "
            f"other days for {name}",
            "start",
        )


def change_window(ctx: Context, actor: Actor, window_id: int, name: str, start: date, end: date) -> None:
    """Sessions planned in it must still lie in it."""
    scope(actor, Action.YEARS_WRITE)
    name = need_text(name, "name", 40)
    if end < start:
        raise Invalid("a window ends on or after the day it starts", "end")

    def work(db: Session) -> None:
        window = db.get(Window, window_id)
        if window is None:
            raise NotFound("there is no such window")
        if db.scalar(select(Window.id).where(Window.name == name, Window.start == start, Window.id != window_id)):
            raise Conflict(f"there is a window {name} from that day already", "name")
        if (start, end) != (window.start, window.end):
            refuse_overlap(db, name, start, end, window_id)
        zone = ZoneInfo(db.scalar(select(Federation.zone)) or "UTC")
        outside = sum(
            not start <= s.astimezone(zone).date() <= end
            for s in db.scalars(select(PlannedSession.start).where(PlannedSession.window_id == window_id))
        )
        if outside:
            raise Conflict(
                f"{outside} {'session is' if outside == 1 else 'sessions are'} planned outside these days", "start"
            )
        before = {"name": window.name, "start": str(window.start), "end": str(window.end)}
        window.name, window.start, window.end = name, start, end
        after = {"name": name, "start": str(start), "end": str(end)}
        audit.record(db, ctx.clock(), actor.person_id, "window.change", f"window:{window_id}", before, after)

    ctx.store.write(work)
