"""One item of a scope: its answers and who gave them, beside other groups and earlier times, and what could be tried."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import get_args

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.agreement.pairs import in_pairs
from bildung.core.classical.analysis import ItemAnalysis
from bildung.core.classical.curves import OptionCurves, option_curves
from bildung.core.classical.effort import ItemTime, effort
from bildung.core.classical.grid import item_sentence, response_grid
from bildung.core.classical.measured import measured_item
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.classical.whatif import Way, WhatIf, what_if
from bildung.core.comparison.compare import GroupItem, shares_by_group
from bildung.core.errors import Refused
from bildung.core.items.shown import coefficient, percent
from bildung.formats.answers import in_words
from bildung.services.answers.byperson import given_marks
from bildung.services.answers.itemhistory import Use, uses
from bildung.services.items.bankitem import BankItem
from bildung.services.items.verdicts import VerdictLine, verdicts_of
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import FormItem, ItemVersion, Mark, Person, PlannedSession, Response, SchoolClass, Sitting


@dataclass(frozen=True)
class VersionMade:
    number: int
    made: datetime


@dataclass(frozen=True)
class AnswerCount:
    answer: str
    n: int
    points: float


@dataclass(frozen=True, kw_only=True)
class Beside:
    """p of one group of students with its interval. kind: view, class, school, federation or earlier. n: who reached
    the item. mine: whether the group is part of the view."""

    kind: str
    name: str
    n: int
    p: float | None
    ci95: tuple[float, float] | None
    mine: bool


@dataclass(frozen=True)
class NoteLine:
    """What somebody thinks who gives this answer. link: a standard or an address."""

    answer: str
    note: str
    link: str


@dataclass(frozen=True)
class Suggestion:
    """Something to try, from what was found about the item. why: in plain words."""

    way: Way
    answer: str
    why: str


@dataclass(frozen=True, kw_only=True)
class TwoMarkers:
    """Two markers on the same answers. n: answers that both marked."""

    first: str
    second: str
    n: int
    exact: float
    adjacent: float
    difference: float
    weighted_kappa: float | None


@dataclass(frozen=True, kw_only=True)
class ItemView:
    """answers: distinct answers with their n, all of them, most given first (beyond what the option table shows). time:
    None where nobody counted. uses: administrations of all versions, this one among them. marking: of pairs of
    markers. suggestions: in the order in which they are worth trying. place, window_id: where results can be corrected; None where the
    view is of several windows, or this person corrects none."""

    finding: str
    item: BankItem
    number: int
    says: str
    curves: OptionCurves | None
    notes: list[NoteLine]
    beside: list[Beside]
    time: ItemTime | None
    answers: list[AnswerCount]
    uses: list[Use]
    versions: list[VersionMade]
    marking: list[TwoMarkers]
    verdicts: list[VerdictLine]
    suggestions: list[Suggestion]
    place: Id
    window_id: Id | None


def item_view(ctx: Context, actor: Actor, wanted: ScopeRequest, code: str, settings: Settings = DEFAULTS) -> ItemView:
    """One item of a test: its answers, its figures beside those of others, what could be tried."""
    judged = judge(ctx, actor, wanted, settings)
    at = place_of(judged, code)
    row, found, answers = judged.rows[at], judged.analysis.items[at], judged.analysis.table.answers[at]
    time = None
    if judged.together.seconds is not None:
        time = effort(judged.analysis, judged.together.seconds[judged.counted]).items[at]
    counts = np.bincount(answers.codes, minlength=4 + len(answers.labels))[4:]
    order = sorted(range(len(answers.labels)), key=lambda n: (-counts[n], answers.labels[n]))
    distinct = [(answers.labels[n], int(counts[n]), float(answers.points[n])) for n in order if counts[n]]
    with ctx.store.read() as db:
        history = uses(db, [row.item.item_id]).get(row.item.item_id, [])
        versions = [
            (number, made)
            for number, made in db.execute(
                select(ItemVersion.number, ItemVersion.created_at)
                .where(ItemVersion.item_id == row.item.item_id)
                .order_by(ItemVersion.number.desc())
            )
        ]
        beside = _beside(judged, at, history)
        marking = _marking(db, actor, judged, at)
        said = verdicts_of(db, [row.item.item_id]).get(row.item.item_id, [])
    windows = {o.window_id for o in judged.scoped.chosen}
    return ItemView(
        finding=_finding(row.number, found),
        item=row.item,
        number=row.number,
        says=_answers_sentence(judged, at, found),
        curves=option_curves(found.joint),
        notes=[NoteLine(n.answer, n.note, n.link) for n in row.item.behind.misconceptions],
        beside=beside,
        time=time,
        answers=[AnswerCount(*one) for one in distinct],
        uses=history,
        versions=[VersionMade(*one) for one in versions],
        marking=marking,
        verdicts=said,
        suggestions=suggestions(found),
        place=row.place,
        window_id=next(iter(windows)) if len(windows) == 1 and actor.may(Action.SCORES_PLAN) else None,
    )


def _answers_sentence(judged: Judged, at: int, found: ItemAnalysis) -> str:
    """Whether its answers are as expected; of an item whose key is in doubt that says nothing."""
    if not judged.analysis.table.n:
        return ""
    if any(flag.weight == "problem" for flag in found.flags):
        return "Whether its answers are as expected can be said once its key is settled."
    return item_sentence(response_grid(judged.analysis), at)


def _finding(number: int, found: ItemAnalysis) -> str:
    """The heaviest thing about it, or that it is sound, with its two figures."""
    figures = found.figures
    got = f"{percent(figures.p)} correct"
    if figures.r_rest is not None:
        got += f", r (rest) {coefficient(figures.r_rest)}"
    heavy = [flag for flag in found.flags if flag.weight != "note"]
    if heavy:
        more = f" {len(heavy) - 1} more to look at below." if len(heavy) > 1 else ""
        return f"Item {number}, {heavy[0].flag.replace('_', ' ')}: {heavy[0].why}{more}"
    if found.sound is None:
        return f"Item {number}: {got}; too few students to examine it."
    notes = f" {found.flags[0].why}" if found.flags else ""
    return f"Item {number} is sound: {got}.{notes}"


def place_of(judged: Judged, code: str) -> int:
    """The place of an item among those judged; NotFound where it is none of them."""
    for at, row in enumerate(judged.rows):
        if row.item.code == code:
            return at
    raise NotFound(f"there is no item {code!r} in this view")


def suggestions(found: ItemAnalysis) -> list[Suggestion]:
    """What the flags of an item call for. An item of a problem can always be left out."""
    tries: list[Suggestion] = []
    for flag in found.flags:
        if flag.flag == "possible_wrong_key" and flag.option:
            tries.append(Suggestion("key", flag.option, f"as if {flag.option} were the key"))
        if flag.flag == "possible_second_right_answer" and flag.option:
            tries.append(Suggestion("also", flag.option, f"as if {flag.option} were right as well"))
    if any(flag.weight == "problem" or flag.flag == "raises_reliability_if_dropped" for flag in found.flags):
        tries.append(Suggestion("drop", "", "as if it were not on the test"))
    return tries


def try_out(
    ctx: Context, actor: Actor, wanted: ScopeRequest, code: str, way: str, answer: str, settings: Settings = DEFAULTS
) -> tuple[str, WhatIf]:
    """What would move; nothing is changed."""
    if way not in get_args(Way):
        raise Invalid(f"what is tried is one of {', '.join(get_args(Way))}", "way")
    judged = judge(ctx, actor, wanted, settings)
    place_of(judged, code)
    try:
        found = what_if(judged.analysis, code, way, answer)  # type: ignore[arg-type]
    except Refused as error:
        raise Invalid(str(error), "answer") from None
    return _moves(found), found


def _moves(found: WhatIf) -> str:
    """In one sentence, the loss named before the gain."""
    did = {
        "key": f"With {found.answer} as the key",
        "also": f"With {found.answer} right as well",
        "everybody": "With full credit for everyone",
        "drop": "Without it",
    }[found.way]
    less, more = ("a lower share", "a higher share") if found.way == "drop" else ("fewer points", "more points")
    parts = [f"{n} of {found.n} would have {what}" for n, what in ((found.down, less), (found.up, more)) if n]
    text = f"{did} {' and '.join(parts) or 'nobody would have other points'}"
    if found.over or found.under:
        text += f"; {found.over} would come over the line of {percent(found.line)}, {found.under} under it"
    if found.alpha.before is not None and found.alpha.after is not None:
        text += f". Alpha would be {coefficient(found.alpha.after)} instead of {coefficient(found.alpha.before)}"
    if found.r_rest.after is not None and found.r_rest.before is not None:
        text += f"; r (rest) would be {coefficient(found.r_rest.after)} instead of {coefficient(found.r_rest.before)}"
    return text + "."


def _beside(judged: Judged, at: int, history: Sequence[Use]) -> list[Beside]:
    """The view, its classes and schools, the whole federation in these windows, and earlier windows."""
    what = measured_item(judged.analysis, at)
    where = {o.id: o for o in judged.scoped.chosen}
    figures = judged.analysis.items[at].figures
    found = [Beside(kind="view", name="in this view", n=figures.n, p=figures.p, ci95=figures.p_ci95, mine=True)]
    for kind in ("class", "school"):
        labels = [where[int(s)].klass if kind == "class" else where[int(s)].school for s in judged.session]
        rows: list[GroupItem] = shares_by_group(what, labels)
        if len(rows) > 1:
            found += [
                Beside(kind=kind, name=label, n=r.n, p=r.p, ci95=r.ci95, mine=True)
                for label, r in zip(sorted(set(labels)), rows, strict=True)
            ]
    forms = {f.id for f in judged.scoped.forms}
    windows = {o.window_id for o in judged.scoped.chosen}
    version = judged.rows[at].item.number
    for use in history:
        here = use.form_id in forms and use.window_id in windows
        if here and use.n <= figures.n:
            continue  # the view is all of it
        interval = (use.p_ci95[0], use.p_ci95[1]) if use.p_ci95 else None
        other = f", version {use.version}" if use.version != version else ""
        kind = "federation" if here else "earlier"
        name = f"everybody, {use.window}" if here else f"{use.form}, {use.window} {use.at.year}{other}"
        found.append(Beside(kind=kind, name=name, n=use.n, p=use.p, ci95=interval, mine=False))
    return found


def _marking(db: Session, actor: Actor, judged: Judged, at: int) -> list[TwoMarkers]:
    """How far markers agree on answers that two of them marked, in the sessions of the view."""
    places = [places[at] for places in judged.together.places.values()]
    sessions = [o.id for o in judged.scoped.chosen]
    marks = given_marks(db, Mark.form_item_id.in_(places), Sitting.session_id.in_(sessions))
    scorers = {m.scorer for theirs in marks.values() for m in theirs}
    names = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_(scorers)))}
    if not any(grant.role == "coordinator" for grant in actor.grants):  # who marks how is between them and the marker
        names = {m: "you" if m == actor.person_id else f"scorer {n}" for n, m in enumerate(sorted(names), 1)}
    return [
        TwoMarkers(
            first=names[pair.first],
            second=names[pair.second],
            n=pair.n,
            exact=pair.found.exact,
            adjacent=pair.found.adjacent,
            difference=pair.found.difference,
            weighted_kappa=pair.found.weighted_kappa,
        )
        for pair in in_pairs([{m.scorer: m.score for m in theirs} for theirs in marks.values()])
        if pair.found is not None
    ]


@dataclass(frozen=True, kw_only=True)
class Given:
    """One student's answer to an item, in words; reason: what they wrote beside it."""

    person: Id
    sitting: Id
    student: str
    class_id: Id
    klass: str
    answer: str
    reason: str
    state: str


