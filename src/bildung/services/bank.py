"""The item bank: bringing items in, finding them by standard and text."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session, aliased, selectinload

from bildung.formats.archive import is_archive
from bildung.formats.itemlist import ItemRecord, read_items
from bildung.formats.markup import safe_html
from bildung.formats.problem import ImportProblem
from bildung.formats.qti import read_package
from bildung.services.access import Action, Actor, scope
from bildung.services.context import Context
from bildung.services.errors import Invalid
from bildung.services.staging import Line, Planner, Preview, decide, in_one_go, stage
from bildung.store.models import Framework, Item, ItemFigure, ItemStandard, ItemVersion, Scoring, Standard

ORDERS = ("code", "p", "r_rest", "last", "unused")


def preview_items(ctx: Context, actor: Actor, files: dict[str, bytes]) -> Preview:
    scope(actor, Action.BANK_WRITE)
    return stage(ctx, actor, "items", files, _planner(ctx))


def apply_items(ctx: Context, actor: Actor, id: str) -> Preview:
    scope(actor, Action.BANK_WRITE)
    return decide(ctx, actor, "items", id, _planner(ctx))


def _planner(ctx: Context) -> Planner:
    return in_one_go(lambda db, files, apply: plan_items(db, files, apply, ctx.clock()))


def plan_items(db: Session, files: dict[str, bytes], apply: bool, at: datetime) -> list[Line]:
    """What becomes of each item of CSV files and QTI packages; with `apply` it is done."""
    records: list[ItemRecord] = []
    for name, data in files.items():
        records += read_package(name, data) if is_archive(data) else read_items(name, data)
    seen: dict[str, ItemRecord] = {}
    for record in records:
        if record.code in seen:
            raise ImportProblem(record.place, f"{record.code} again (first in {seen[record.code].place})", "once each")
        seen[record.code] = record
    return add_records(db, records, apply, at)


def add_records(db: Session, records: Sequence[ItemRecord], apply: bool, at: datetime) -> list[Line]:
    """Add items, new versions of changed ones, and standards that only their code is known of."""
    lines: list[Line] = []
    standards = standards_by_code(db)
    items = {
        item.code: item
        for item in db.scalars(
            select(Item).options(
                selectinload(Item.versions).selectinload(ItemVersion.scorings),
                selectinload(Item.versions).selectinload(ItemVersion.standards).selectinload(ItemStandard.standard),
            )
        )
    }
    new_codes: set[str] = set()
    for record in records:
        for code in record.standards:
            if code not in standards and code not in new_codes:
                new_codes.add(code)
                lines.append(Line("added", "standard", code, code, "its code only; no text yet"))
                if apply:
                    standards[code] = Standard(code=code)
                    db.add(standards[code])
        stem = safe_html(record.stem)
        options = [{"letter": letter, "html": safe_html(html)} for letter, html in record.options]
        label = plain_text(stem)[:90]
        item = items.get(record.code)
        latest = item.versions[-1] if item and item.versions else None
        changes = [] if latest is None else _changes(latest, record, stem, options)
        if latest is not None and not changes:
            lines.append(Line("same", "item", record.code, label))
            continue
        if latest is None:
            lines.append(Line("added", "item", record.code, label))
        else:
            detail = f"next version: {', '.join(changes)} changed; results stay with version {latest.number}"
            lines.append(Line("changed", "item", record.code, label, detail))
        if not apply:
            continue
        if item is None:
            item = Item(code=record.code, subject=record.subject, grade=record.grade)
            db.add(item)
            items[record.code] = item
        version = ItemVersion(
            item=item, number=latest.number + 1 if latest else 1, kind=record.kind, stem=stem, options=options,
            created_at=at,
        )  # fmt: skip
        version.scorings.append(Scoring(number=1, key=record.key, points=record.points, created_at=at))
        for rank, code in enumerate(record.standards):
            version.standards.append(ItemStandard(standard=standards[code], rank=rank))
        db.add(version)
    return lines


def standards_by_code(db: Session) -> dict[str, Standard]:
    """What a code means: the main framework's standard where several have it."""
    rows = select(Standard).outerjoin(Framework, Framework.id == Standard.framework_id).order_by(Framework.main)
    return {s.code: s for s in db.scalars(rows) if s.code}


def _changes(latest: ItemVersion, record: ItemRecord, stem: str, options: list[dict[str, Any]]) -> list[str]:
    scoring = latest.scorings[-1]
    pairs = {
        "type": (latest.kind, record.kind), "stem": (latest.stem, stem), "options": (latest.options, options),
        "key": (scoring.key, record.key), "points": (scoring.points, record.points),
        "standards": ([s.standard.code for s in latest.standards], list(record.standards)),
    }  # fmt: skip
    return [name for name, (old, new) in pairs.items() if old != new]


def plain_text(html: str) -> str:
    """The words of an item without its markup, for lists and for finding."""
    text = re.sub(r"<[^>]+>", " ", html)
    for entity, sign in (("&lt;", "<"), ("&gt;", ">"), ("&nbsp;", " "), ("&quot;", '"'), ("&amp;", "&")):
        text = text.replace(entity, sign)
    return re.sub(r"\s+", " ", text).strip()


