"""Cut scores of a measure by grade and season: entered by the school, with their source, in versions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.grades import in_grade_order
from bildung.core.items.shown import counted
from bildung.core.scales.cuts import CutRow, CutTable, cut_table
from bildung.services.forms.levels import cut_table_of, newest_cuts
from bildung.services.growth.head import MeasureHead, head_of
from bildung.services.growth.measures import measure_named
from bildung.services.growth.scored import lines_of, scores_at
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.typed import need_text
from bildung.store.models import CutSet, Measure, Occasion, Person

MOST_NAMES, MOST_ROWS = 8, 400


@dataclass(frozen=True)
class CutLine:
    """grade, season: empty for all. cuts: from the lowest level's upper end on."""

    grade: str
    season: str
    cuts: list[float]


@dataclass(frozen=True, kw_only=True)
class CutSetLine:
    """A version of cut scores. goal: place of the level to reach, from 1."""

    number: int
    names: list[str]
    goal: int
    source: str
    added: date
    by: str
    rows: list[CutLine]


@dataclass(frozen=True, kw_only=True)
class CutsPage:
    """sets: newest first; the first holds. grades, seasons: of the scores that are here. uncovered: of these, where no cut scores hold."""

    finding: str
    measure: MeasureHead
    levels: list[str]
    keeps: bool
    grades: list[str]
    seasons: list[str]
    sets: list[CutSetLine]
    uncovered: list[str]


@dataclass(frozen=True, kw_only=True)
class CutsWish:
    """based: number of the version that was changed, 0 for none; refused where another has come since."""

    names: Sequence[str]
    rows: Sequence[CutLine]
    goal: int
    source: str
    based: int


def cuts_page(ctx: Context, actor: Actor, measure_id: int) -> CutsPage:
    """All versions, and where scores have no cut scores."""
    scope(actor, Action.GROWTH_READ)
    with ctx.store.read() as db:
        measure = measure_named(db, measure_id)
        lines = lines_of(ctx, db, measure)
        held = {line.season: _grades(ctx, db, measure, int(line.id)) for line in lines}
        rows = db.execute(
            select(CutSet, Person)
            .join(Person, Person.id == CutSet.added_by_id)
            .where(CutSet.measure_id == measure.id)
            .order_by(CutSet.number.desc())
        ).all()
        newest = newest_cuts(db, measure.id)
        table = None if newest is None else cut_table_of(newest)
        sets = [_line(one, by.name) for one, by in rows]
    uncovered = []
    if table is not None:
        for season, grades in held.items():
            bare = in_grade_order([g for g in grades if table.levels(g, season) is None])
            if bare:
                uncovered.append(f"{season}: grade{'s' if len(bare) > 1 else ''} {', '.join(bare)}")
    return CutsPage(
        finding=_finding(measure.name, sets, uncovered),
        measure=head_of(measure),
        levels=measure.levels or [],
        keeps=actor.may(Action.MEASURES_KEEP),
        grades=in_grade_order({g for grades in held.values() for g in grades}),
        seasons=list(held),
        sets=sets,
        uncovered=uncovered,
    )


def put_cuts(ctx: Context, actor: Actor, measure_id: int, wish: CutsWish) -> int:
    """A new version, which holds from now on. Its number."""
    scope(actor, Action.MEASURES_KEEP)
    names = [need_text(name, "names", 40) for name in wish.names]
    source = need_text(wish.source, "source", 300)
    if len(names) > MOST_NAMES or len(wish.rows) > MOST_ROWS:
        raise Invalid(f"at most {MOST_NAMES} levels and {MOST_ROWS} rows", "rows")

    def work(db: Session) -> int:
        measure = measure_named(db, measure_id)
        table = _fit(measure, names, wish)
        before = newest_cuts(db, measure.id)
        number = 0 if before is None else before.number
        if number != wish.based:
            raise Conflict("other cut scores were saved meanwhile; look at them first")
        made = CutSet(
            measure_id=measure.id,
            number=number + 1,
            names=list(table.names),
            rows=[{"grade": r.grade, "season": r.season, "cuts": list(r.cuts)} for r in table.rows],
            goal=table.goal,
            source=source,
            added_at=ctx.clock(),
            added_by_id=actor.person_id,
        )
        db.add(made)
        measure.version += 1
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "cuts.put",
            f"measure:{measure.id}",
            {"number": number} if number else None,
            {"number": number + 1, "levels": names, "rows": len(table.rows), "source": source},
        )
        return made.number

    return ctx.store.write(work)


def _fit(measure: Measure, names: Sequence[str], wish: CutsWish) -> CutTable:
    rows = [CutRow(r.grade.strip(), r.season.strip(), tuple(r.cuts)) for r in wish.rows]
    try:
        return cut_table(names, rows, wish.goal, measure.low, measure.high, measure.falling)
    except Refused as error:
        raise Invalid(str(error), "rows") from None


def table_at(db: Session, measure: Measure) -> CutTable | None:
    """The cut scores that hold, for scores whose sign is turned where less is better."""
    row = newest_cuts(db, measure.id)
    if row is None:
        return None
    table = cut_table_of(row)
    return table.turned() if measure.falling else table


def _grades(ctx: Context, db: Session, measure: Measure, occasion_id: int) -> set[str]:
    return {s.grade for s in scores_at(ctx, db, measure, db.get_one(Occasion, occasion_id)).values()}


def _line(one: CutSet, by: str) -> CutSetLine:
    return CutSetLine(
        number=one.number,
        names=one.names,
        goal=one.goal,
        source=one.source,
        added=one.added_at.date(),
        by=by,
        rows=[CutLine(r["grade"], r["season"], r["cuts"]) for r in one.rows],
    )


def _finding(measure: str, sets: Sequence[CutSetLine], uncovered: Sequence[str]) -> str:
    if not sets:
        return f"{measure} has no cut scores yet. With them, levels and goals can be told."
    now = sets[0]
    text = f"{counted(len(now.names), 'level')} in version {now.number}; the goal is {now.names[now.goal - 1]}."
    if uncovered:
        text += f" Scores without cut scores: {'; '.join(uncovered)}."
    return text
