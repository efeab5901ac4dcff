"""A subject judged: all students and standards with evidence, once for every page that shows some of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from datetime import date, timedelta
from typing import TypeVar

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.mastery.counting import Counts, set_aside
from bildung.core.mastery.direction import Directions, directions
from bildung.core.mastery.occasions import Evidence, Items, Occasions, occasions
from bildung.core.mastery.rules import MasteryRules
from bildung.core.mastery.run import Filtered, filtered
from bildung.core.mastery.states import MASTERED, Again, States, check_again, states
from bildung.core.school.calendar import instructional_days
from bildung.services.calendar.years import closed_days, local_today
from bildung.services.mastery.evidence import Floats, Given, Ints, all_given, decisions
from bildung.services.mastery.ruling import USUAL_RULING, Ruling, rulings
from bildung.services.mastery.tags import EVER, Tagged, Tags, all_tags, tags_key, usual_of_standards, usual_p
from bildung.services.shared.context import Context
from bildung.services.shared.results import KeptResults
from bildung.store.models import Accommodation, Federation, Standard

LONG = timedelta(days=900)
ALTERNATE = "alternate_standards"  # kind of accommodation
COUNTED, MODIFIED, KIND, DECIDED, OPEN, RETAKEN = range(6)
WHY = (
    "",
    "modified test, not grade-level evidence",
    "tests of this kind do not count",
    "does not count, by decision",
    "not decided yet whether it counts",
    "replaced by the retake",
)
"""Why a scored point is no evidence, by place."""
T = TypeVar("T")


@dataclass(frozen=True, kw_only=True)
class Points:
    """Scored items, by cell and in time; arrays (n,). given, column: places of what was given, and of the item in it. by: standard that
    this one replaced by which the item was tagged, 0 where none. why: place in WHY."""

    cell: Ints
    day: Ints
    given: Ints
    column: Ints
    session: Ints
    earned: Floats
    possible: Floats
    p: Floats
    main: Floats
    by: Ints
    why: Ints

    def take(self, rows: Ints) -> Points:
        """Some of them."""
        return Points(**{f.name: getattr(self, f.name)[rows] for f in fields(self)})


@dataclass(frozen=True, kw_only=True)
class Whole:
    """Students and standards of a subject that have evidence; arrays are by cell, and a last cell has none. keys: person's place ·
    standards + standard's place, in order. points: what counts; aside: what does not."""

    subject: str
    people: dict[int, int]
    standards: dict[int, int]
    keys: Ints
    ruling: list[Ruling]
    ruled: Ints
    given: list[Given]
    points: Points
    aside: Points
    occasions: Occasions
    gaps: Ints
    filter: Filtered
    states: States
    again: Again
    ways: Directions
    instruction: InstructionCount

    def cells(self, people: Sequence[int], standards: Sequence[int]) -> Ints:
        """(people · standards,) cell of each, person by person; the empty one where there is no evidence."""
        p = np.array([self.people.get(one, -1) for one in people], dtype=np.int64)
        s = np.array([self.standards.get(one, -1) for one in standards], dtype=np.int64)
        wanted = (p[:, None] * len(self.standards) + s[None, :]).ravel()
        known = ((p[:, None] >= 0) & (s[None, :] >= 0)).ravel()
        if not self.keys.size:
            return np.zeros(wanted.size, dtype=np.int64)
        at = np.minimum(np.searchsorted(self.keys, wanted), self.keys.size - 1)
        found: Ints = np.where(known & (self.keys[at] == wanted), at, self.keys.size)
        return found


@dataclass
class WholesAtHand:
    """By what they rest on."""

    wholes: KeptResults[Whole] = field(default_factory=lambda: KeptResults(12))


@dataclass(frozen=True, kw_only=True)
class Asked:
    """first, last: only evidence of these days counts. ruling: other rules for a framework, to see what they would change."""

    first: date | None = None
    last: date | None = None
    ruling: tuple[int, Ruling] | None = None


EVERYTHING = Asked()


