"""Students and standards judged: states, runs and what they rest on."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np
from sqlalchemy.orm import Session

from bildung.core.mastery.direction import NONE, Direction, Piece, direction
from bildung.core.mastery.occasions import Evidence, Items, Occasions, occasions
from bildung.core.mastery.rules import USUAL, MasteryRules
from bildung.core.mastery.run import Filtered, filtered, interval
from bildung.core.mastery.states import MASTERED, STATES, Again, States, check_again, states
from bildung.core.mastery.story import Told, story
from bildung.core.school.calendar import instructional_days
from bildung.core.school.dates import Dates
from bildung.services.calendar.years import closed_days
from bildung.services.mastery.evidence import (
    Floats,
    Given,
    Ints,
    Tagged,
    all_given,
    as_day,
    tags_of,
    usual_of_standards,
    usual_p,
)
from bildung.services.shared.context import Context
from bildung.store.models import Federation

FIRST = date(2000, 1, 1)
LONG = timedelta(days=900)


@dataclass(frozen=True, kw_only=True)
class Row:
    """One scored item, and where it came from: places of what was given and of the item in it."""

    given: int
    column: int
    session: int
    day: int
    earned: float
    possible: float
    p: float
    main: float


@dataclass(frozen=True, kw_only=True)
class Judged:
    """people by standards; a cell is person · standards + standard. rows_of: by cell the rows of evidence, in time."""

    people: list[int]
    standards: list[int]
    given: list[Given]
    occasions: Occasions
    filter: Filtered
    states: States
    again: Again
    rules: MasteryRules
    order: Ints
    begins: Ints
    cell: Ints
    day: Ints
    given_of: Ints
    column_of: Ints
    session_of: Ints
    earned: Floats
    possible: Floats
    p: Floats
    main: Floats

    def at(self, person: int, standard: int) -> int:
        """Place of a cell, by places of both."""
        return person * len(self.standards) + standard

    def rows_of(self, cell: int) -> list[Row]:
        """Evidence of a cell in time."""
        first, last = np.searchsorted(self.cell, [cell, cell + 1])
        return [
            Row(
                given=int(self.given_of[at]),
                column=int(self.column_of[at]),
                session=int(self.session_of[at]),
                day=int(self.day[at]),
                earned=float(self.earned[at]),
                possible=float(self.possible[at]),
                p=float(self.p[at]),
                main=float(self.main[at]),
            )
            for at in range(first, last)
        ]

    def direction(self, cell: int) -> Direction:
        """Of the latest work beside all before."""
        if self.occasions.raw_possible[cell].sum() < 10 - 1e-9 or self.occasions.count[cell] < 2:
            return NONE
        return direction([Piece(r.earned, r.possible, r.p) for r in self.rows_of(cell)])

    def share(self, cell: int) -> float | None:
        """Of the run; None without evidence."""
        possible = float(self.states.run_possible[cell])
        return float(self.states.run_earned[cell]) / possible if possible else None

    def told(self, cell: int, dates: Dates) -> str:
        """The sentence of a cell."""
        n = int(self.occasions.count[cell])
        if not n:
            return story(_nothing())
        s = self.states
        begin = int(self.filter.begins[cell, n - 1])
        raw_e, raw_m = self.occasions.raw_earned[cell, :n], self.occasions.raw_possible[cell, :n]

        def day(ordinal: int) -> str:
            return dates.short(as_day(ordinal)) if ordinal else ""

        return story(
            Told(
                state=STATES[s.now[cell]],
                earned=float(raw_e.sum()),
                possible=float(raw_m.sum()),
                run_earned=float(raw_e[begin:].sum()),
                run_possible=float(raw_m[begin:].sum()),
                since=day(int(s.since[cell])),
                lapsed=day(int(s.lapsed[cell])),
                last=day(int(self.occasions.day[cell, n - 1])),
                one_day=bool(s.one_day[cell]),
                again=bool(self.again.now[cell]),
            )
        )

    def between(self, cells: Sequence[int]) -> tuple[Floats, Floats]:
        """90% intervals of the share."""
        return interval(self.filter.posterior[list(cells)])


def _nothing() -> Told:
    return Told(
        state="not assessed",
        earned=0,
        possible=0,
        run_earned=0,
        run_possible=0,
        since="",
        lapsed="",
        last="",
        one_day=False,
        again=False,
    )


@dataclass(frozen=True, kw_only=True)
class Source:
    """All evidence, with what its items are about."""

    given: list[Given]
    tags: Mapping[int, Sequence[Tagged]]
    p: Mapping[int, float]
    usual: Mapping[int, float]


def source(ctx: Context, db: Session) -> Source:
    """Read once for everything that one page shows."""
    given = all_given(ctx, db)
    tags = tags_of(db, {v for one in given for v in one.versions})
    p = usual_p(ctx, db)
    return Source(given=given, tags=tags, p=p, usual=usual_of_standards(tags, p))


def standards_with_evidence(found: Source, people: Collection[int]) -> set[int]:
    """Of these students."""
    wanted = np.array(sorted(people), dtype=np.int64)
    some: set[int] = set()
    for one in found.given:
        if one.modified or not np.isin(one.people, wanted).any():
            continue
        some |= {tag.standard for v in one.versions for tag in found.tags.get(v, ())}
    return some


def judge(
    ctx: Context,
    db: Session,
    found: Source,
    people: Sequence[int],
    standards: Sequence[int],
    today: date,
    first: date | None = None,
    last: date | None = None,
    rules: MasteryRules = USUAL,
) -> Judged:
    """first, last: only evidence of these days counts."""
    cells = len(people) * len(standards)
    at_person = {p: at for at, p in enumerate(people)}
    at_standard = {s: at for at, s in enumerate(standards)}
    wanted = np.array(sorted(people), dtype=np.int64)
    parts: list[tuple[Ints, ...]] = []
    amounts: list[tuple[Floats, ...]] = []
    low = first.toordinal() if first else 0
    high = last.toordinal() if last else 10**7
    items: dict[tuple[int, int, float], int] = {}
    about: list[tuple[float, float, float, float]] = []
    for number, one in enumerate(found.given):
        if one.modified:
            continue
        rows = np.flatnonzero(np.isin(one.people, wanted) & (one.day >= low) & (one.day <= high))
        if not rows.size:
            continue
        person = np.array([at_person[int(p)] for p in one.people[rows]], dtype=np.int64)
        for column, version in enumerate(one.versions):
            for tag in found.tags.get(version, ()):
                if tag.standard not in at_standard:
                    continue
                points = one.points[rows, column]
                has = ~np.isnan(points)
                n = int(has.sum())
                if not n:
                    continue
                p, usual = found.p.get(version, np.nan), found.usual.get(tag.standard, np.nan)
                key = (version, tag.standard, float(one.possible[column]))
                if key not in items:
                    items[key] = len(about)
                    about.append((float(one.possible[column]), tag.main, p, usual))
                parts.append(
                    (
                        person[has] * len(standards) + at_standard[tag.standard],
                        one.day[rows][has],
                        np.full(n, items[key]),
                        np.full(n, number),
                        np.full(n, column),
                        one.session[rows][has],
                    )
                )
                amounts.append((points[has],))
    if parts:
        cell, day, item, given_of, column_of, session_of = (np.concatenate(some) for some in zip(*parts, strict=True))
        (earned,) = (np.concatenate(some) for some in zip(*amounts, strict=True))
    else:
        cell = day = item = given_of = column_of = session_of = np.zeros(0, dtype=np.int64)
        earned = np.zeros(0)
    table = np.array(about, dtype=np.float64).reshape(-1, 4)
    of = Items(table[:, 0], table[:, 1], table[:, 2], table[:, 3])
    told = occasions(Evidence(cell, day, item, earned, of), cells)
    count = _instruction(db, told.day, today)
    gaps = count(told.day) - np.concatenate([np.zeros((cells, 1), dtype=np.int64), count(told.day[:, :-1])], axis=1)
    run = filtered(told, gaps, rules)
    state = states(told, run, rules)
    latest = np.maximum(told.count - 1, 0)
    rows_at = np.arange(cells)
    width = told.day.shape[1]
    final = told.day[rows_at, latest] if width else np.zeros(cells, dtype=np.int64)
    above = np.nan_to_num(run.above[rows_at, latest]) if width else np.zeros(cells)
    since = count(np.full(cells, today.toordinal(), dtype=np.int64)) - count(final)
    again = check_again(above, state.now >= MASTERED, since, rules)
    order = np.lexsort((column_of, session_of, day, cell))
    return Judged(
        people=list(people),
        standards=list(standards),
        given=found.given,
        occasions=told,
        filter=run,
        states=state,
        again=again,
        rules=rules,
        order=order,
        begins=final,
        cell=cell[order],
        day=day[order],
        given_of=given_of[order],
        column_of=column_of[order],
        session_of=session_of[order],
        earned=earned[order],
        possible=table[item[order], 0] if about else np.zeros(0),
        p=table[item[order], 2] if about else np.zeros(0),
        main=table[item[order], 1] if about else np.zeros(0),
    )


class _Count:
    """Days of instruction up to a day, by its ordinal."""

    def __init__(self, start: int, until: Ints) -> None:
        self.start, self.until = start, until

    def __call__(self, days: Ints) -> Ints:
        return self.until[np.clip(days - self.start, 0, self.until.size - 1)]


def _instruction(db: Session, days: Ints, today: date) -> _Count:
    real = days[days > 0]
    start = min(int(real.min()) if real.size else today.toordinal(), today.toordinal()) - 1
    weekdays = db.query(Federation.weekdays).scalar() or 31
    end = max(int(real.max()) if real.size else 0, today.toordinal())
    marks = np.zeros(end - start + 1, dtype=np.int64)
    begin = date.fromordinal(start)
    closed = closed_days(db, None)
    while begin.toordinal() <= end:
        until = min(begin + LONG, date.fromordinal(end))
        for day in instructional_days(begin, until, weekdays, closed):
            marks[day.toordinal() - start] = 1
        begin = until + timedelta(days=1)
    return _Count(start, np.cumsum(marks))
