"""Item quality: assembling the answers of sessions for the core, and handing on what it found."""

from __future__ import annotations

import json
import time
from collections import OrderedDict
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import numpy as np
from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.classical.curves import OptionCurves, option_curves
from bildung.core.classical.finding import Piece, test_finding
from bildung.core.classical.grouped import Grouped, group_scores
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.errors import Refused
from bildung.core.shown import percent
from bildung.core.workings import Workings, explain
from bildung.formats.answers import in_words
from bildung.formats.content import Shown
from bildung.services.access import Action, Actor, scope
from bildung.services.answertable import Rows, answer_table, rows_of
from bildung.services.bank import BankItem, bank_item, with_parts
from bildung.services.context import Context
from bildung.services.errors import Invalid, NotFound
from bildung.store.models import (
    Attribute,
    AttributeValue,
    Form,
    FormItem,
    ItemVersion,
    Person,
    PlannedSession,
    Response,
    SchoolClass,
    Sitting,
    Window,
)

KEPT = 32


@dataclass(frozen=True)
class Judged:
    """An analysis with what is needed to show it. people: behind the analysis' counted rows."""

    form: Form
    window: str
    sessions: list[tuple[int, str]]
    chosen: list[int]
    analysis: TestAnalysis
    finding: tuple[Piece, ...]
    items: list[BankItem]
    milliseconds: float
    people: list[int]


def judge(
    ctx: Context, actor: Actor, form_id: int, window_id: int, session_ids: list[int], settings: Settings = DEFAULTS
) -> Judged:
    """The analysis of a form in a window over the sessions in this person's scope, or some of them."""
    with ctx.store.read() as db:
        rows = db.execute(
            select(PlannedSession.id, PlannedSession.data_version, SchoolClass.title)
            .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
            .where(
                sat_in(form_id), PlannedSession.window_id == window_id, scope(actor, Action.QUALITY_READ),
            ).order_by(SchoolClass.title, PlannedSession.id)
        ).all()  # fmt: skip
        if not rows:
            raise NotFound("this form was not planned in this window, or its sessions are not yours")
        missing = set(session_ids) - {row.id for row in rows}
        if missing:
            raise NotFound("a session of this view is not there, or not yours")
        chosen = [row.id for row in rows if row.id in session_ids] or [row.id for row in rows]
        versions = tuple((row.id, row.data_version) for row in rows if row.id in chosen)
        items = form_items(db, form_id)
        # a corrected key is another scoring, so it moves the key of the cache as well
        key = (
            form_id,
            versions,
            tuple((i.version_id, json.dumps([s.model_dump() for s in i.scoring])) for i in items),
            settings,
        )
        cache: OrderedDict[Any, Any] = ctx.cache.setdefault("quality", OrderedDict())
        if key not in cache:
            started = time.perf_counter()
            found = analyse_sessions(db, form_id, items, chosen, settings)
            cache[key] = (*found, (time.perf_counter() - started) * 1000)
            while len(cache) > KEPT:
                cache.popitem(last=False)
        analysis, people, interim, milliseconds = cache[key]
        form = db.get_one(Form, form_id)
        db.expunge_all()
        window = db.get_one(Window, window_id)
        finding = test_finding(analysis) + ((Piece(interim),) if interim else ())
        return Judged(
            form, window.name, [(row.id, row.title) for row in rows], chosen, analysis, finding, items, milliseconds, people
        )  # fmt: skip


def form_items(db: Session, form_id: int) -> list[BankItem]:
    """Of a form, in its order."""
    versions = db.scalars(
        with_parts(
            select(ItemVersion).join(FormItem, FormItem.item_version_id == ItemVersion.id)
            .where(FormItem.form_id == form_id).order_by(FormItem.position)
        )
    )  # fmt: skip
    return [bank_item(version) for version in versions]


def analyse_sessions(
    db: Session, form_id: int, items: list[BankItem], sessions: list[int], settings: Settings
) -> tuple[TestAnalysis, list[int], str]:
    """The answers of these sessions to a form, judged, for whoever has checked who may see it; the people behind its
    counted rows; and, where the test was sat in parts, how far they are."""
    rows = rows_of(db, form_id, sessions)
    table = answer_table(db, form_id, items, rows)
    analysis = analyse(table, settings)
    return analysis, rows.people[table.counted].tolist(), _interim(analysis, rows)


