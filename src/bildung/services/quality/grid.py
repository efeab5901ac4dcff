"""The response grid: students by items, for the students whom this person may see by name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from sqlalchemy import select

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.grid import ResponseGrid, item_sentence, response_grid, student_sentence
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.data.responses import AWAITING, FIRST, NOT_PRESENTED, NOT_REACHED, OMITTED
from bildung.core.school.privacy import alias_numbers
from bildung.core.scoring.several import SeveralParts
from bildung.formats.scored import item_rule
from bildung.services.items.bankitem import BankItem
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.results import KeptResults
from bildung.services.shared.wire import Id
from bildung.store.models import Form, Person, SchoolClass, Sitting
from bildung.store.models import PlannedSession as Session_

STATES = {OMITTED: "omitted", NOT_REACHED: "not_reached", NOT_PRESENTED: "not_presented", AWAITING: "awaiting"}


@dataclass(frozen=True)
class AnswerLabel:
    """One distinct answer. share: of the item's points, 0..1. parts: of an item of several parts, the share of each."""

    text: str
    share: float
    parts: list[float] | None


@dataclass(frozen=True, kw_only=True)
class GridItem:
    """An item. key: as staff read it. letters: whether answers are options, shown by their letter. says: what is
    unexpected about it. codes: by student, 0 to 3 a state, 4 and more the place among `labels`."""

    number: int
    item: str
    kind: str
    points: float
    standards: list[str]
    key: str
    letters: bool
    parts: list[str]
    p: float | None
    fit: float
    surprises: int
    says: str
    labels: list[AnswerLabel]
    codes: IntArray


@dataclass(frozen=True, kw_only=True)
class GridStudent:
    """A row. earned, possible: points; share: 0..1 of the possible. fit: low is unexpected. missed, got: places of
    unexpected answers. omitted, not_reached: how many. alias: number from 0 to show while names are hidden."""

    sitting: Id
    person: Id
    name: str
    klass: str
    form: str
    earned: float
    possible: float
    share: float | None
    rank: float | None
    fit: float
    unexpected: list[int]
    omitted: int
    not_reached: int
    alias: int


@dataclass(frozen=True, kw_only=True)
class Grid:
    """of: students counted in the scope; the rows are those whose answers this person may see by name. watch_line: share
    of the points."""

    finding: str
    of: int
    watch_line: float
    students: list[GridStudent]
    items: list[GridItem]


def grid(
    ctx: Context, actor: Actor, wanted: ScopeRequest, settings: Settings = DEFAULTS, job: Job | None = None
) -> Grid:
    """Students by items, for the students whom this person may see by name."""
    judged = judge(ctx, actor, wanted, settings, job)
    analysis = judged.analysis
    if not analysis.table.n:
        return Grid(finding="No one has submitted yet.", of=0, watch_line=settings.watch_line, students=[], items=[])
    shown = np.flatnonzero(judged.named)
    found, items = _numbers(ctx, judged, shown)
    names, classes, forms = _about(ctx, judged, shown)
    scores, ranks = analysis.scores, analysis.percentile_ranks
    people, session, together = judged.people, judged.session, judged.together
    codes = np.stack([column.codes for column in items], axis=1)
    omitted, not_reached = (codes == OMITTED).sum(axis=1), (codes == NOT_REACHED).sum(axis=1)
    students = []
    aliases = alias_numbers(people[shown].tolist())
    surprising: list[list[int]] = [[] for _ in range(analysis.table.n)]
    for row, column in zip(*(places.tolist() for places in np.nonzero(found.fit.surprising)), strict=True):
        surprising[row].append(column)
    earned, possible, complete = scores.earned.tolist(), scores.possible.tolist(), scores.complete.tolist()
    fit = found.fit.fit.tolist()
    for at, row in enumerate(shown.tolist()):
        person = int(people[row])
        whole = complete[row] and possible[row] > 0
        students.append(
            GridStudent(
                sitting=int(together.sitting[judged.counted[row]]),
                person=person,
                name=names[person],
                klass=classes[int(session[row])],
                form=forms[int(together.form[judged.counted[row]])],
                earned=earned[row],
                possible=possible[row],
                share=earned[row] / possible[row] if whole else None,
                rank=float(ranks[row]) if whole else None,
                fit=round(fit[row], 3),
                unexpected=surprising[row],
                omitted=int(omitted[at]),
                not_reached=int(not_reached[at]),
                alias=aliases[at],
            )
        )
    return Grid(
        finding=_finding(judged, found, shown, students),
        of=analysis.table.n,
        watch_line=settings.watch_line,
        students=students,
        items=items,
    )


@dataclass
class GridsAtHand:
    """Grids without names, each with the analysis that it was made of."""

    numbers: KeptResults[tuple[TestAnalysis, ResponseGrid, list[GridItem]]] = field(
        default_factory=lambda: KeptResults(6)
    )