def whole_of(ctx: Context, db: Session, subject: str, asked: Asked = EVERYTHING) -> Whole:
    """Judged anew where anything that it rests on has moved."""
    given, today = all_given(ctx, db), local_today(ctx, db)
    standards = tuple(
        db.execute(
            select(Standard.id, Standard.framework_id).where(Standard.subject == subject).order_by(Standard.id)
        ).tuples()
    )
    held = rulings(db)
    if asked.ruling is not None:
        held[asked.ruling[0]] = asked.ruling[1]
    decided = decisions(db)
    alternate = _alternate(db, subject, today)
    p = usual_p(ctx, db)
    key = (
        subject,
        standards,
        tuple(g.serial for g in given),
        tags_key(db),
        tuple(sorted((f, r.key) for f, r in held.items())),
        tuple(sorted(decided.items())),
        tuple(sorted(alternate)),
        len(p),
        sum(p.values()),
        (asked.first, asked.last, today),
        tuple(closed_days(db, None)),
    )
    return ctx.own(WholesAtHand).wholes.get(
        key, lambda: _judged(ctx, db, subject, given, dict(standards), held, decided, alternate, p, asked, today)
    )


def _alternate(db: Session, subject: str, today: date) -> frozenset[int]:
    """Students whose plan says that they are taught by alternate standards: modified tests are their evidence."""
    A = Accommodation
    return frozenset(
        db.scalars(
            select(A.person_id).where(
                A.kind == ALTERNATE,
                A.approved_at.is_not(None),
                A.subject.in_(("", subject)),
                (A.start.is_(None)) | (A.start <= today),
                (A.until.is_(None)) | (A.until >= today),
            )
        )
    )


@dataclass
class _Collected:
    """What is to be judged, rows as they are found, and the items that they are of. people, order: places of students and standards.
    of_standard: place of each standard's rules in ruling."""

    subject: str
    given: list[Given]
    people: dict[int, int]
    order: dict[int, int]
    ruling: list[Ruling]
    of_standard: Ints
    parts: list[tuple[Ints, ...]] = field(default_factory=list)
    earned: list[Floats] = field(default_factory=list)
    items: dict[tuple[int, int, float, float], int] = field(default_factory=dict)
    about: list[tuple[float, float, float, float, float]] = field(default_factory=list)


def _judged(
    ctx: Context,
    db: Session,
    subject: str,
    given: list[Given],
    framework: Mapping[int, int | None],
    held: Mapping[int, Ruling],
    decided: Mapping[int, bool],
    alternate: frozenset[int],
    p: Mapping[int, float],
    asked: Asked,
    today: date,
) -> Whole:
    tags = all_tags(ctx, db)
    usual = usual_of_standards(tags, p)
    order = {s: at for at, s in enumerate(framework)}
    ruling = [USUAL_RULING, *held.values()]
    place: dict[int | None, int] = {f: at for at, f in enumerate(held, 1)}
    of_standard = np.array([place.get(framework[s], 0) for s in order], dtype=np.int64)
    everybody = sorted({int(person) for one in given for person in one.people})
    people = {person: at for at, person in enumerate(everybody)}
    known, known_at = np.array(everybody, dtype=np.int64), np.array(sorted(alternate), dtype=np.int64)
    low = asked.first.toordinal() if asked.first else 0
    high = asked.last.toordinal() if asked.last else EVER
    tests: dict[tuple[str, int, int], int] = {}
    found = _Collected(subject, given, people, order, ruling, of_standard)
    for number, one in enumerate(given):
        spans = [
            (column, last, before, tag)
            for column, version in enumerate(one.versions)
            for last, before, tag in _in_time(tags, version)
            if tag.standard in order
        ]
        if not spans:
            continue
        within = (one.day >= low) & (one.day <= high)
        row_place = np.searchsorted(known, one.people)
        says = np.array([_said(decided.get(s)) for s in one.session.tolist()], dtype=np.int64)
        modified = np.full(one.people.size, one.modified) & ~np.isin(one.people, known_at)
        test = tests.setdefault(one.test, len(tests))
        for column, last, before, tag in spans:
            points = one.points[:, column]
            rows = np.flatnonzero(within & ~np.isnan(points) & (one.day > before) & (one.day <= last))
            if not rows.size:
                continue
            rule = ruling[of_standard[order[tag.standard]]]
            why = _why(says[rows], modified[rows], rule.counts[one.kind])
            found.parts.append(
                (
                    row_place[rows] * len(order) + order[tag.standard],
                    one.day[rows],
                    _item(found, one, column, tag, p, usual, rows.size),
                    np.full(rows.size, number),
                    np.full(rows.size, column),
                    one.session[rows],
                    np.full(rows.size, tag.by),
                    why,
                    np.full(rows.size, test),
                )
            )
            found.earned.append(points[rows])
    return _whole(db, found, today)