def _interim(analysis: TestAnalysis, rows: Rows) -> str:
    """What totals mean before everybody has sat every part."""
    if not rows.in_parts or not analysis.table.n:
        return ""
    whole = int(analysis.scores.full.sum())
    if whole == analysis.table.n:
        return " Sat in parts; all of these have sat every part."
    return f" Sat in parts: {whole} of {analysis.table.n} have sat all of them so far; what the others got is a share of what they sat."


def sat_in(form_id: int) -> ColumnElement[bool]:
    """Sessions in which somebody received this form, as the session's own or as a companion of it."""
    return (PlannedSession.form_id == form_id) | PlannedSession.sittings.any(Sitting.form_id == form_id)


def workings(
    ctx: Context, actor: Actor, form_id: int, window_id: int, session_ids: list[int], figure: str,
    item: str | None = None, settings: Settings = DEFAULTS,
) -> Workings:  # fmt: skip
    judged = judge(ctx, actor, form_id, window_id, session_ids, settings)
    try:
        return explain(judged.analysis, figure, item)
    except Refused as error:
        raise Invalid(str(error), "figure") from None


def curves(
    ctx: Context, actor: Actor, form_id: int, window_id: int, session_ids: list[int], item: str,
    settings: Settings = DEFAULTS,
) -> OptionCurves | None:  # fmt: skip
    analysis = judge(ctx, actor, form_id, window_id, session_ids, settings).analysis
    try:
        return option_curves(analysis.item(item).joint)
    except KeyError:
        raise NotFound(f"there is no item {item!r} on this form") from None


@dataclass(frozen=True)
class Given:
    """One student's answer to an item, in words; reason: what they wrote beside it."""

    student: str
    klass: str
    answer: str
    reason: str
    state: str


def given_answers(
    ctx: Context, actor: Actor, form_id: int, window_id: int, session_ids: list[int], item: str
) -> list[Given]:
    """Who gave which answer, for the sessions whose students this person may see by name."""
    allowed = scope(actor, Action.ANSWERS_READ)
    with ctx.store.read() as db:
        form_item = db.scalar(
            select(FormItem).join(ItemVersion).where(
                FormItem.form_id == form_id, ItemVersion.item.has(code=item)
            )
        )  # fmt: skip
        if form_item is None:
            raise NotFound(f"there is no item {item!r} on this form")
        wanted = (
            select(Person.given, Person.family, SchoolClass.title, Response.answer, Sitting.state)
            .join(Sitting, Sitting.person_id == Person.id)
            .join(PlannedSession, PlannedSession.id == Sitting.session_id)
            .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
            .outerjoin(Response, (Response.sitting_id == Sitting.id) & (Response.form_item_id == form_item.id))
            .where(
                func.coalesce(Sitting.form_id, PlannedSession.form_id) == form_id,
                PlannedSession.window_id == window_id,
                allowed,
            )
            .order_by(Person.family, Person.given, Sitting.id)
        )
        if session_ids:
            wanted = wanted.where(PlannedSession.id.in_(session_ids))
        shown = Shown.model_validate(form_item.version.shown)
        return [
            Given(f"{given} {family}".strip(), title, *in_words(shown, answer or ""), state)
            for given, family, title, answer, state in db.execute(wanted)
        ]


def comparable(ctx: Context, actor: Actor) -> list[str]:
    """Attributes by which this person may compare groups: a coordinator by all, others by what they may see."""
    scope(actor, Action.QUALITY_READ)
    wanted = select(Attribute.name).order_by(Attribute.name)
    if not any(grant.role == "coordinator" for grant in actor.grants):
        wanted = wanted.where(Attribute.seen_by == "teacher")
    with ctx.store.read() as db:
        return list(db.scalars(wanted))


