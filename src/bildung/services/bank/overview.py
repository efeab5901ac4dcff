"""What the bank has: standards with their items, and what can be filtered by."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import ColumnElement, func, select

from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.store.models import (
    Framework,
    Item,
    ItemStandard,
    ItemVersion,
    Standard,
)


@dataclass(frozen=True, kw_only=True)
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
    allowed = scope(actor, Action.BANK_READ)
    theirs = select(func.max(ItemVersion.id)).join(Item, Item.id == ItemVersion.item_id).where(allowed)
    newest = theirs.group_by(ItemVersion.item_id)
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
            .group_by(Standard.id)
            .order_by(Standard.position, Standard.code)
        ).all()
        items = db.scalar(select(func.count(ItemVersion.item_id.distinct())).where(ItemVersion.id.in_(newest))) or 0
        written = select(ItemVersion.item_id)
        unfinished = db.scalar(select(func.count()).select_from(Item).where(allowed, Item.id.not_in(written))) or 0
        subjects = db.scalars(select(Item.subject).where(Item.subject != "").distinct().order_by(Item.subject)).all()
        grades = db.scalars(select(Item.grade).where(Item.grade != "").distinct().order_by(Item.grade)).all()
    standards = [StandardLine(code=s.code, text=s.text, subject=s.subject, grade=s.grade, items=n) for s, n in rows]
    bare = sum(line.items == 0 for line in standards)
    if not items:
        finding = f"{unfinished} {'item is' if unfinished == 1 else 'items are'} being written; none is finished yet."
    if not items and not unfinished:
        finding = "The bank is empty. Write an item, or import a spreadsheet or a QTI package."
    elif items:
        finding = (
            f"{items} {'item' if items == 1 else 'items'} for {len(standards) - bare} of {len(standards)} standards."
        )
        if bare:
            finding += f" {bare} {'has' if bare == 1 else 'have'} no item yet."
        if unfinished:
            finding += f" {unfinished} more {'is' if unfinished == 1 else 'are'} being written."
    return BankOverview(finding, standards, list(subjects), list(grades))
