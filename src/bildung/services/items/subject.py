"""Which subject and grade an item is for: its own tags, and where it has none those of its main standard."""

from __future__ import annotations

from sqlalchemy import ColumnElement, Integer, and_, cast, func, or_, select

from bildung.store.models import Item, ItemStandard, ItemVersion, Standard


def subject_is(subject: str) -> ColumnElement[bool]:
    """On a query over `Item` and the version that is looked at (`ItemVersion`). Capitals do not matter."""
    own = func.lower(func.trim(Item.subject))
    theirs = _of_main(func.lower(func.trim(Standard.subject)) == subject.strip().lower())
    return or_(own == subject.strip().lower(), and_(own == "", theirs))


def grade_is(grade: str) -> ColumnElement[bool]:
    """As `subject_is`; a standard that is taught over a span of grades fits each of them."""
    own, wanted = func.trim(Item.grade), grade.strip()
    fits = func.trim(Standard.grade) == wanted
    if wanted.isdigit():
        low, high = (cast(of, Integer) for of in (Standard.grade, Standard.grade_to))
        whole = and_(Standard.grade != "", Standard.grade_to != "", Standard.grade.op("GLOB")("[0-9]*"))
        fits = or_(fits, and_(whole, low <= int(wanted), high >= int(wanted)))
    return or_(own == wanted, and_(own == "", _of_main(fits)))


def _of_main(fits: ColumnElement[bool]) -> ColumnElement[bool]:
    main = select(ItemStandard.item_version_id).join(Standard, Standard.id == ItemStandard.standard_id)
    return ItemVersion.id.in_(main.where(ItemStandard.rank == 0, fits))
