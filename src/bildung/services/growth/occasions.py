"""When a measure was taken: a window, a month, or any day."""

from __future__ import annotations

import calendar as months
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import dated
from bildung.core.school.calendar import Instruction
from bildung.services.calendar.years import calendar
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import MeasureScore, Occasion, SchoolYear, Window


@dataclass(frozen=True, kw_only=True)
class OccasionLine:
    """An occasion with scores: how many."""

    id: Id
    name: str
    season: str
    start: date
    end: date
    scores: int


@dataclass(frozen=True, kw_only=True)
class When:
    """An occasion as a file names it, whether it is there or not. window_id: of a window."""

    name: str
    first: date
    last: date
    window_id: int | None = None


def occasion_name(one: Occasion) -> str:
    """A window with its year, or the name of its own."""
    return dated(one.window.name, one.window.start.year) if one.window is not None else one.name


def occasion_named(db: Session, measure_id: int, id: int) -> Occasion:
    """NotFound where the measure has no such occasion."""
    found = db.get(Occasion, id)
    if found is None or found.measure_id != measure_id:
        raise NotFound("this measure has no such occasion")
    return found


def occasion_line(one: Occasion, scores: int) -> OccasionLine:
    """As pages show it."""
    return OccasionLine(
        id=one.id, name=occasion_name(one), season=one.season, start=one.start, end=one.end, scores=scores
    )


def occasions_of(db: Session, measure_id: int) -> list[OccasionLine]:
    """Of stored scores, in order of time."""
    rows = db.execute(
        select(Occasion, func.count(MeasureScore.id))
        .join(MeasureScore, MeasureScore.occasion_id == Occasion.id)
        .where(Occasion.measure_id == measure_id)
        .group_by(Occasion.id)
    )
    return sorted((occasion_line(one, n) for one, n in rows), key=lambda o: (o.start, o.id))


class Calendar:
    """Reads what a file says about the time of a score."""

    def __init__(self, db: Session) -> None:
        self.windows = db.scalars(select(Window).order_by(Window.start)).all()
        self.years = db.scalars(select(SchoolYear).order_by(SchoolYear.start)).all()
        self._between = calendar(db)
        self._named = self._names()
        self._weeks: dict[date, float | None] = {}
        self._whens: dict[tuple[str, date | None], When | None] = {}
        self._ago: dict[tuple[date, date], int] = {}

    @property
    def names(self) -> list[str]:
        """Of windows, with their years."""
        return [dated(w.name, w.start.year) for w in self.windows]

    def of_window(self, id: int) -> When:
        """A window as an occasion."""
        return next(_window(w) for w in self.windows if w.id == id)

    def when(self, window: str, day: date | None) -> When | None:
        """window: the name of a window, a month such as October 2026, a day such as 2026-10-14, or empty, where the day decides. None
        where that names nothing."""
        key = (window, None if window else day)
        if key not in self._whens:
            self._whens[key] = self._when(window, day)
        return self._whens[key]

    def _when(self, window: str, day: date | None) -> When | None:
        if window:
            return self._said(window)
        assert day is not None
        for one in self.windows:
            if one.start <= day <= one.end:
                return _window(one)
        return _month(day)

    def _said(self, text: str) -> When | None:
        if text.lower() in self._named:
            return _window(self._named[text.lower()])
        if re.fullmatch(r"\d{4}-\d\d-\d\d", text):
            try:
                day = date.fromisoformat(text)
            except ValueError:
                return None
            return When(name=text, first=day, last=day)
        for form in ("%B %Y", "%b %Y", "%Y-%m"):
            try:
                return _month(datetime.strptime(text, form).date())
            except ValueError:
                continue
        return None

    def week(self, day: date) -> float | None:
        """Weeks of instruction from the first day of its school year; None where no year holds it."""
        if day not in self._weeks:
            self._weeks[day] = self._week(day)
        return self._weeks[day]

    def _week(self, day: date) -> float | None:
        year = next((y for y in self.years if y.start <= day <= y.end), None)
        if year is None:
            return None
        found: Instruction = self._between(year.start, day)
        return round(found.weeks, 1)

    def years_ago(self, day: date, today: date) -> int:
        """School years between a day and today, so that the grade of then is known."""
        if (day, today) not in self._ago:
            self._ago[day, today] = sum(day < y.start <= today for y in self.years)
        return self._ago[day, today]

    def _names(self) -> Mapping[str, Window]:
        """By name with the year, and by the bare name where one window has it."""
        bare: dict[str, list[Window]] = {}
        for w in self.windows:
            bare.setdefault(w.name.lower(), []).append(w)
        found = {name: some[0] for name, some in bare.items() if len(some) == 1}
        return found | {dated(w.name, w.start.year).lower(): w for w in self.windows}


def _window(one: Window) -> When:
    return When(name=dated(one.name, one.start.year), first=one.start, last=one.end, window_id=one.id)


def _month(day: date) -> When:
    last = months.monthrange(day.year, day.month)[1]
    return When(name=f"{day:%B %Y}", first=day.replace(day=1), last=day.replace(day=last))


def middle(when: When) -> date:
    """A day that stands for an occasion, where the day of an attempt is not known."""
    return when.first + timedelta(days=(when.last - when.first).days // 2)


def put_occasions(db: Session, measure_id: int, wanted: Sequence[When]) -> dict[When, int]:
    """In the transaction of the caller: their ids, made where they are not there."""
    there: dict[tuple[int | None, str, date | None], int] = {}
    for one in db.scalars(select(Occasion).where(Occasion.measure_id == measure_id)):
        there[(one.window_id, "", None) if one.window_id is not None else (None, one.name, one.first)] = one.id
    found = {}
    for when in dict.fromkeys(wanted):
        key = (when.window_id, "", None) if when.window_id is not None else (None, when.name, when.first)
        if key not in there:
            made = Occasion(measure_id=measure_id, window_id=when.window_id)
            if when.window_id is None:
                made.name, made.first, made.last = when.name, when.first, when.last
            db.add(made)
            db.flush()
            there[key] = made.id
        found[when] = there[key]
    return found
