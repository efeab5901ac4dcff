"""Finding items: the line of core/items/itemsearch.py as a query, with what each item did when it was sat."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Select, String, cast, exists, false, func, not_, or_, select
from sqlalchemy.orm import Session, aliased

from bildung.core.errors import Refused
from bildung.core.items.itemsearch import Term, read_search, write_search
from bildung.services.answers.itemhistory import Use, uses
from bildung.services.calendar.years import current_year, local_today
from bildung.services.items.bankitem import BankItem, bank_item, with_parts
from bildung.services.items.subject import grade_is, subject_is
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.store.models import (
    Federation,
    Item,
    ItemComment,
    ItemDraft,
    ItemFigure,
    ItemStandard,
    ItemUse,
    ItemVersion,
    Standard,
    Stimulus,
    StimulusVersion,
)
from bildung.store.words import having

ORDERS = {
    "code": "by code",
    "p": "hardest first",
    "easy": "easiest first",
    "r_rest": "lowest discrimination first",
    "last": "least recently used first",
    "recent": "most recently used first",
    "unused": "not used yet first",
    "year": "most used this year first",
    "times": "most used first",
    "wrong": "strongest wrong answer first",
}
_BY_USE = tuple(order for order in ORDERS if order != "code")
STATES = ("draft", "in_review", "ready", "field_test", "in_use", "resting", "retired")


@dataclass(frozen=True, kw_only=True)
class Found:
    """An item as found. this_year: administrations since the year began. comments: open ones. draft: its stage, or
    empty."""

    item: BankItem
    uses: list[Use]
    this_year: int
    comments: int
    draft: str


def find_items(
    ctx: Context, actor: Actor, text: str = "", order: str = "code", limit: int = 100, offset: int = 0
) -> tuple[list[Found], int, str]:
    """Newest versions that fit the line, how many fit in all, and the line as it is written out in full."""
    if order not in ORDERS:
        raise Invalid(f"one of {', '.join(ORDERS)}", "order")
    try:
        terms = read_search(text)
    except Refused as error:
        raise Invalid(str(error), "find") from None
    with ctx.store.read() as db:
        search = _Search(ctx, db, actor)
        # the ids of all that fit are few bytes, and asking for them twice costs more than keeping them
        fitting = db.scalars(search.statement(terms, order).order_by(*search.order(order), Item.code)).all()
        total, ids = len(fitting), fitting[offset : offset + limit]
        rows = {v.id: v for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(ids))))}
        items = [bank_item(rows[id]) for id in ids]
        history = uses(db, [item.item_id for item in items])
        these = [item.item_id for item in items]
        comments = dict(
            db.execute(
                select(ItemComment.item_id, func.count())
                .where(ItemComment.item_id.in_(these), ItemComment.settled_at.is_(None))
                .group_by(ItemComment.item_id)
            ).all()
        )
        drafts = dict(db.execute(select(ItemDraft.item_id, ItemDraft.stage).where(ItemDraft.item_id.in_(these))).all())
    found = [
        Found(
            item=item,
            uses=history.get(item.item_id, []),
            this_year=sum(use.at >= search.begins for use in history.get(item.item_id, [])),
            comments=comments.get(item.item_id, 0),
            draft=drafts.get(item.item_id, ""),
        )
        for item in items
    ]
    return found, total, write_search(terms)


def matching(ctx: Context, db: Session, actor: Actor, text: str, action: Action) -> list[int]:
    """Ids of all items that fit a line and that this person may do the action to."""
    try:
        terms = read_search(text)
    except Refused as error:
        raise Invalid(str(error), "find") from None
    wanted = _Search(ctx, db, actor).statement(terms).with_only_columns(ItemVersion.item_id)
    return list(db.scalars(wanted.where(scope(actor, action)).order_by(Item.code)))


def year_begins(ctx: Context, db: Session) -> datetime:
    """Where "this year" begins: with the school year, or a year ago where there is none."""
    year = current_year(db, local_today(ctx, db))
    zone = ZoneInfo(db.scalar(select(Federation.zone)) or "UTC")
    return datetime.combine(year.start, time(), zone) if year else ctx.clock() - timedelta(days=365)


class _Search:
    """One search: what the terms mean in SQL, over `ItemVersion` (the newest of each) and `Item`."""

    def __init__(self, ctx: Context, db: Session, actor: Actor) -> None:
        self.actor, self.db = actor, db
        self.allowed = scope(actor, Action.BANK_READ)
        self.begins = year_begins(ctx, db)
        used = aliased(ItemVersion)
        # this year's uses are counted only where they are asked for
        self.year = (
            select(used.item_id, func.count().label("times"))
            .join(ItemFigure, ItemFigure.item_version_id == used.id)
            .where(ItemFigure.at >= self.begins)
            .group_by(used.item_id)
            .cte("this_year")
            .prefix_with("MATERIALIZED")
        )

    def statement(self, terms: tuple[Term, ...], order: str = "code") -> Select[Any]:
        newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
        wanted = (
            select(ItemVersion.id)
            .join(Item, Item.id == ItemVersion.item_id)
            .where(ItemVersion.id.in_(newest), self.allowed)
        )
        if order in _BY_USE or any(term.field in ("p", "r", "n", "times", "used") for term in terms):
            wanted = wanted.outerjoin(ItemUse, ItemUse.item_id == Item.id)
        if order == "year" or any(term.field in ("year", "used") for term in terms):
            wanted = wanted.outerjoin(self.year, self.year.c.item_id == Item.id)
        for term in terms:
            fits = (
                self._number(term)
                if term.number is not None
                else or_(false(), *(self._text(term, v) for v in term.values))
            )
            wanted = wanted.where(not_(func.coalesce(fits, False)) if term.without else fits)
        return wanted

    def _number(self, term: Term) -> ColumnElement[bool]:
        columns: dict[str, Any] = {
            "depth": Item.depth,
            "p": ItemUse.p,
            "r": ItemUse.r_rest,
            "n": ItemUse.n,
            "times": func.coalesce(ItemUse.times, 0),
            "year": func.coalesce(self.year.c.times, 0),
            "points": _points(),
            "seconds": Item.seconds,
            "comments": _comments(),
        }
        column, number = columns[term.field], term.number or 0.0
        if term.sign == ":":
            near: ColumnElement[bool] = column.between(number - 0.005, number + 0.005)
            return near if term.field in ("p", "r") else column.between(number, number)
        compare: dict[str, Callable[[Any, Any], Any]] = {
            "<": lambda a, b: a < b,
            ">": lambda a, b: a > b,
            "<=": lambda a, b: a <= b,
            ">=": lambda a, b: a >= b,
        }
        found: ColumnElement[bool] = compare[term.sign](column, number)
        return found

    def _text(self, term: Term, value: str) -> ColumnElement[bool]:
        field, low = term.field, value.casefold().replace(" ", "_")
        plain: dict[str, Any] = {
            "topic": Item.topic,
            "unit": Item.unit,
            "language": Item.language,
            "calculator": Item.calculator,
            "source": Item.source,
            "type": ItemVersion.kind,
        }
        if field == "":
            return having(self.db, Item.id, value)
        if field in ("subject", "grade"):
            return (subject_is if field == "subject" else grade_is)(value)
        if field in plain:
            return func.lower(plain[field]) == (low if field == "type" else value.lower())
        if field == "code":
            return Item.code.startswith(value, autoescape=True)
        if field in ("standard", "touches"):
            coded = (
                select(ItemStandard.item_version_id)
                .join(Standard)
                .where(Standard.code.startswith(value, autoescape=True))
            )
            if field == "touches":
                coded = coded.where(ItemStandard.rank > 0)
            return ItemVersion.id.in_(coded)
        if field == "label":
            each = func.json_each(Item.labels).table_valued("value")
            return exists(select(1).select_from(each).where(func.lower(each.c.value) == value.lower()))
        if field == "state":
            return _state(low)
        if field == "stimulus":
            of = select(StimulusVersion.id).join(Stimulus).where(Stimulus.code == value)
            return ItemVersion.stimulus_version_id.in_(of)
        if field == "flag":
            used = aliased(ItemVersion)
            name = '%"' + low.replace("%", "") + '"%'
            flagged = select(used.item_id).join(ItemFigure, ItemFigure.item_version_id == used.id)
            return Item.id.in_(flagged.where(cast(ItemFigure.flags, String).like(name)))
        return self._word(field, low)

    def _word(self, field: str, low: str) -> ColumnElement[bool]:
        meanings: dict[tuple[str, str], ColumnElement[bool]] = {
            ("owner", "mine"): Item.owner_id == self.actor.person_id,
            ("owner", "common"): Item.owner_id.is_(None),
            ("used", "never"): ItemUse.item_id.is_(None),
            ("used", "ever"): ItemUse.item_id.is_not(None),
            ("used", "year"): func.coalesce(self.year.c.times, 0) > 0,
            ("is", "template"): ItemVersion.template.is_not(None),
            ("is", "copy"): Item.origin_version_id.is_not(None),
            ("is", "draft"): exists(select(1).where(ItemDraft.item_id == Item.id)),
        }
        if (field, low) not in meanings:
            raise Invalid(f"{field} is one of {', '.join(v for f, v in meanings if f == field)}", "find")
        return meanings[field, low]

    def order(self, order: str) -> list[Any]:
        """Items not used yet come last, but first where they are asked for."""
        last = ItemUse
        if order == "unused":
            return [last.at.is_not(None), last.at]
        columns: dict[str, Any] = {
            "p": last.p,
            "easy": last.p.desc(),
            "r_rest": last.r_rest,
            "last": last.at,
            "recent": last.at.desc(),
            "year": self.year.c.times.desc(),
            "times": last.times.desc(),
            "wrong": last.wrong_share.desc(),
        }
        return (
            [
                columns[order].is_(None) if order in ("p", "r_rest", "last") else columns[order].nulls_last(),
                columns[order],
            ]
            if order in columns
            else []
        )


def _state(low: str) -> ColumnElement[bool]:
    if low not in STATES:
        raise Invalid(f"state is one of {', '.join(STATES)}", "find")
    if low in ("draft", "in_review"):
        return exists(select(1).where(ItemDraft.item_id == Item.id, ItemDraft.stage == low))
    return Item.state == low


def _points() -> Any:
    from bildung.store.models import Scoring

    return (
        select(Scoring.points)
        .where(Scoring.item_version_id == ItemVersion.id)
        .order_by(Scoring.number.desc())
        .limit(1)
        .correlate(ItemVersion)
        .scalar_subquery()
    )


def _comments() -> Any:
    return (
        select(func.count())
        .select_from(ItemComment)
        .where(ItemComment.item_id == Item.id, ItemComment.settled_at.is_(None))
        .correlate(Item)
        .scalar_subquery()
    )
