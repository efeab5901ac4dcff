"""Items that a person scores, as they stand on a form: question, rubric, anchor papers, and who may score their responses."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, exists, or_, select
from sqlalchemy.orm import InstrumentedAttribute, Session

from bildung.core.errors import Refused
from bildung.core.scoring.rubric import RubricScale, points_of, scale_of
from bildung.core.scoring.rules import Rule
from bildung.formats.content import PartScoring
from bildung.formats.scored import awaits, by_person, by_rule_of, item_rule
from bildung.services.items.bankitem import BankItem, bank_item, with_parts
from bildung.services.shared.access import Action, Actor, scope, scored_class
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Form, FormItem, ItemVersion, PlannedSession, ScoringTask, Sitting, Window


@dataclass(frozen=True, kw_only=True)
class CriterionView:
    """One criterion of the rubric. part: of the item. levels: from the best to the lowest."""

    part: str
    title: str
    levels: list[LevelView]


@dataclass(frozen=True)
class LevelView:
    points: float
    text: str


@dataclass(frozen=True, kw_only=True)
class AnchorPaper:
    """A response with the points it deserves, by criterion, and why."""

    answer: str
    points: float
    criteria: list[float]
    why: str


@dataclass(frozen=True, kw_only=True)
class OfItem:
    """What every page about the responses to an item in a window begins with. place: id of the form item."""

    finding: str
    place: Id
    number: int
    item: str
    form: str
    window_id: Id
    window: str
    maximum: float


@dataclass(frozen=True, kw_only=True)
class HandItem:
    """place: id of the form item. number: on the form, from 1. parts: those that a person scores. version: number of the
    scoring whose rubric holds now."""

    place: int
    number: int
    form_id: int
    form: str
    item: BankItem
    rule: Rule
    parts: tuple[str, ...]
    criteria: tuple[CriterionView, ...]
    scale: RubricScale
    anchors: tuple[AnchorPaper, ...]
    version: int

    @property
    def maximum(self) -> float:
        """Most points of what a person scores."""
        return self.scale.maximum

    def head(self, window: Window) -> dict[str, Any]:
        """Of `OfItem` all but the finding."""
        return {
            "place": self.place,
            "number": self.number,
            "item": self.item.code,
            "form": self.form,
            "window_id": window.id,
            "window": window.name,
            "maximum": self.maximum,
        }

    def waits(self, answer: str) -> bool:
        """Whether there is anything for a person to score in an answer."""
        return bool(answer.strip()) and by_rule_of(self.rule, answer)[1]

    def points(self, criteria: list[float]) -> float:
        """What points by criterion are worth together; refused in words where they are none of the rubric's."""
        try:
            return points_of(self.scale, criteria)
        except Refused as error:
            raise Invalid(str(error), "criteria") from None


def hand_item(db: Session, place: int) -> HandItem:
    """NotFound where there is none, or rules score all of it."""
    row = db.execute(
        with_parts(
            select(FormItem, ItemVersion, Form)
            .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
            .join(Form, Form.id == FormItem.form_id)
            .where(FormItem.id == place)
        )
    ).first()
    if row is None:
        raise NotFound("there is no such item on a form")
    form_item, version, form = row
    item = bank_item(version)
    rule = item_rule(item.shown, item.scoring)
    if item.kind == "reason" or not awaits(rule):
        raise NotFound("rules score all of this item; there is nothing to score by hand")
    hand = by_person(item.shown, item.scoring)
    criteria = [one for part, scoring in hand for one in _criteria(part.id, scoring)]
    maximum = sum(scoring.points for _, scoring in hand)
    levels = [[level.points for level in one.levels] for one in criteria]
    try:
        scale = scale_of(levels, maximum)
    except Refused as error:
        raise Conflict(f"{item.code}: {error}; correct the rubric in the bank first") from None
    return HandItem(
        place=place,
        number=form_item.position,
        form_id=form.id,
        form=form.name,
        item=item,
        rule=rule,
        parts=tuple(part.id for part, _ in hand),
        criteria=tuple(criteria),
        scale=scale,
        anchors=tuple(
            AnchorPaper(answer=one.answer, points=sum(one.points), criteria=one.points, why=one.why)
            for _, scoring in hand
            for one in scoring.exemplars
        ),
        version=version.scorings[-1].number,
    )


def _criteria(part: str, scoring: PartScoring) -> list[CriterionView]:
    """Of one part; without a rubric whole points from its maximum to 0."""
    if not scoring.rubric:
        levels = [LevelView(float(n), "") for n in range(int(scoring.points), -1, -1)]
        return [CriterionView(part=part, title="", levels=levels)]
    return [
        CriterionView(
            part=part,
            title=one.title,
            levels=[LevelView(level.points, level.text) for level in sorted(one.levels, key=lambda at: -at.points)],
        )
        for one in scoring.rubric
    ]


def of_form(place_form: int) -> ColumnElement[bool]:
    """Sessions in which somebody may have received a form, as the session's own or as a companion."""
    companions = exists().where(Sitting.session_id == PlannedSession.id, Sitting.form_id == place_form)
    return or_(PlannedSession.form_id == place_form, companions)


def may_score(actor: Actor, place: int | InstrumentedAttribute[int]) -> ColumnElement[bool]:
    """Sessions whose responses to this item this person may score: of classes they teach or schools they coordinate, and
    those of windows in which the item was given to them to score. place: of one item, or a column of the query."""
    scope(actor, Action.SCORES_GIVE)
    given = exists().where(
        ScoringTask.form_item_id == place,
        ScoringTask.scorer_id == actor.person_id,
        ScoringTask.window_id == PlannedSession.window_id,
        scored_class(),
    )
    return or_(scope(actor, Action.SCORES_OWN), given) if actor.may(Action.SCORES_OWN) else given


def window_named(db: Session, id: int) -> Window:
    """NotFound where there is none."""
    window = db.get(Window, id)
    if window is None:
        raise NotFound("there is no such window")
    return window


def scorers_of(db: Session, place: int, window_id: int) -> Collection[ScoringTask]:
    """Whom this item was given to in a window."""
    return db.scalars(
        select(ScoringTask)
        .where(ScoringTask.form_item_id == place, ScoringTask.window_id == window_id)
        .order_by(ScoringTask.id)
    ).all()