def _in_time(tags: Tags, version: int) -> list[tuple[int, int, Tagged]]:
    """Last day, the day before the first, and standard of each stretch."""
    told, before = [], -1
    for span in tags.get(version, ()):
        told += [(span.last, before, tag) for tag in span.tags]
        before = span.last
    return told


def _said(decided: bool | None) -> int:
    return 0 if decided is None else 1 if decided else -1


def _why(says: Ints, modified: np.ndarray, word: Counts) -> Ints:
    by_kind = {"yes": COUNTED, "no": KIND, "ask": OPEN}[word]
    found: Ints = np.where(modified, MODIFIED, np.where(says > 0, COUNTED, np.where(says < 0, DECIDED, by_kind)))
    return found


def _item(
    found: _Collected,
    one: Given,
    column: int,
    tag: Tagged,
    p: Mapping[int, float],
    usual: Mapping[int, float],
    n: int,
) -> Ints:
    """Number of the item as evidence of the standard, n times."""
    version, possible = one.versions[column], float(one.possible[column])
    key = (version, tag.standard, possible, tag.main)
    if key not in found.items:
        found.items[key] = len(found.about)
        s = usual.get(tag.standard, np.nan)
        mine = p.get(version, np.nan)
        # what counts as usual has the standard's usual p
        found.about.append((possible, tag.main, mine, s, s if np.isnan(mine) else mine if not np.isnan(s) else np.nan))
    return np.full(n, found.items[key])


def _whole(db: Session, found: _Collected, today: date) -> Whole:
    order, ruling, of_standard = found.order, found.ruling, found.of_standard
    if found.parts:
        columns = [np.concatenate(some) for some in zip(*found.parts, strict=True)]
        earned = np.concatenate(found.earned)
    else:
        columns, earned = [np.zeros(0, dtype=np.int64)] * 9, np.zeros(0)
    key, day, item, given_of, column, session, by, why, test = columns
    about = np.array(found.about, dtype=np.float64).reshape(-1, 5)
    worth = about[item, 0] if item.size else np.zeros(0)
    why = _retaken(key, test, day, session, earned, worth, why, [r.retakes for r in ruling], of_standard)
    keys = np.unique(key)
    at = np.searchsorted(keys, key)
    points = Points(
        cell=at,
        day=day,
        given=given_of,
        column=column,
        session=session,
        earned=earned,
        possible=worth,
        p=about[item, 2] if item.size else np.zeros(0),
        main=about[item, 1] if item.size else np.zeros(0),
        by=by,
        why=why,
    )
    sorted_rows = np.lexsort((column, session, day, at))
    counts = why[sorted_rows] == COUNTED
    mine, aside = sorted_rows[counts], sorted_rows[~counts]
    items = Items(about[:, 0], about[:, 1], about[:, 2], about[:, 3])
    cells = keys.size + 1
    told = occasions(Evidence(at[mine], day[mine], item[mine], earned[mine], items), cells)
    count = instruction(db, told.day, today)
    gaps = count(told.day) - np.concatenate([np.zeros((cells, 1), dtype=np.int64), count(told.day[:, :-1])], axis=1)
    of_cell = np.r_[of_standard[keys % len(order)] if len(order) else np.zeros(0, dtype=np.int64), 0]
    since = count(np.full(cells, today.toordinal(), dtype=np.int64)) - count(_latest(told))
    run, state, again = judged_by_rules(told, gaps, since, [r.rules for r in ruling], of_cell)
    expected = about[item[mine], 4] if mine.size else np.zeros(0)
    return Whole(
        subject=found.subject,
        people=found.people,
        standards=order,
        keys=keys,
        ruling=ruling,
        ruled=of_cell,
        given=found.given,
        points=points.take(mine),
        aside=points.take(aside),
        occasions=told,
        gaps=gaps,
        filter=run,
        states=state,
        again=again,
        ways=directions(at[mine], earned[mine], points.possible[mine], expected, cells),
        instruction=count,
    )


