"""What is said of a form, and what it is drawn from where it is drawn."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.assembly.blueprint import Candidate
from bildung.core.assembly.draw import Heap
from bildung.formats.blueprint import FormSettings, settings_of
from bildung.store.models import (
    Family,
    Form,
    FormItem,
    Item,
    ItemStandard,
    ItemUse,
    ItemVersion,
    Scoring,
    Standard,
)


def settings(form: Form) -> FormSettings:
    """As said at the form, with what its kind sets where nothing is said."""
    return settings_of(form.kind, form.settings)


def title_of(form: Form) -> str:
    """What students see: companions share one title, so that no one can tell them apart."""
    return form.family.title if form.family is not None else form.title


def lead_of(family: Family) -> Form:
    """The general form, which the others are companions of."""
    return next((f for f in family.forms if f.role == "general"), family.forms[0])


def heaps_of(db: Session, form: Form, chosen: FormSettings | None = None) -> list[Heap]:
    """The pool of a drawn test, heap by heap; ids are the form's items. Empty for a test that is not drawn."""
    wanted = (chosen or settings(form)).draw
    if wanted is None:
        return []
    points = (
        select(Scoring.points)
        .where(Scoring.item_version_id == ItemVersion.id)
        .order_by(Scoring.number.desc())
        .limit(1)
        .correlate(ItemVersion)
        .scalar_subquery()
    )
    rows = db.execute(
        select(FormItem, ItemVersion, Item, points, ItemUse)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .join(Item, Item.id == ItemVersion.item_id)
        .outerjoin(ItemUse, ItemUse.item_id == Item.id)
        .where(FormItem.form_id == form.id)
        .order_by(FormItem.position)
    ).all()
    standards: dict[int, str] = dict(
        db.execute(
            select(ItemStandard.item_version_id, Standard.code)
            .join(Standard, Standard.id == ItemStandard.standard_id)
            .where(ItemStandard.rank == 0, ItemStandard.item_version_id.in_([v.id for _, v, _, _, _ in rows]))
        ).all()
    )
    heaps: dict[str, list[Candidate]] = {}
    for place, version, item, worth, use in rows:
        sat = use if use is not None and use.item_version_id == version.id else None
        by = {"standard": standards.get(version.id, ""), "topic": item.topic, "unit": item.unit, "all": ""}[wanted.by]
        heaps.setdefault(by, []).append(
            Candidate(
                id=place.id,
                code=item.code,
                standards=(),
                points=worth or 0.0,
                kind=version.kind,
                p=sat.p if sat else None,
            )
        )
    return [Heap(name, min(wanted.count, len(items)), tuple(items)) for name, items in heaps.items()]
