"""What can be looked for and said about items, for the controls beside the line."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from sqlalchemy import func, select

from bildung.core.items.itemsearch import NUMBER_FIELDS, TEXT_FIELDS
from bildung.formats.content import KINDS
from bildung.services.bank.search import ORDERS, STATES
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.wire import Named, listed
from bildung.store.models import Item, ItemFigure, Lesson


@dataclass(frozen=True, kw_only=True)
class Fields:
    kinds: Annotated[list[tuple[str, str]], listed(Named)]
    states: list[str]
    orders: Annotated[list[tuple[str, str]], listed(Named)]
    fields: Annotated[list[tuple[str, str]], listed(Named)]
    numbers: Annotated[list[tuple[str, str]], listed(Named)]
    topics: list[str]
    units: list[str]
    labels: list[str]
    sources: list[str]
    flags: list[str]


def fields(ctx: Context, actor: Actor) -> Fields:
    """What can be looked for, and the values that the bank has, for the controls beside the line."""
    allowed = scope(actor, Action.BANK_READ)
    with ctx.store.read() as db:

        def distinct(column: object) -> list[str]:
            return list(db.scalars(select(column).where(allowed, column != "").distinct().order_by(column).limit(300)))  # type: ignore[call-overload]

        units = sorted({*distinct(Item.unit), *db.scalars(select(Lesson.unit).distinct())})
        each = func.json_each(Item.labels).table_valued("value")
        labels = db.scalars(
            select(each.c.value).select_from(Item).join(each, each.c.value != "").where(allowed).distinct().limit(300)
        ).all()
        flags = {
            flag["flag"] for found in db.scalars(select(ItemFigure.flags).distinct().limit(2000)) for flag in found
        }
        return Fields(
            kinds=list(KINDS.items()),
            states=list(STATES),
            orders=list(ORDERS.items()),
            fields=list(TEXT_FIELDS.items()),
            numbers=list(NUMBER_FIELDS.items()),
            topics=distinct(Item.topic),
            units=[u for u in units if u],
            labels=sorted(labels),
            sources=distinct(Item.source),
            flags=sorted(flags),
        )