def _retaken(
    key: Ints,
    test: Ints,
    day: Ints,
    session: Ints,
    earned: Floats,
    possible: Floats,
    why: Ints,
    ways: Sequence[str],
    of_standard: Ints,
) -> Ints:
    """Rows that do not count, as the same test was taken again, told apart; by the rule of each framework."""
    if not key.size or all(way == "adds" for way in ways):
        return why
    found = why.copy()
    rule = of_standard[key % of_standard.size]
    attempt = day * (int(session.max()) + 1) + session
    for number, way in enumerate(ways):
        if way == "adds":
            continue
        rows = np.flatnonzero((rule == number) & (why == COUNTED))
        gone = set_aside(key[rows], test[rows], attempt[rows], earned[rows], possible[rows], way)  # type: ignore[arg-type]
        found[rows[gone]] = RETAKEN
    return found


def _latest(told: Occasions) -> Ints:
    """(cells,) day of the latest evidence, 0 where there is none."""
    if not told.day.shape[1]:
        return np.zeros(told.count.size, dtype=np.int64)
    found: Ints = told.day[np.arange(told.count.size), np.maximum(told.count - 1, 0)]
    return found


def judged_by_rules(
    told: Occasions, gaps: Ints, since: Ints, rules: Sequence[MasteryRules], of_cell: Ints
) -> tuple[Filtered, States, Again]:
    """Each cell by the rules of its framework, given by their place."""
    used = [at for at in range(len(rules)) if (of_cell == at).any()]
    parts = {}
    for at in used:
        cells = np.flatnonzero(of_cell == at)
        some = told if len(used) == 1 else some_of(told, cells)
        between, days = (gaps, since) if len(used) == 1 else (gaps[cells], since[cells])
        run = filtered(some, between, rules[at])
        state = states(some, run, rules[at])
        above = _last_above(some, run)
        parts[at] = cells, run, state, check_again(above, state.now >= MASTERED, days, rules[at])
    if len(parts) == 1:
        return parts[used[0]][1:]
    cells = np.concatenate([parts[at][0] for at in used])
    back = np.argsort(cells, kind="stable")
    return (
        _put_together([parts[at][1] for at in used], back),
        _put_together([parts[at][2] for at in used], back),
        _put_together([parts[at][3] for at in used], back),
    )


def some_of(told: Occasions, cells: Ints) -> Occasions:
    """Of some cells; the patterns stay."""
    return replace(
        told, **{f.name: getattr(told, f.name)[cells] for f in fields(told) if f.name not in ("likelihood",)}
    )


def _last_above(told: Occasions, run: Filtered) -> Floats:
    if not told.day.shape[1]:
        return np.zeros(told.count.size)
    return np.nan_to_num(run.above[np.arange(told.count.size), np.maximum(told.count - 1, 0)])


def _put_together(parts: Sequence[T], back: Ints) -> T:
    """Arrays by cell, in the order of cells again."""
    return type(parts[0])(
        **{
            f.name: np.concatenate([getattr(part, f.name) for part in parts])[back]
            for f in fields(parts[0])  # type: ignore[arg-type]
        }
    )


class InstructionCount:
    """Days of instruction up to a day, by its ordinal."""

    def __init__(self, start: int, until: Ints) -> None:
        self.start, self.until = start, until

    def __call__(self, days: Ints) -> Ints:
        """Of each day."""
        return self.until[np.clip(days - self.start, 0, self.until.size - 1)]

    def after(self, day: int, instructional: float) -> int:
        """Ordinal of the day that lies so many days of instruction after another; beyond those known, five are a week."""
        wanted = int(self.until[min(max(day - self.start, 0), self.until.size - 1)]) + int(np.ceil(instructional))
        at = int(np.searchsorted(self.until, wanted))
        if at < self.until.size:
            return self.start + at
        return self.start + self.until.size - 1 + int(np.ceil((wanted - int(self.until[-1])) * 7 / 5))


def instruction(db: Session, days: Ints, today: date) -> InstructionCount:
    """From the first of some days on, to today."""
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
    return InstructionCount(start, np.cumsum(marks))