def _numbers(ctx: Context, judged: Judged, shown: IntArray) -> tuple[ResponseGrid, list[GridItem]]:
    """What is kept of a grid: nothing that names anybody."""

    def work() -> tuple[TestAnalysis, ResponseGrid, list[GridItem]]:
        found = response_grid(judged.analysis)
        tables = judged.analysis.table.answers
        columns = [
            _column(judged, found, at, tables[at].codes[shown].astype(np.int64)) for at in range(len(judged.rows))
        ]
        return judged.analysis, found, columns  # with the analysis, so that no other can have its id meanwhile

    return ctx.own(GridsAtHand).numbers.get((id(judged.analysis), judged.scoped.named), work)[1:]


def _about(ctx: Context, judged: Judged, shown: IntArray) -> tuple[dict[int, str], dict[int, str], dict[int, str]]:
    people = set(judged.people[shown].tolist())
    with ctx.store.read() as db:
        names = {
            id: f"{given} {family}".strip()
            for id, given, family in db.execute(
                select(Person.id, Person.given, Person.family)
                .join(Sitting, Sitting.person_id == Person.id)
                .where(Sitting.session_id.in_(judged.scoped.named))
                .distinct()
            )
            if id in people
        }
        classes = dict(
            db.execute(
                select(Session_.id, SchoolClass.title)
                .join(SchoolClass, SchoolClass.id == Session_.class_id)
                .where(Session_.id.in_(judged.scoped.named))
            ).all()
        )
        forms = dict(
            db.execute(select(Form.id, Form.name).where(Form.id.in_([f.id for f in judged.scoped.forms]))).all()
        )
    return names, classes, forms


def _column(judged: Judged, found: ResponseGrid, at: int, codes: IntArray) -> GridItem:
    row, item, answers = judged.rows[at], judged.analysis.items[at], judged.analysis.table.answers[at]
    several = len(row.item.shown.parts) > 1 and row.item.kind != "reason"
    raw = judged.together.raw.get(at, {})
    labels = [
        AnswerLabel(
            label,
            float(answers.points[n] / item.item.points),
            _slots(row.item, raw.get(label, "")) if several else None,
        )
        for n, label in enumerate(answers.labels)
    ]
    return GridItem(
        number=row.number,
        item=row.item.code,
        kind=row.item.kind,
        points=item.item.points,
        standards=row.item.standards,
        key=row.item.key,
        letters=item.item.kind == "choice",
        parts=[part.id for part in row.item.shown.parts] if several else [],
        p=item.figures.p,
        fit=round(float(found.fit.item_fit[at]), 3),
        surprises=int(found.surprises[at]),
        says=item_sentence(found, at),
        labels=labels,
        codes=codes,
    )


def _slots(item: BankItem, raw: str) -> list[float] | None:
    """The share of each part's points that an answer earns."""
    rule = item_rule(item.shown, item.scoring)
    if not raw or not isinstance(rule, SeveralParts):
        return None
    return [(score.points or 0.0) / score.maximum if score.maximum else 0.0 for score in rule.scores(raw)]


def _finding(judged: Judged, found: ResponseGrid, shown: IntArray, students: Sequence[GridStudent]) -> str:
    n = len(students)
    if not n:
        return "You may not see the names of these students."
    under = sum(s.share is not None and s.share < judged.analysis.settings.watch_line - 1e-9 for s in students)
    strange = int((found.fit.fit[shown] < -2.0).sum())
    cells = int(found.fit.surprising[shown].sum())
    text = f"{n} students by {len(judged.rows)} items; {under} under the watch line"
    if judged.analysis.table.n > n:
        text += f" (of {judged.analysis.table.n} counted, those whose names you may see)"
    text += f". {cells} answers are unexpected"
    return text + (
        f"; {strange} {'student has' if strange == 1 else 'students have'} an unusual pattern."
        if strange
        else "; no student has an unusual pattern."
    )


@dataclass(frozen=True)
class Opened:
    """One student in words: what is unexpected, as a sentence."""

    says: str
    residuals: list[float]


def open_student(
    ctx: Context, actor: Actor, wanted: ScopeRequest, sitting: int, settings: Settings = DEFAULTS
) -> Opened:
    """One student's row, with what surprises in it."""
    judged = judge(ctx, actor, wanted, settings)
    rows = np.flatnonzero((judged.together.sitting[judged.counted] == sitting) & judged.named)
    if rows.size != 1:
        raise NotFound("there is no such attempt in this view, or you may not see the name")
    found = response_grid(judged.analysis)
    residuals: FloatArray = found.fit.residuals[rows[0]]
    numbers = [str(row.number) for row in judged.rows]
    return Opened(student_sentence(found, int(rows[0]), numbers), [round(float(r), 2) for r in residuals])


def cell_text(column: GridItem, code: int) -> str:
    """A cell as a table or a file shows it."""
    return (
        column.labels[code - FIRST].text if code >= FIRST else {OMITTED: "", NOT_REACHED: "–"}.get(code, STATES[code])
    )
