"""Items out: as a QTI 3.0 package or a sheet, with a look at what would be left behind first."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from bildung.formats.itemlist import ItemRecord, sheet_misses, write_items
from bildung.formats.qti import package_misses, write_package
from bildung.formats.qti.packages import media_keys
from bildung.services.bank.search import matching
from bildung.services.items.bankitem import bank_item, record_of, with_parts
from bildung.services.items.media import read
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.wire import listed
from bildung.store.models import Item, ItemEnemy, ItemVersion

MOST = 5000
WAYS = {"qti": ("items-qti.zip", "application/zip"), "sheet": ("items.csv", "text/csv")}


@dataclass(frozen=True)
class Miss:
    code: str
    what: list[str]


@dataclass(frozen=True)
class ExportLook:
    """misses: code and what is left behind, of each item that is not carried whole."""

    items: int
    whole: int
    misses: Annotated[list[tuple[str, list[str]]], listed(Miss)]
    finding: str


def look(ctx: Context, actor: Actor, find: str, way: str) -> ExportLook:
    """What an export would carry, and what it would leave behind."""
    records = _records(ctx, actor, find, way)
    misses = [(r.code, found) for r in records if (found := _missing(r, way))]
    n, lost = len(records), len(misses)
    finding = f"{n} {'item' if n == 1 else 'items'}" + (
        ", all complete." if not lost else f"; {lost} {'loses' if lost == 1 else 'lose'} some content."
    )
    with ctx.store.read() as db:
        stays = len(matching(ctx, db, actor, find, Action.BANK_READ)) - n
    if stays:
        finding += f" {stays} {'template stays' if stays == 1 else 'templates stay'}: the items drawn from {'it' if stays == 1 else 'them'} travel."
    return ExportLook(n, n - lost, misses[:200], finding)


def export(ctx: Context, actor: Actor, find: str, way: str) -> tuple[str, str, bytes]:
    """File name, type and bytes."""
    records = _records(ctx, actor, find, way)
    name, kind = WAYS[way]
    if way == "sheet":
        return name, kind, write_items(records)
    media = {}
    for key in {key for record in records for key in media_keys(record)}:
        path, _ = read(ctx, key)
        media[key] = (path.name, path.read_bytes())
    return name, kind, write_package(records, media)


def _missing(record: ItemRecord, way: str) -> list[str]:
    return package_misses(record) if way == "qti" else sheet_misses(record)


def _records(ctx: Context, actor: Actor, find: str, way: str) -> list[ItemRecord]:
    if way not in WAYS:
        raise Invalid(f"one of {', '.join(WAYS)}", "way")
    with ctx.store.read() as db:
        ids = matching(ctx, db, actor, find, Action.BANK_READ)
        if not ids or len(ids) > MOST:
            raise Invalid(f"{len(ids)} items fit; 1 to {MOST} are exported at once", "find")
        return _read_records(db, ids)


def _read_records(db: Session, ids: list[int]) -> list[ItemRecord]:
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    codes: dict[int, list[str]] = {}
    pairs = db.execute(
        select(ItemEnemy.item_id, ItemEnemy.other_id).where(
            or_(ItemEnemy.item_id.in_(ids), ItemEnemy.other_id.in_(ids))
        )
    ).all()
    names = dict(db.execute(select(Item.id, Item.code)).all())
    for one, other in pairs:
        codes.setdefault(one, []).append(names[other])
    rows = db.scalars(
        with_parts(
            select(ItemVersion).join(Item, Item.id == ItemVersion.item_id).where(ItemVersion.id.in_(newest))
        ).order_by(Item.code)
    )
    wanted = set(ids)
    # a template's own text has gaps where its values go: what travels are the items drawn from it
    return [
        replace(record_of(bank_item(v)), enemies=tuple(sorted(codes.get(v.item_id, []))))
        for v in rows
        if v.item_id in wanted and v.template is None
    ]