def given_answers(ctx: Context, actor: Actor, wanted: ScopeRequest, code: str) -> list[Given]:
    """Who gave which answer, for the sessions whose students this person may see by name."""
    scope(actor, Action.ANSWERS_READ)
    judged = judge(ctx, actor, wanted)
    at = place_of(judged, code)
    shown = judged.rows[at].item.shown
    places = [places[at] for places in judged.together.places.values()]
    kept = set(judged.together.sitting.tolist()) if judged.scoped.people is not None else None
    with ctx.store.read() as db:
        rows = db.execute(
            select(
                Person.id,
                Sitting.id,
                Person.given,
                Person.family,
                SchoolClass.id,
                SchoolClass.title,
                Response.answer,
                Sitting.state,
            )
            .join(Sitting, Sitting.person_id == Person.id)
            .join(PlannedSession, PlannedSession.id == Sitting.session_id)
            .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
            .join(
                FormItem,
                FormItem.id.in_(places) & (FormItem.form_id == func.coalesce(Sitting.form_id, PlannedSession.form_id)),
            )
            .outerjoin(Response, (Response.sitting_id == Sitting.id) & (Response.form_item_id == FormItem.id))
            .where(Sitting.session_id.in_(judged.scoped.named))
            .order_by(Person.family, Person.given, Sitting.id)
        )
        return [
            Given(
                person=person,
                sitting=sitting,
                student=f"{given} {family}".strip(),
                class_id=class_id,
                klass=title,
                answer=words,
                reason=reason,
                state=state,
            )
            for person, sitting, given, family, class_id, title, answer, state in rows
            if kept is None or sitting in kept
            for words, reason in [in_words(shown, answer or "")]
        ]
