"""Measures: what is scored, on which scale, in which windows, against which norms."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.classical.intervals import Interval
from bildung.core.growth.direction import wrong_way
from bildung.core.growth.groups import t_interval
from bildung.core.items.shown import counted
from bildung.formats.scores import read_correlations, read_norms
from bildung.services.forms.levels import newest_cuts
from bildung.services.growth.occasions import OccasionLine, occasions_of
from bildung.services.growth.own import ensure_own
from bildung.services.growth.scored import lines_of, scores_at, sign_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import Measure, MeasureScore, NormSet, Occasion, Person, SchoolYear

MOST_LEVELS = 40


@dataclass(frozen=True, kw_only=True)
class NormSetLine:
    """kind: moments, or percentile points; grades: in the order of the file; expects: whether it holds correlations, so that it says what a
    start lets expect."""

    id: Id
    name: str
    version: str
    source: str
    population: str
    kind: str
    grades: list[str]
    weeks: str
    expects: bool
    added: date
    by: str


@dataclass(frozen=True, kw_only=True)
class MeasureLine:
    """levels: names of ordered levels, lowest first; empty where the score is a number. falling: less is better. own: benchmarks that are
    given here. part_of: the measure that this is a skill of. windows: occasions with scores, in order of time. latest: the newest two of
    one school year, which are compared first; empty where there are none. norms: newest first; the first holds. cuts: what the levels
    that hold are called, empty without cut scores. doubt: why it may be set the wrong way round; empty otherwise."""

    id: Id
    name: str
    subject: str
    low: float
    high: float
    decimals: int
    levels: list[str]
    falling: bool
    own: bool
    part_of: Id | None
    students: int
    windows: list[OccasionLine]
    latest: list[Id]
    norms: list[NormSetLine]
    cuts: list[str]
    doubt: str


@dataclass(frozen=True, kw_only=True)
class MeasuresPage:
    """keeps: whether this person adds measures, scores and norms."""

    finding: str
    keeps: bool
    measures: list[MeasureLine]


@dataclass(frozen=True, kw_only=True)
class MeasureWish:
    """levels: names of ordered levels, lowest first; the scale then runs over their places. part_of: id of the measure that this is a skill
    of; its place is after the skills that are there."""

    name: str
    subject: str
    low: float = 1.0
    high: float = 1.0
    decimals: int = 0
    levels: Sequence[str] = ()
    falling: bool = False
    part_of: int | None = None


@dataclass(frozen=True, kw_only=True)
class NormWish:
    """norms, correlations: CSV of docs/commands.md; without the second the table says where a student stands, and the others what to
    expect."""

    name: str
    version: str
    source: str
    population: str
    norms: bytes
    correlations: bytes = b""


def measures_page(ctx: Context, actor: Actor) -> MeasuresPage:
    """All measures, with how much there is of each."""
    scope(actor, Action.GROWTH_READ)
    ensure_own(ctx)
    with ctx.store.read() as db:
        found = db.scalars(select(Measure).order_by(Measure.subject, Measure.own, Measure.place, Measure.name)).all()
        lines = [_line(ctx, db, m) for m in found]
        doubts = _doubts(ctx, db, found, lines)
    lines = [replace(line, doubt=doubts.get(int(line.id), "")) for line in lines if line.windows or not line.own]
    return MeasuresPage(finding=_finding(lines), keeps=actor.may(Action.MEASURES_KEEP), measures=lines)


@dataclass(frozen=True)
class NewestGrowth:
    """Two occasions of a measure, for who starts at Today."""

    what: str
    path: str


def newest_growth(db: Session, actor: Actor, most: int = 3) -> list[NewestGrowth]:
    """Of the measures from outside that were taken last, a subject each; only counts are read."""
    if not actor.may(Action.GROWTH_READ):
        return []
    found: list[tuple[date, str, NewestGrowth]] = []
    wanted = select(Measure).where(Measure.own.is_(False), Measure.part_of_id.is_(None)).order_by(Measure.id)
    for measure in db.scalars(wanted):
        if measure.levels:
            continue
        windows = [w for w in occasions_of(db, measure.id) if w.scores]
        latest = latest_of(db, windows)
        if len(latest) < 2:
            continue
        by_id = {w.id: w for w in windows}
        start, end = by_id[latest[0]], by_id[latest[1]]
        line = NewestGrowth(
            f"{measure.name}, {start.name} to {end.name}", f"/growth/{measure.id}?start={start.id}&end={end.id}"
        )
        found.append((end.start, measure.subject, line))
    found.sort(key=lambda one: one[0], reverse=True)
    by_subject: dict[str, NewestGrowth] = {}
    for _, subject, line in found:
        by_subject.setdefault(subject, line)
    return list(by_subject.values())[:most]


def create_measure(ctx: Context, actor: Actor, wish: MeasureWish) -> int:
    """Conflict where one has the name."""
    scope(actor, Action.MEASURES_KEEP)
    name, subject = need_text(wish.name, "name", 80), need_text(wish.subject, "subject", 40)
    levels = [need_text(level, "levels", 40) for level in wish.levels]
    if levels:
        if not 2 <= len(levels) <= MOST_LEVELS or len({level.lower() for level in levels}) < len(levels):
            raise Invalid(f"2 to {MOST_LEVELS} levels, each with a name of its own", "levels")
        wish = replace(wish, low=1.0, high=float(len(levels)), decimals=0)
    if not (math.isfinite(wish.low) and math.isfinite(wish.high)) or wish.low >= wish.high:
        raise Invalid("the lowest score lies below the highest", "low")
    if not 0 <= wish.decimals <= 3:
        raise Invalid("a score has 0 to 3 decimals", "decimals")

    def work(db: Session) -> int:
        if db.scalar(select(Measure.id).where(Measure.name == name)):
            raise Conflict(f"there is a measure {name} already", "name")
        place = 0
        if wish.part_of is not None:
            whole = measure_named(db, wish.part_of)
            if whole.part_of_id is not None:
                raise Invalid(f"{whole.name} is a skill itself; choose the measure that it is a part of", "part_of")
            place = 1 + (db.scalar(select(func.max(Measure.place)).where(Measure.part_of_id == whole.id)) or 0)
        made = Measure(
            name=name,
            subject=subject,
            low=wish.low,
            high=wish.high,
            decimals=wish.decimals,
            levels=levels or None,
            falling=wish.falling,
            part_of_id=wish.part_of,
            place=place,
            version=0,
            made_at=ctx.clock(),
        )
        db.add(made)
        db.flush()
        audit.record(db, ctx.clock(), actor.person_id, "measure.add", f"measure:{made.id}", None, {"name": name})
        return made.id

    return ctx.store.write(work)


def add_norms(ctx: Context, actor: Actor, measure_id: int, wish: NormWish) -> int:
    """A norm table, read whole before it is kept; from now on figures rest on it. An ImportProblem names the line that is wrong."""
    scope(actor, Action.MEASURES_KEEP)
    said = {
        "name": need_text(wish.name, "name", 120),
        "version": need_text(wish.version, "version", 40),
        "source": need_text(wish.source, "source", 300),
        "population": need_text(wish.population, "population", 300),
    }
    correlations = read_correlations("correlations", wish.correlations) if wish.correlations.strip() else None
    read_norms("norms", wish.norms, correlations)

    def work(db: Session) -> int:
        measure = measure_named(db, measure_id)
        made = NormSet(
            measure_id=measure.id,
            **said,
            published=None,
            norms=wish.norms.decode("utf-8-sig"),
            correlations=wish.correlations.decode("utf-8-sig"),
            added_at=ctx.clock(),
            added_by_id=actor.person_id,
        )
        db.add(made)
        measure.version += 1
        db.flush()
        audit.record(db, ctx.clock(), actor.person_id, "norms.add", f"measure:{measure.id}", None, said)
        return made.id

    return ctx.store.write(work)


def measure_named(db: Session, id: int) -> Measure:
    """NotFound where there is none."""
    found = db.get(Measure, id)
    if found is None:
        raise NotFound("there is no such measure")
    return found


def norms_of(db: Session, measure_id: int) -> list[NormSetLine]:
    """Newest first."""
    rows = db.execute(
        select(NormSet, Person)
        .join(Person, Person.id == NormSet.added_by_id)
        .where(NormSet.measure_id == measure_id)
        .order_by(NormSet.id.desc())
    )
    return [_norm_line(one, by.name) for one, by in rows]


def _norm_line(one: NormSet, by: str) -> NormSetLine:
    table = read_norms(one.name, one.norms.encode())
    keys = list(dict.fromkeys((*table.moments, *table.points)))
    weeks = [w for part in (table.moments, table.points) for row in part.values() for w in row.weeks.tolist()]
    return NormSetLine(
        id=one.id,
        name=one.name,
        version=one.version,
        source=one.source,
        population=one.population,
        kind="means and standard deviations" if table.moments else "percentiles",
        grades=list(dict.fromkeys(grade for _, grade in keys)),
        weeks=f"{min(weeks):g} to {max(weeks):g}",
        expects=bool(one.correlations.strip()),
        added=one.added_at.date(),
        by=by,
    )


def _line(ctx: Context, db: Session, m: Measure) -> MeasureLine:
    windows = lines_of(ctx, db, m)
    if m.own:
        occasions = db.scalars(select(Occasion).where(Occasion.measure_id == m.id)).all()
        students = len({p for one in occasions for p in scores_at(ctx, db, m, one)})
    else:
        wanted = select(func.count(MeasureScore.person_id.distinct())).where(MeasureScore.measure_id == m.id)
        students = db.scalar(wanted) or 0
    cuts = newest_cuts(db, m.id)
    return MeasureLine(
        id=m.id,
        name=m.name,
        subject=m.subject,
        low=m.low,
        high=m.high,
        decimals=m.decimals,
        levels=m.levels or [],
        falling=m.falling,
        own=m.own,
        part_of=m.part_of_id,
        students=students,
        windows=windows,
        latest=_comparable(ctx, db, m, windows) if m.own else latest_of(db, windows),
        norms=norms_of(db, m.id),
        cuts=list(cuts.names) if cuts is not None else [],
        doubt="",
    )


def change_measure(ctx: Context, actor: Actor, measure_id: int, falling: bool) -> None:
    """Which way is better; scores stay as they are."""
    scope(actor, Action.MEASURES_KEEP)

    def work(db: Session) -> None:
        measure = measure_named(db, measure_id)
        if measure.own:
            raise Conflict("of points on benchmarks more is better")
        if newest_cuts(db, measure.id) is not None and measure.falling != falling:
            raise Conflict("its cut scores rise the other way; enter them anew after another direction was set")
        before = measure.falling
        measure.falling = falling
        measure.version += 1
        audit.record(
            db, ctx.clock(), actor.person_id, "measure.change", f"measure:{measure.id}", before, {"falling": falling}
        )

    ctx.store.write(work)


def _comparable(ctx: Context, db: Session, m: Measure, windows: Sequence[OccasionLine]) -> list[Id]:
    """The newest two in a row whose forms are on one scale for anybody, else the newest two of a year."""
    scores = {int(w.id): scores_at(ctx, db, m, db.get_one(Occasion, int(w.id))) for w in windows}
    for start, end in zip(reversed(windows[:-1]), reversed(windows[1:]), strict=True):
        first, last = scores[int(start.id)], scores[int(end.id)]
        if any(p in last and last[p].scale == s.scale for p, s in first.items()):
            return [start.id, end.id]
    return latest_of(db, windows)


def _doubts(ctx: Context, db: Session, found: Sequence[Measure], lines: Sequence[MeasureLine]) -> dict[int, str]:
    """Measures that fall while all others of their subject rise."""
    gains: dict[str, dict[int, Interval]] = defaultdict(dict)
    for measure, line in zip(found, lines, strict=True):
        if len(line.latest) == 2 and not line.levels:
            gain = _gain(ctx, db, measure, line.latest)
            if gain is not None:
                gains[measure.subject][measure.id] = gain
    said = {}
    for of_subject in gains.values():
        for id, gain in of_subject.items():
            if wrong_way(gain, [other for at, other in of_subject.items() if at != id]):
                said[id] = (
                    "It falls while every other measure of its subject rises. It may be set the wrong way round: is less "
                    "better here?"
                )
    return said


def _gain(ctx: Context, db: Session, measure: Measure, latest: Sequence[int]) -> Interval | None:
    """95% interval of the mean gain of students with comparable scores, in the direction that is set as better."""
    start, end = (scores_at(ctx, db, measure, db.get_one(Occasion, id)) for id in latest)
    both = [p for p in start.keys() & end.keys() if start[p].scale == end[p].scale]
    return t_interval(sign_of(measure) * np.array([end[p].score - start[p].score for p in both]))


def latest_of(db: Session, windows: Sequence[OccasionLine]) -> list[Id]:
    """The newest two of one school year; empty where no year has two."""
    years = db.scalars(select(SchoolYear).order_by(SchoolYear.start.desc())).all()
    for year in years:
        mine = [w.id for w in windows if year.start <= w.start <= year.end]
        if len(mine) > 1:
            return mine[-2:]
    return [w.id for w in windows[-2:]] if not years and len(windows) > 1 else []


def _finding(lines: Sequence[MeasureLine]) -> str:
    if not lines:
        return "No measure yet. With scores from two windows, growth can be judged."
    lines = [line for line in lines if line.part_of is None]
    ready = [line for line in lines if len(line.windows) > 1]
    by_subject: dict[str, int] = defaultdict(int)
    for line in ready:
        by_subject[line.subject] += 1
    if not ready:
        return f"{counted(len(lines), 'measure')}, none with scores from two windows yet."
    bare = sum(not line.norms for line in ready)
    text = f"{counted(len(ready), 'measure')} in {', '.join(sorted(by_subject))} {'has' if len(ready) == 1 else 'have'} scores from two windows or more."
    return f"{text} {bare} without norms: students are held against each other." if bare else text
