"""What is made up: which schools, and how their school year lies around today."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from bildung.demo.rosters import Layout

ZONE = "America/New_York"
MIDDLE = ("6", "7", "8")
ELEMENTARY = ("K", "1", "2", "3", "4", "5")
# weeks from the first day of the year's winter window
FALL, SPRING, YEAR = timedelta(weeks=-18), timedelta(weeks=15), timedelta(weeks=52)


@dataclass(frozen=True, kw_only=True)
class DemoYear:
    """begins, ends: of the school year. before: when last year began. winter: the day from which its closed days are counted. windows: of last year
    and this one, fall, winter, spring. last: the latest that is over, whose results are in."""

    before: date
    begins: date
    ends: date
    winter: date
    windows: tuple[tuple[str, date, date], ...]
    last: int

    @property
    def year(self) -> int:
        return self.begins.year

    @property
    def fall(self) -> tuple[str, date, date]:
        return self.windows[self.last]


@dataclass(frozen=True, kw_only=True)
class District:
    """schools: the middle school first. living: with every grade's benchmarks of last year and this one, and a winter
    window that is under way. name: by which it is made again."""

    name: str
    schools: tuple[Layout, ...]
    year: DemoYear
    living: bool


Plan = Callable[[date], District]


def brackwater(today: date) -> District:
    """The whole federation: three schools, and a school year laid so that today lies in the middle of the winter
    window."""
    year = around(today)
    return District(
        name="brackwater",
        schools=(
            _layout(year, "BM", "Brackwater Middle", MIDDLE, 5, 24, science=True),
            _layout(year, "EQ", "Elder Quay Elementary", ELEMENTARY, 2, 23, homerooms=True),
            _layout(year, "HM", "Hollin Moor Elementary", ELEMENTARY, 3, 24, homerooms=True),
        ),
        year=year,
        living=True,
    )


def one_school(today: date) -> District:
    """The middle school alone, after the latest window of an ordinary school year: for tests."""
    year = school_year(today)
    return District(
        name="one_school",
        schools=(_layout(year, "BM", "Brackwater Middle", MIDDLE, 5, 24),),
        year=year,
        living=False,
    )


PLANS: dict[str, Plan] = {"brackwater": brackwater, "one_school": one_school}


def _layout(
    year: DemoYear,
    key: str,
    name: str,
    grades: tuple[str, ...],
    classes: int,
    size: int,
    science: bool = False,
    homerooms: bool = False,
) -> Layout:
    return Layout(
        key=key,
        name=name,
        grades=grades,
        classes=classes,
        size=size,
        year=year.year,
        begins=year.begins,
        ends=year.ends,
        rich=True,
        science=science,
        homerooms=homerooms,
    )


def around(today: date) -> DemoYear:
    """A school year whose winter window, of four weeks, has today in its third."""
    opens = today - timedelta(days=today.weekday(), weeks=2)
    weeks = timedelta(days=25)
    windows = []
    for winter in (opens - YEAR, opens):
        windows += [
            ("Fall", winter + FALL, winter + FALL + weeks),
            ("Winter", winter, winter + weeks),
            ("Spring", winter + SPRING, winter + SPRING + weeks),
        ]
    begins = opens - timedelta(weeks=24)
    return DemoYear(
        before=begins - YEAR,
        begins=begins,
        ends=begins + YEAR - timedelta(days=1),
        winter=opens,
        windows=tuple(windows),
        last=3,
    )


def school_year(today: date) -> DemoYear:
    """August to July, with the windows of an ordinary year."""
    year = today.year if today.month >= 8 else today.year - 1
    windows = []
    for start in (year - 1, year):
        windows += [
            ("Fall", date(start, 9, 14), date(start, 10, 2)),
            ("Winter", date(start + 1, 1, 18), date(start + 1, 2, 5)),
            ("Spring", date(start + 1, 5, 3), date(start + 1, 5, 21)),
        ]
    over = [at for at, window in enumerate(windows) if window[2] < today]
    return DemoYear(
        before=date(year - 1, 8, 1),
        begins=date(year, 8, 1),
        ends=date(year + 1, 7, 31),
        winter=date(year + 1, 1, 18),
        windows=tuple(windows),
        last=over[-1],
    )


def school_day(day: date, after: int = 0) -> date:
    """`day`, or the next school day where it is on a weekend; then so many school days later, or earlier."""
    while after == 0 and day.weekday() > 4:
        day += timedelta(days=1)
    step = timedelta(days=1 if after > 0 else -1)
    for _ in range(abs(after)):
        day += step
        while day.weekday() > 4:
            day += step
    return day


def local_time(day: date, hour: int, minute: int = 0) -> datetime:
    """A moment of a day where the schools are."""
    return datetime.combine(day, time(hour, minute), ZoneInfo(ZONE))
