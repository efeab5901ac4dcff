"""A scope judged: its answers, what the core found in them, and the sentence that the page opens with."""

from __future__ import annotations

import time
from collections.abc import Collection, Hashable
from dataclasses import dataclass, field, fields, replace
from typing import Any

import numpy as np
import numpy.typing as npt
from sqlalchemy import func, select, true
from sqlalchemy.orm import Session

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.classical.finding import Piece, test_finding
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.comparison.narrowed import WiderGroup, flagged_by, levels
from bildung.core.school.privacy import LEAST, widening
from bildung.formats.content import Behind
from bildung.formats.secured import without_text
from bildung.services.answers.analysed import FormRow, Together, together
from bildung.services.answers.byperson import condition_rules
from bildung.services.items.bankitem import BankItem
from bildung.services.quality.scope import Scoped, ScopeRequest, everybody, resolve
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.jobs import Job
from bildung.services.shared.results import KeptResults
from bildung.store.models import Correction, Form, FormItem, Mark, Scoring

KEPT_TABLES, KEPT = 12, 32
WHOLE = ("least_option", "least_description", "least_relation", "small_sample", "distinct_answers")


@dataclass(frozen=True, kw_only=True)
class Judged:
    """together: everybody in the scope, whatever became of their sitting; analysis: of the counted rows. counted: places
    of those among `together`'s rows. milliseconds: what reading and judging took, 0 from the cache. levels: wider groups
    that a narrowed view is held against, empty where the view is everybody."""

    scoped: Scoped
    together: Together
    analysis: TestAnalysis
    counted: npt.NDArray[np.int64]
    finding: tuple[Piece, ...]
    milliseconds: float
    levels: tuple[WiderGroup, ...] = ()

    @property
    def rows(self) -> tuple[FormRow, ...]:
        """The rows of all forms, each item once."""
        return self.together.rows

    @property
    def items(self) -> list[BankItem]:
        """The items, in the order of the rows."""
        return [row.item for row in self.together.rows]

    @property
    def people(self) -> npt.NDArray[np.int64]:
        """(counted,): ids of persons."""
        return self.together.people[self.counted]

    @property
    def session(self) -> npt.NDArray[np.int64]:
        """(counted,): ids of sessions."""
        return self.together.session[self.counted]

    @property
    def named(self) -> npt.NDArray[np.bool_]:
        """(counted,): whose answers this person may see by name."""
        return np.isin(self.session, list(self.scoped.named))


def limits(said: dict[str, float], watch_line: float | None = None) -> Settings:
    """Settings with some of the limits changed. Refused for a limit there is not, or one that makes no sense."""
    known = {f.name: f.type for f in fields(Settings)}
    changed: dict[str, Any] = {}
    for name, value in said.items():
        if name not in known or name == "distinct_answers":
            allowed = ", ".join(n for n in known if n != "distinct_answers")
            raise Invalid(f"there is no limit {name!r}; there are {allowed}", "limit")
        most = 10_000 if name in WHOLE else 1
        if not 0 <= value <= most or (name in WHOLE and value != int(value)):
            raise Invalid(f"{name} is {value:g}; allowed is 0 to {most}", "limit")
        changed[name] = int(value) if name in WHOLE else value
    if watch_line is not None:
        changed["watch_line"] = watch_line
    return replace(DEFAULTS, **changed)


@dataclass
class AnalysesAtHand:
    """By what they rest on: sessions with their versions, scorings, people and settings."""

    tables: KeptResults[Together] = field(default_factory=lambda: KeptResults(KEPT_TABLES))
    analyses: KeptResults[TestAnalysis] = field(default_factory=lambda: KeptResults(KEPT))


