"""The grid: students of a class by standards, each cell with its state, share, amount and direction."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np
from scipy.special import bdtr
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.grades import in_grade_order
from bildung.core.items.shown import counted, percent
from bildung.core.mastery.direction import Direction
from bildung.core.mastery.rules import ASKS
from bildung.core.mastery.states import DEVELOPING, INSUFFICIENT, MASTERED, STATES
from bildung.core.school.privacy import LEAST, alias_numbers
from bildung.formats.table import to_file
from bildung.services.calendar.years import local_today
from bildung.services.mastery.evidence import as_day
from bildung.services.mastery.judging import Judged, Source, judge, source, standards_with_evidence
from bildung.services.mastery.scope import (
    InClass,
    MasteryClass,
    class_choices,
    class_named,
    students_of,
    students_of_grade,
)
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.wire import Id
from bildung.store.models import SchoolClass, Standard

FALSE_ARROW = 0.025  # of the cells judged, each way


@dataclass(frozen=True, kw_only=True)
class GridCell:
    """state: place in the list of states. share: of the run; amount: weighted points of it. way: 1 rising, -1 falling. again: to be checked
    again. lapsed: it was mastered before."""

    state: int
    share: float | None
    amount: float
    way: int
    again: bool
    lapsed: bool


@dataclass(frozen=True, kw_only=True)
class GridRow:
    """A student. need: standards with enough evidence that are not mastered."""

    person: Id
    name: str
    alias: int
    need: int
    cells: list[GridCell]


@dataclass(frozen=True, kw_only=True)
class GridColumn:
    """A standard. mastered of assessed: students of the class with evidence that is not thin; grade: share of the grade's students in the
    district, of n."""

    standard: Id
    code: str
    text: str
    plain: str
    domain: str
    priority: bool
    mastered: int
    assessed: int
    grade_share: float | None
    grade_n: int


@dataclass(frozen=True, kw_only=True)
class GridPage:
    """states: by place. asks: what mastered asks, in a sentence. arrows: rising and falling beside what chance brings. empty: standards of
    the grade without evidence that are not shown."""

    finding: str
    classes: list[MasteryClass]
    class_id: Id | None
    klass: str
    subject: str
    grade: str
    states: list[str]
    domains: list[str]
    domain: str
    first: date | None
    last: date | None
    columns: list[GridColumn]
    rows: list[GridRow]
    rising: int
    falling: int
    judged: int
    arrows: str
    empty: int
    asks: str


@dataclass(frozen=True, kw_only=True)
class GridAsked:
    """class_id: None for the first that this person may see. domain: heading of standards; priority: only those; whole: also standards
    without evidence. first, last: only evidence of these days."""

    class_id: int | None = None
    domain: str = ""
    priority: bool = False
    whole: bool = False
    first: date | None = None
    last: date | None = None


def grid_page(ctx: Context, actor: Actor, asked: GridAsked) -> GridPage:
    """Of one class."""
    scope(actor, Action.MASTERY_READ)
    if asked.first and asked.last and asked.last < asked.first:
        raise Invalid("the first day lies before the last", "last")
    with ctx.store.read() as db:
        classes = class_choices(db, actor)
        if not classes and asked.class_id is None:
            return _nothing()
        klass = class_named(db, actor, asked.class_id if asked.class_id is not None else int(classes[0].id))
        students = students_of(db, klass.id)
        found = source(ctx, db)
        standards, empty = standards_of(db, found, klass, [s.id for s in students], asked)
        today = local_today(ctx, db)
        ids = [s.id for s in standards]
        peers = students_of_grade(db, klass.subject, klass.grade)
        mine = judge(ctx, db, found, [s.id for s in students], ids, today, asked.first, asked.last)
        grade = judge(ctx, db, found, peers, ids, today, asked.first, asked.last)
        parents = {
            s.id: s for s in db.scalars(select(Standard).where(Standard.id.in_([s.parent_id for s in standards])))
        }
        domains = _domains(db, klass, found, [s.id for s in students])
    directions = [mine.direction(cell) for cell in range(mine.states.now.size)]
    rows = _rows(mine, students, directions)
    columns = [_column(mine, grade, at, s, parents) for at, s in enumerate(standards)]
    ways = [one.way for one in directions]
    judged = sum(one.late is not None for one in directions)
    page = GridPage(
        finding="",
        classes=classes,
        class_id=klass.id,
        klass=klass.title,
        subject=klass.subject,
        grade=klass.grade,
        states=list(STATES),
        domains=domains,
        domain=asked.domain,
        first=asked.first,
        last=asked.last,
        columns=columns,
        rows=rows,
        rising=ways.count(1),
        falling=ways.count(-1),
        judged=judged,
        arrows=_arrows(ways.count(1), ways.count(-1), judged),
        empty=empty,
        asks=ASKS,
    )
    return replace(page, finding=_finding(page))


def _nothing() -> GridPage:
    return GridPage(
        finding="No class here is yours to see.",
        classes=[],
        class_id=None,
        klass="",
        subject="",
        grade="",
        states=list(STATES),
        domains=[],
        domain="",
        first=None,
        last=None,
        columns=[],
        rows=[],
        rising=0,
        falling=0,
        judged=0,
        arrows="",
        empty=0,
        asks=ASKS,
    )


def standards_of(
    db: Session, found: Source, klass: SchoolClass, people: Sequence[int], asked: GridAsked
) -> tuple[list[Standard], int]:
    """Of the class's subject: those with evidence of these students, in the order of the framework, and the others of the grade
    where they are wanted; how many of the grade have none."""
    some = standards_with_evidence(found, people)
    rows = db.scalars(
        select(Standard)
        .where(Standard.subject == klass.subject)
        .order_by(Standard.grade, Standard.position, Standard.id)
    ).all()
    headings = {s.parent_id for s in rows}
    parents = {s.id: s.text or s.code for s in rows}
    kept, empty = [], 0
    for s in rows:
        if s.id in headings and s.id not in some:
            continue
        if s.id not in some:
            of_grade = s.grade == klass.grade
            empty += of_grade
            if not (asked.whole and of_grade):
                continue
        if asked.priority and not s.priority:
            continue
        if asked.domain and parents.get(s.parent_id or 0, "") != asked.domain:
            continue
        kept.append(s)
    order = {grade: at for at, grade in enumerate(in_grade_order({s.grade for s in kept}))}
    kept.sort(key=lambda s: (s.grade != klass.grade, order[s.grade], s.position, s.id))
    return kept, empty


def _domains(db: Session, klass: SchoolClass, found: Source, people: Sequence[int]) -> list[str]:
    some = standards_with_evidence(found, people)
    rows = db.scalars(select(Standard).where(Standard.id.in_(some), Standard.subject == klass.subject)).all()
    parents = db.scalars(select(Standard).where(Standard.id.in_({s.parent_id for s in rows if s.parent_id}))).all()
    return sorted({p.text or p.code for p in parents})


def _rows(mine: Judged, students: Sequence[InClass], ways: Sequence[Direction]) -> list[GridRow]:
    names = {s.id: s.name for s in students}
    aliases = alias_numbers(mine.people)
    rows = []
    for at, person in enumerate(mine.people):
        places = [mine.at(at, column) for column in range(len(mine.standards))]
        cells = [_cell(mine, place, ways[place]) for place in places]
        rows.append(
            GridRow(
                person=person,
                name=names[person],
                alias=aliases[at],
                need=sum(INSUFFICIENT < c.state <= DEVELOPING for c in cells),
                cells=cells,
            )
        )
    return rows


def _cell(mine: Judged, cell: int, direction: Direction) -> GridCell:
    return GridCell(
        state=int(mine.states.now[cell]),
        share=mine.share(cell),
        amount=round(float(mine.states.run_possible[cell]), 2),
        way=direction.way,
        again=bool(mine.again.now[cell]),
        lapsed=bool(mine.states.lapsed[cell]),
    )


def _column(mine: Judged, grade: Judged, at: int, s: Standard, parents: dict[int, Standard]) -> GridColumn:
    now = mine.states.now[at :: len(mine.standards)]
    theirs = grade.states.now[at :: len(grade.standards)]
    known = theirs > INSUFFICIENT
    n = int(known.sum())
    parent = parents.get(s.parent_id or 0)
    return GridColumn(
        standard=s.id,
        code=s.code,
        text=s.text,
        plain=s.plain,
        domain=(parent.text or parent.code) if parent is not None else "",
        priority=s.priority,
        mastered=int((now >= MASTERED).sum()),
        assessed=int((now > INSUFFICIENT).sum()),
        grade_share=float((theirs[known] >= MASTERED).mean()) if n >= LEAST else None,
        grade_n=n,
    )


def _arrows(rising: int, falling: int, judged: int) -> str:
    if not judged:
        return ""
    upper = int(np.searchsorted(bdtr(np.arange(judged + 1), judged, FALSE_ARROW), 0.95))
    return f"{rising} rising and {falling} falling of {judged} cells with enough evidence; chance brings up to {upper} each way."


def _finding(page: GridPage) -> str:
    if not page.columns or not page.rows:
        return f"{page.klass} has no evidence on any standard yet."
    known = [c for row in page.rows for c in row.cells if c.state > INSUFFICIENT]
    thin = sum(c.state == INSUFFICIENT for row in page.rows for c in row.cells)
    if not known:
        return (
            f"{page.klass}: evidence on {counted(len(page.columns), 'standard')}, too thin to say who has mastered any."
        )
    mastered = sum(c.state >= MASTERED for c in known)
    text = f"{page.klass}: {percent(mastered / len(known))} of what could be judged is mastered, on {counted(len(page.columns), 'standard')}."
    judged = [c for c in page.columns if c.assessed >= LEAST]
    if judged:
        least = min(judged, key=lambda c: (c.mastered / c.assessed, c.code))
        text += f" Fewest on {least.code}: {least.mastered} of {least.assessed}."
    again = sum(c.again for row in page.rows for c in row.cells)
    if again:
        text += f" {counted(again, 'cell')} to be checked again."
    if thin > len(known):
        text += " Most evidence is too thin to say."
    return text


def grid_file(ctx: Context, actor: Actor, asked: GridAsked, kind: str, names: bool) -> bytes:
    """The grid as CSV or XLSX: a row for each student and standard."""
    page = grid_page(ctx, actor, asked)
    if page.class_id is None:
        raise Conflict("no class here is yours to see")
    cells: list[list[str | float]] = [
        [
            row.name if names else f"Student {row.alias + 1}",
            column.code,
            page.states[cell.state],
            "" if cell.share is None else round(cell.share, 4),
            cell.amount,
            {1: "rising", -1: "falling"}.get(cell.way, ""),
            "yes" if cell.again else "",
        ]
        for row in page.rows
        for column, cell in zip(page.columns, row.cells, strict=True)
        if cell.state
    ]
    heads = ("student", "standard", "state", "share of the run", "points of the run", "direction", "check again")
    return to_file("xlsx" if kind == "xlsx" else "csv", "Mastery", heads, cells)


def judged_class(
    ctx: Context, db: Session, actor: Actor, class_id: int
) -> tuple[SchoolClass, list[InClass], list[Standard], Judged]:
    """A class with its students, the standards that it has evidence on, and what that says: all as the grid has it unless asked otherwise."""
    klass = class_named(db, actor, class_id)
    students = students_of(db, klass.id)
    found = source(ctx, db)
    standards, _ = standards_of(db, found, klass, [s.id for s in students], GridAsked())
    mine = judge(ctx, db, found, [s.id for s in students], [s.id for s in standards], local_today(ctx, db))
    return klass, students, standards, mine


def evidence_file(ctx: Context, actor: Actor, class_id: int) -> bytes:
    """Every scored point behind a class's grid, as CSV."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        _, students, standards, mine = judged_class(ctx, db, actor, class_id)
    codes = [s.code for s in standards]
    names = {s.id: s.name for s in students}
    cells: list[list[str | float]] = []
    for at, person in enumerate(mine.people):
        for column, code in enumerate(codes):
            for row in mine.rows_of(mine.at(at, column)):
                given = mine.given[row.given]
                cells.append(
                    [
                        person,
                        names[person],
                        code,
                        as_day(row.day).isoformat(),
                        row.session,
                        given.codes[row.column],
                        row.earned,
                        row.possible,
                        row.main,
                        "" if np.isnan(row.p) else round(row.p, 6),
                    ]
                )
    heads = ("id", "student", "standard", "day", "session", "item", "earned", "possible", "tag", "usual_p")
    return to_file("csv", "Evidence", heads, cells)
