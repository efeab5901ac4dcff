"""The text with which an item begins, as tables of items show it."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.formats.markup import bare_text
from bildung.services.items.bankitem import BankItem
from bildung.store.models import ItemVersion

LONGEST = 160


def begins(item: BankItem) -> str:
    """The first words of an item, at most LONGEST characters."""
    return _cut(item.shown.body)


def texts_of(db: Session, items: Collection[int]) -> dict[int, str]:
    """By item the first words of its newest version."""
    newest = select(func.max(ItemVersion.id)).where(ItemVersion.item_id.in_(items)).group_by(ItemVersion.item_id)
    rows = db.execute(select(ItemVersion.item_id, ItemVersion.shown).where(ItemVersion.id.in_(newest)))
    return {id: _cut(shown.get("body", "")) for id, shown in rows}


def _cut(html: str) -> str:
    text = bare_text(html)
    return text if len(text) <= LONGEST else text[: LONGEST - 1].rsplit(" ", 1)[0] + "…"