def judge(
    ctx: Context, actor: Actor, wanted: ScopeRequest, settings: Settings = DEFAULTS, job: Job | None = None
) -> Judged:
    """The analysis of what this person may judge of it. Refused where so few are left that single students would show,
    unless all of them are this person's to see by name."""
    with ctx.store.read() as db:
        scoped = resolve(db, actor, wanted)
        found, spent, version = _together(ctx, db, scoped, job)
    if scoped.people is not None:
        found = found.take(np.isin(found.people, list(scoped.people)))
    began = time.perf_counter()

    def work() -> TestAnalysis:
        if job is not None:
            job.tell("judging the items", 0, 0)
        return analyse(found.table, settings)

    analysis = ctx.own(AnalysesAtHand).analyses.get((version, scoped.people, settings), work)
    spent += time.perf_counter() - began
    counted = np.flatnonzero(found.table.counted)
    judged = Judged(
        scoped=scoped, together=found, analysis=analysis, counted=counted, finding=(), milliseconds=spent * 1000
    )
    _guard(judged)
    judged = _without_secured(ctx, actor, judged)
    judged = _beside_everybody(ctx, judged, settings)
    return replace(judged, finding=(*test_finding(judged.analysis), *_asides(judged)))


def _without_secured(ctx: Context, actor: Actor, judged: Judged) -> Judged:
    """Figures of a test that is secure for this person, without what its items say."""
    ids = [form.id for form in judged.scoped.forms]
    with ctx.store.read() as db:
        may = scope(actor, Action.TESTS_READ) if actor.may(Action.TESTS_READ) else true()
        open_ = set(db.scalars(select(Form.id).where(Form.id.in_(ids), may)))
    if open_ >= set(ids):
        return judged
    rows = tuple(
        replace(row, item=replace(row.item, shown=without_text(row.item.shown), behind=Behind(), stimulus=None))
        for row in judged.together.rows
    )
    return replace(judged, together=replace(judged.together, rows=rows))


def _beside_everybody(ctx: Context, judged: Judged, settings: Settings) -> Judged:
    """With flags that rest on everybody who took these forms in these windows, whoever this person may see, and the
    wider groups for every item. Nothing where the view is everybody, or where so few strangers are left beside it that
    single students would show through the difference."""
    scoped, began = judged.scoped, time.perf_counter()
    if not scoped.chosen or not judged.analysis.items:
        return judged
    with ctx.store.read() as db:
        chosen = everybody(db, scoped)
        if scoped.people is None and len(chosen) == len(scoped.chosen):
            return judged
        around = replace(scoped, chosen=chosen, people=None)
        found, _, version = _together(ctx, db, around, None)
    counted = np.flatnonzero(found.table.counted)
    where, sat = {o.id: o for o in chosen}, found.session[counted]
    mine = {o.id for o in scoped.chosen}
    view = np.isin(sat, list(mine))
    if scoped.people is not None:
        view &= np.isin(found.people[counted], list(scoped.people))
    strangers = ~np.isin(sat, [o.id for o in scoped.all if o.named])
    everyone = np.ones(counted.size, dtype=np.bool_)
    if not widening(view, [everyone], strangers)[0]:
        return judged
    schools, grades = ({getattr(o, of) for o in scoped.chosen} for of in ("school_id", "grade"))
    school = np.array([where[int(s)].school_id in schools for s in sat], dtype=np.bool_)
    grade = school & np.array([where[int(s)].grade in grades for s in sat], dtype=np.bool_)
    wider = [("grade", grade), ("school", school), ("federation", everyone)]
    shown = widening(view, [rows for _, rows in wider], strangers)
    whole = ctx.own(AnalysesAtHand).analyses.get((version, None, settings), lambda: analyse(found.table, settings))
    around_it = levels(whole, [g for g, may in zip(wider, shown, strict=True) if may and (g[1] & ~view).any()])
    spent = judged.milliseconds + (time.perf_counter() - began) * 1000
    return replace(judged, analysis=flagged_by(judged.analysis, whole), levels=tuple(around_it), milliseconds=spent)


