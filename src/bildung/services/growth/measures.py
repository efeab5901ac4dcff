"""Measures: what is scored, on which scale, in which windows, against which norms."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted, dated
from bildung.formats.scores import read_correlations, read_norms
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import Measure, MeasureScore, NormSet, Person, SchoolYear, Window


@dataclass(frozen=True, kw_only=True)
class MeasureWindow:
    """A window with scores: how many."""

    id: Id
    name: str
    start: date
    scores: int


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
    """windows: with scores, in order of time. latest: the newest two of one school year, which are compared first; empty where there are
    none. norms: newest first; the first holds."""

    id: Id
    name: str
    subject: str
    low: float
    high: float
    decimals: int
    students: int
    windows: list[MeasureWindow]
    latest: list[Id]
    norms: list[NormSetLine]


@dataclass(frozen=True, kw_only=True)
class MeasuresPage:
    """keeps: whether this person adds measures, scores and norms."""

    finding: str
    keeps: bool
    measures: list[MeasureLine]


@dataclass(frozen=True, kw_only=True)
class MeasureWish:
    name: str
    subject: str
    low: float
    high: float
    decimals: int = 0


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
    with ctx.store.read() as db:
        lines = [_line(db, m) for m in db.scalars(select(Measure).order_by(Measure.subject, Measure.name))]
    return MeasuresPage(finding=_finding(lines), keeps=actor.may(Action.MEASURES_KEEP), measures=lines)


def create_measure(ctx: Context, actor: Actor, wish: MeasureWish) -> int:
    """Conflict where one has the name."""
    scope(actor, Action.MEASURES_KEEP)
    name, subject = need_text(wish.name, "name", 80), need_text(wish.subject, "subject", 40)
    if not (math.isfinite(wish.low) and math.isfinite(wish.high)) or wish.low >= wish.high:
        raise Invalid("the lowest score lies below the highest", "low")
    if not 0 <= wish.decimals <= 3:
        raise Invalid("a score has 0 to 3 decimals", "decimals")

    def work(db: Session) -> int:
        if db.scalar(select(Measure.id).where(Measure.name == name)):
            raise Conflict(f"there is a measure {name} already", "name")
        made = Measure(
            name=name,
            subject=subject,
            low=wish.low,
            high=wish.high,
            decimals=wish.decimals,
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


def windows_of(db: Session, measure_id: int) -> list[MeasureWindow]:
    """Those with scores, in order of time."""
    rows = db.execute(
        select(Window, func.count())
        .join(MeasureScore, MeasureScore.window_id == Window.id)
        .where(MeasureScore.measure_id == measure_id)
        .group_by(Window.id)
        .order_by(Window.start)
    )
    return [MeasureWindow(id=w.id, name=dated(w.name, w.start.year), start=w.start, scores=n) for w, n in rows]


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


def _line(db: Session, m: Measure) -> MeasureLine:
    students = db.scalar(select(func.count(MeasureScore.person_id.distinct())).where(MeasureScore.measure_id == m.id))
    windows = windows_of(db, m.id)
    return MeasureLine(
        id=m.id,
        name=m.name,
        subject=m.subject,
        low=m.low,
        high=m.high,
        decimals=m.decimals,
        students=students or 0,
        windows=windows,
        latest=_latest(db, windows),
        norms=norms_of(db, m.id),
    )


def _latest(db: Session, windows: Sequence[MeasureWindow]) -> list[Id]:
    years = db.scalars(select(SchoolYear).order_by(SchoolYear.start.desc())).all()
    for year in years:
        mine = [w.id for w in windows if year.start <= w.start <= year.end]
        if len(mine) > 1:
            return mine[-2:]
    return [w.id for w in windows[-2:]] if not years and len(windows) > 1 else []


def _finding(lines: Sequence[MeasureLine]) -> str:
    if not lines:
        return "No measure yet. With scores from two windows, growth can be judged."
    ready = [line for line in lines if len(line.windows) > 1]
    by_subject: dict[str, int] = defaultdict(int)
    for line in ready:
        by_subject[line.subject] += 1
    if not ready:
        return f"{counted(len(lines), 'measure')}, none with scores from two windows yet."
    bare = sum(not line.norms for line in ready)
    text = f"{counted(len(ready), 'measure')} in {', '.join(sorted(by_subject))} {'has' if len(ready) == 1 else 'have'} scores from two windows or more."
    return f"{text} {bare} without norms: students are held against each other." if bare else text