@dataclass(frozen=True)
class BankItem:
    """An item at its newest version. key and points: for those who may read the bank only."""

    version_id: int
    item_id: int
    code: str
    number: int
    kind: str
    subject: str
    grade: str
    stem: str
    options: list[dict[str, Any]]
    key: str
    points: float
    standards: list[str]


def list_items(
    ctx: Context, actor: Actor, find: str = "", standard: str = "", subject: str = "", grade: str = "",
    limit: int = 200, order: str = "code",
) -> tuple[list[BankItem], int]:  # fmt: skip
    """Newest versions that fit every filter, and how many there are. standard: a code, or the start of codes. order:
    code, or by the latest time it was sat: p (hardest first), r_rest (least separating first), last (longest ago
    first); items never sat come last, but first where they are asked for as such (unused)."""
    if order not in ORDERS:
        raise Invalid(f"one of {', '.join(ORDERS)}", "order")
    allowed = scope(actor, Action.BANK_READ)
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    wanted = select(ItemVersion).join(Item).where(ItemVersion.id.in_(newest), allowed)
    for word in find.split():
        like = f"%{word.replace('%', '')}%"
        wanted = wanted.where(or_(ItemVersion.stem.ilike(like), Item.code.ilike(like)))
    if standard:
        coded = select(ItemStandard.item_version_id).join(Standard).where(Standard.code.like(f"{standard}%"))
        wanted = wanted.where(ItemVersion.id.in_(coded))
    for column, value in ((Item.subject, subject), (Item.grade, grade)):
        if value:
            wanted = wanted.where(column == value)
    with ctx.store.read() as db:
        total = db.scalar(select(func.count()).select_from(wanted.subquery())) or 0
        versions = db.scalars(with_parts(wanted).order_by(*_order(order), Item.code).limit(limit)).all()
        return [bank_item(version) for version in versions], total


def _order(order: str) -> list[Any]:
    """By what the item did the last time any of its versions was sat."""
    if order == "code":
        return []
    versions = aliased(ItemVersion)
    column: Any = {"p": ItemFigure.p, "r_rest": ItemFigure.r_rest}.get(order, ItemFigure.at)
    latest = (
        select(column).join(versions, versions.id == ItemFigure.item_version_id).where(versions.item_id == Item.id)
        .order_by(ItemFigure.at.desc()).limit(1).correlate(Item).scalar_subquery()
    )  # fmt: skip
    return [latest.is_not(None)] if order == "unused" else [latest.is_(None), latest]


def with_parts(wanted: Any) -> Any:
    """The same query with everything `bank_item` needs, in a fixed number of statements."""
    return wanted.options(
        selectinload(ItemVersion.item),
        selectinload(ItemVersion.scorings),
        selectinload(ItemVersion.standards).selectinload(ItemStandard.standard),
    )


def bank_item(version: ItemVersion) -> BankItem:
    scoring = version.scorings[-1]
    return BankItem(
        version.id, version.item_id, version.item.code, version.number, version.kind, version.item.subject, version.item.grade,
        safe_html(version.stem), [{**o, "html": safe_html(o["html"])} for o in version.options], scoring.key,
        scoring.points, [s.standard.code for s in version.standards],
    )  # fmt: skip


@dataclass(frozen=True)
class StandardLine:
    code: str
    text: str
    subject: str
    grade: str
    items: int


@dataclass(frozen=True)
class BankOverview:
    finding: str
    standards: list[StandardLine]
    subjects: list[str]
    grades: list[str]


def overview(ctx: Context, actor: Actor) -> BankOverview:
    """All standards with how many items have them as the main one, at their newest version; and the filters."""
    scope(actor, Action.BANK_READ)
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    main: ColumnElement[bool] = (ItemStandard.rank == 0) & ItemStandard.item_version_id.in_(newest)
    with ctx.store.read() as db:
        rows = db.execute(
            select(Standard, func.count(ItemStandard.item_version_id))
            .outerjoin(ItemStandard, (ItemStandard.standard_id == Standard.id) & main)
            .outerjoin(Framework, Framework.id == Standard.framework_id)
            .where(
                Standard.framework_id.is_(None) | Framework.main.is_(True),
                Standard.id.not_in(select(Standard.parent_id).where(Standard.parent_id.is_not(None))),
            )
            .group_by(Standard.id).order_by(Standard.position, Standard.code)
        ).all()  # fmt: skip
        items = db.scalar(select(func.count()).select_from(Item)) or 0
        subjects = db.scalars(select(Item.subject).where(Item.subject != "").distinct().order_by(Item.subject)).all()
        grades = db.scalars(select(Item.grade).where(Item.grade != "").distinct().order_by(Item.grade)).all()
    standards = [StandardLine(s.code, s.text, s.subject, s.grade, n) for s, n in rows]
    bare = sum(line.items == 0 for line in standards)
    if not items:
        finding = "The bank is empty. Bring in items as a CSV or a QTI 3.0 package."
    else:
        finding = f"{items} items for {len(standards) - bare} of {len(standards)} standards."
        if bare:
            finding += f" {bare} {'has' if bare == 1 else 'have'} no item yet."
    return BankOverview(finding, standards, list(subjects), list(grades))


def need_text(value: str, name: str, longest: int = 120) -> str:
    """A name as typed, stripped; Invalid where empty or too long."""
    text = value.strip()
    if not text or len(text) > longest:
        raise Invalid(f"{name.replace('_', ' ')} needs 1 to {longest} characters", name)
    return text