def _together(ctx: Context, db: Session, scoped: Scoped, job: Job | None) -> tuple[Together, float, Hashable]:
    """The table of all chosen sessions, with what it rests on."""
    forms = tuple(f.id for f in scoped.forms)
    version = forms, tuple((o.id, o.data_version) for o in scoped.chosen), tuple(scored_by(db, forms).items())
    began = time.perf_counter()

    def work() -> Together:
        return together(db, scoped.forms, [(o.id, o.window_id, o.forms) for o in scoped.chosen], job)

    found = ctx.own(AnalysesAtHand).tables.get(version, work)
    return found, time.perf_counter() - began, version


def scored_by(db: Session, forms: Collection[int]) -> dict[int, tuple[int, int, str, str]]:
    """What the points on each form rest on beside its answers, for a corrected key or a mark moves every figure: the newest scoring
    of its items, how many marks there are, the latest of them, and corrections with what condition codes are worth."""
    scorings = dict(
        db.execute(
            select(FormItem.form_id, func.max(Scoring.id))
            .join(Scoring, Scoring.item_version_id == FormItem.item_version_id)
            .where(FormItem.form_id.in_(forms))
            .group_by(FormItem.form_id)
        ).all()
    )
    marks = {
        form: (n, f"{newest} {at}")
        for form, n, newest, at in db.execute(
            select(FormItem.form_id, func.count(), func.max(Mark.id), func.max(Mark.at))
            .join(Mark, Mark.form_item_id == FormItem.id)
            .where(FormItem.form_id.in_(forms))
            .group_by(FormItem.form_id)
        )
    }
    corrections = {
        form: f"{n} {undone}"
        for form, n, undone in db.execute(
            select(FormItem.form_id, func.count(), func.count(Correction.undone_at))
            .join(Correction, Correction.form_item_id == FormItem.id)
            .where(FormItem.form_id.in_(forms))
            .group_by(FormItem.form_id)
        )
    }
    codes = str(condition_rules(db)) if marks else ""
    decided = {form: f"{corrections.get(form, '')} {codes if form in marks else ''}" for form in forms}
    return {form: (scorings.get(form, 0), *marks.get(form, (0, "")), decided[form]) for form in forms}


def _guard(judged: Judged) -> None:
    n = judged.analysis.table.n
    if judged.scoped.people is not None and 0 < n < LEAST and not judged.named.all():
        raise Conflict(f"that leaves fewer than {LEAST} students, and not all of them are yours to see by name")


def _asides(judged: Judged) -> list[Piece]:
    """What the figures do not cover: items that the forms do not share, parts that were not sat yet."""
    found = []
    forms, analysis = judged.scoped.forms, judged.analysis
    if len(forms) > 1:
        n = len(judged.rows)
        left = judged.together.left
        text = f" By the {n} {'item' if n == 1 else 'items'} that {_names([f.name for f in forms])} have in common"
        found.append(Piece(text + (f"; {left} are on some of them only." if left else ".")))
    if out := judged.together.dropped:
        text = "Item " if len(out) == 1 else "Items "
        numbers = (
            _names([str(row.number) for row in out]) if len(out) < 3 else ", ".join(str(row.number) for row in out)
        )
        found.append(Piece(f" {text}{numbers} {'is' if len(out) == 1 else 'are'} dropped and in no total."))
    windows = np.unique(judged.together.window[judged.counted])
    if windows.size > 1:
        twice = judged.people.size - np.unique(judged.people).size
        found.append(
            Piece(
                f" {windows.size} windows together"
                + (f"; {twice} took it more than once and count each time." if twice else ".")
            )
        )
    if judged.together.in_parts and analysis.table.n:
        whole = int(analysis.scores.full.sum())
        if whole == analysis.table.n:
            found.append(Piece(" Taken in sections; all of these students took every section."))
        else:
            found.append(
                Piece(
                    f" Taken in sections: {whole} of {analysis.table.n} have taken all of them so far; the others' results are shares of the sections they took."
                )
            )
    return found


def _names(names: list[str]) -> str:
    return " and ".join(names) if len(names) < 3 else f"these {len(names)} forms"