def by_group(
    ctx: Context, actor: Actor, form_id: int, window_id: int, session_ids: list[int], attribute: str
) -> tuple[str, Grouped]:
    """Mean scores by an attribute of the students, small groups hidden; and the finding in one sentence."""
    if attribute not in comparable(ctx, actor):
        raise NotFound(f"there is no attribute {attribute!r} to compare by, or it is not yours to see")
    judged = judge(ctx, actor, form_id, window_id, session_ids)
    scores = judged.analysis.scores
    with ctx.store.read() as db:
        values = {
            person_id: value
            for person_id, value in db.execute(
                select(AttributeValue.person_id, AttributeValue.value)
                .join(Attribute, Attribute.id == AttributeValue.attribute_id).where(Attribute.name == attribute)
            )
        }  # fmt: skip
    share = np.divide(scores.earned, scores.possible, out=np.zeros_like(scores.earned), where=scores.possible > 0)
    kept = scores.complete & (scores.possible > 0)
    names = [values.get(person, "") for person, keep in zip(judged.people, kept, strict=True) if keep]
    grouped = group_scores(share[kept], names)
    return _group_finding(attribute, grouped), grouped


def _group_finding(attribute: str, grouped: Grouped) -> str:
    """What the comparison shows, and what it does not."""
    shown = [g for g in grouped.groups if not g.hidden and g.ci95 is not None and g.mean is not None]
    hidden = sum(g.hidden for g in grouped.groups)
    tail = (
        f" {hidden} {'group is' if hidden == 1 else 'groups are'} hidden: fewer than {grouped.least} students, or found by subtraction."
        if hidden
        else ""
    )
    if len(shown) < 2:
        return f"By {attribute} there are not two groups large enough to compare.{tail}"
    low, high = (pick(shown, key=lambda g: g.mean or 0.0) for pick in (min, max))
    assert low.ci95 is not None and high.ci95 is not None and low.mean is not None and high.mean is not None
    apart = low.ci95[1] < high.ci95[0]
    ends = f"{low.group} {percent(low.mean)}, {high.group} {percent(high.mean)}"
    what = "the intervals do not overlap" if apart else "the intervals overlap, so this may be chance"
    return f"By {attribute}: {ends}; {what}. That groups differ does not say that the test favours one.{tail}"


@dataclass(frozen=True)
class Sat:
    """A form in a window, judged in brief. profile: p of its items, hardest first."""

    form_id: int
    form: str
    subject: str
    grade: str
    window_id: int
    window: str
    latest: datetime
    sat: int
    absent: int
    alpha: float | None
    sound: int
    look: int
    items: int
    profile: list[float]
    first: tuple[Piece, ...]


def sat_finding(found: list[Sat]) -> str:
    """What the page of item quality opens with."""
    if not found:
        return "Nothing has been handed in in this window."
    urgent = sum(any(piece.urgent for piece in sat.first) for sat in found)
    look = sum(sat.look for sat in found)
    finding = f"{len(found)} {'test was' if len(found) == 1 else 'tests were'} sat. "
    if urgent:
        finding += f"{urgent} {'has' if urgent == 1 else 'have'} an item that may be wrong; "
    total = sum(sat.items for sat in found)
    return finding + f"{look} of {total} items {'wants' if look == 1 else 'want'} a look."


def list_sat(ctx: Context, actor: Actor, window_id: int | None = None) -> list[Sat]:
    """Every form that somebody has handed in, what wants a look first."""
    allowed = scope(actor, Action.QUALITY_READ)
    with ctx.store.read() as db:
        wanted = (
            select(func.coalesce(Sitting.form_id, PlannedSession.form_id), PlannedSession.window_id, PlannedSession.start)
            .join(Sitting, Sitting.session_id == PlannedSession.id).where(allowed, Sitting.state == "handed_in").distinct()
        )  # fmt: skip
        if window_id is not None:
            wanted = wanted.where(PlannedSession.window_id == window_id)
        latest: dict[tuple[int, int], datetime] = {}
        for form_id, window, start in db.execute(wanted):
            latest[form_id, window] = max(start, latest.get((form_id, window), start))
    found = []
    for (form_id, window), start in latest.items():
        judged = judge(ctx, actor, form_id, window, [])
        analysis, form = judged.analysis, judged.form
        verdicts = [item.sound for item in analysis.items]
        found.append(
            Sat(
                form_id, form.name, form.subject, form.grade, window, judged.window, start,
                analysis.counts["sat"] + analysis.counts["waiting"], analysis.counts["absent"],
                analysis.reliability.alpha, verdicts.count(True), verdicts.count(False), len(verdicts),
                sorted(item.figures.p for item in analysis.items if item.figures.p is not None), judged.finding[:2],
            )
        )  # fmt: skip
    found.sort(key=lambda s: (not any(piece.urgent for piece in s.first), -s.look, s.form))
    return found
