"""Scores that were given by a rubric that has changed since: listed, and either kept by decision or set aside by a correction."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.formats.content import PartScoring
from bildung.services.answers.byperson import GivenMark
from bildung.services.scoring.items import HandItem, OfItem, hand_item, window_named
from bildung.services.scoring.standing import plan_of, standings
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import FormItem, Person, Scoring, ScoringPlan


@dataclass(frozen=True, kw_only=True)
class EarlierScore:
    """number: of the response on the desk, from 1. rubric: number of the one that was used. now: whether these points are still among
    those of the rubric that holds."""

    sitting: Id
    number: int
    by: str
    at: datetime
    points: float
    code: str
    rubric: int
    now: bool


@dataclass(frozen=True, kw_only=True)
class RubricThen:
    """A rubric of the item, by criterion what each level asked. in_force: it holds now."""

    number: int
    since: datetime
    in_force: bool
    criteria: list[RubricCriterion]
    scores: int


@dataclass(frozen=True)
class RubricCriterion:
    title: str
    levels: list[str]


@dataclass(frozen=True, kw_only=True)
class EarlierPage(OfItem):
    """open: scores about which nobody has decided. kept: those that stand by decision."""

    newest: int
    open: int
    kept: int
    rubrics: list[RubricThen]
    scores: list[EarlierScore]


def rubrics_of(db: Session, places: Collection[int]) -> dict[int, int]:
    """By item of a form the number of the scoring that holds now."""
    rows = db.execute(
        select(FormItem.id, func.max(Scoring.number))
        .join(Scoring, Scoring.item_version_id == FormItem.item_version_id)
        .where(FormItem.id.in_(places))
        .group_by(FormItem.id)
    )
    return {id: number for id, number in rows}


def by_earlier(mark: GivenMark, newest: int, plan: ScoringPlan | None) -> bool:
    """Whether a score counts that was given by an earlier rubric, and nobody has decided that it stands."""
    return not mark.aside and mark.scoring is not None and ((plan and plan.kept) or 0) < mark.scoring < newest


def earlier_page(ctx: Context, actor: Actor, place: int, window_id: int) -> EarlierPage:
    """What was scored before the rubric changed, in the order of the desk."""
    with ctx.store.read() as db:
        item, window = hand_item(db, place), window_named(db, window_id)
        rows = standings(db, item, window_id, scope(actor, Action.SCORES_PLAN), ctx.clock())
        if not rows:
            raise NotFound("no one has submitted a response to this item in this window")
        kept_to = plan_of(db, place, window_id).kept or 0
        given = [(at, row, m) for at, row in enumerate(rows, 1) for m in row.marks if not m.aside]
        old = [(at, row, m) for at, row, m in given if m.scoring is not None and m.scoring < item.version]
        names = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_({m.scorer for _, _, m in old})))}
        scorings = db.scalars(
            select(Scoring)
            .join(FormItem, FormItem.item_version_id == Scoring.item_version_id)
            .where(FormItem.id == place)
            .order_by(Scoring.number)
        ).all()
    open_ = [one for one in old if (one[2].scoring or 0) > kept_to]
    return EarlierPage(
        finding=_finding(len(open_), len(old) - len(open_), item),
        **item.head(window),
        newest=item.version,
        open=len(open_),
        kept=len(old) - len(open_),
        rubrics=[
            RubricThen(
                number=s.number,
                since=s.created_at,
                in_force=s.number == item.version,
                criteria=_criteria(s, item),
                scores=sum(m.scoring == s.number for _, _, m in given),
            )
            for s in scorings
        ],
        scores=[
            EarlierScore(
                sitting=row.sitting,
                number=at,
                by=names.get(m.scorer, ""),
                at=m.at,
                points=m.points,
                code=m.code,
                rubric=m.scoring or 0,
                now=_still(item, m),
            )
            for at, row, m in open_
        ],
    )


def keep_earlier(ctx: Context, actor: Actor, place: int, window_id: int, newest: int) -> None:
    """Scores by earlier rubrics stand, until the rubric changes again. newest: the rubric that was seen; Conflict where another holds."""

    def work(db: Session) -> None:
        item = hand_item(db, place)
        window_named(db, window_id)
        if not standings(db, item, window_id, scope(actor, Action.SCORES_PLAN), ctx.clock()):
            raise NotFound("no one has submitted a response to this item in this window")
        if item.version != newest:
            raise Conflict("the rubric has changed again; look at what was scored by the earlier one")
        plan = db.get(ScoringPlan, (place, window_id))
        if plan is None:
            plan = ScoringPlan(form_item_id=place, window_id=window_id, seed=1 + place, share=0.0)
            db.add(plan)
        before, plan.kept = plan.kept, item.version - 1
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "scoring.keep",
            f"form_item:{place}",
            {"rubric": before},
            {"rubric": plan.kept},
        )

    ctx.store.write(work)


def _criteria(scoring: Scoring, item: HandItem) -> list[RubricCriterion]:
    parts = [PartScoring.model_validate(one) for one in scoring.parts]
    return [
        RubricCriterion(
            one.title,
            [f"{level.points:g}: {level.text}" for level in sorted(one.levels, key=lambda at: -at.points)],
        )
        for part in parts
        for one in part.rubric
    ]


def _still(item: HandItem, mark: GivenMark) -> bool:
    """Whether the points that were given can still be given."""
    if mark.code or mark.criteria is None:
        return bool(mark.code) or mark.points <= item.maximum
    levels = item.scale.criteria
    return len(mark.criteria) == len(levels) and all(p in some for p, some in zip(mark.criteria, levels, strict=True))


def _finding(open_: int, kept: int, item: HandItem) -> str:
    stand = f" {counted(kept, 'score')} by an earlier rubric {'stands' if kept == 1 else 'stand'} by decision."
    if open_:
        return (
            f"{counted(open_, 'score')} {'was' if open_ == 1 else 'were'} given before the rubric changed: keep"
            f" {'it' if open_ == 1 else 'them'}, or have the responses scored again.{stand if kept else ''}"
        )
    return stand.strip() if kept else "All scores were given by the rubric that holds now."
