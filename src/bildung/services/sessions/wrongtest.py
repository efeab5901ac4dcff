"""What speaks against giving a class this test: its grade, subject, kind, language, or items the class has had."""

from __future__ import annotations

from collections import Counter
from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.services.owed.sametest import forms_of
from bildung.store.models import (
    Family,
    Form,
    FormItem,
    Item,
    ItemVersion,
    PlannedSession,
    Requirement,
    SchoolClass,
    SchoolYear,
    Sitting,
    Window,
)

SAME_ITEMS = 0.5  # share of a test's items that were on another test of the year
OWN_KINDS = ("unit", "spot", "task")
"""Kinds that teachers choose; a window that requires a benchmark says nothing about them."""


def wrong_test(db: Session, form: Form, klass: SchoolClass, window: Window, start: datetime) -> list[str]:
    """Sentences that name what speaks against it; none where nothing does."""
    found = []
    if form.grade and klass.grade and form.grade.upper() != klass.grade.upper():
        found.append(f"{klass.title} is grade {klass.grade}; {form.name} is for grade {form.grade}.")
    if form.subject and klass.subject and form.subject != klass.subject:
        found.append(
            f"{klass.title} is a class in {klass.subject.lower()}; {form.name} is a test in {form.subject.lower()}."
        )
    found += _other_required(db, form, klass, window)
    found += _other_language(db, form, klass, start)
    return found + _same_items(db, form, klass, start)


def _other_required(db: Session, form: Form, klass: SchoolClass, window: Window) -> list[str]:
    """Practice, or another benchmark, where the window requires one of this subject and grade."""
    if form.kind in OWN_KINDS or not form.subject or not klass.grade:
        return []
    same = forms_of(db, form.id)
    required: dict[str, bool] = {}
    for row in db.scalars(select(Requirement).where(Requirement.window_id == window.id)):
        forms = (
            db.get_one(Family, row.family_id).forms if row.family_id is not None else [db.get_one(Form, row.form_id)]
        )
        if any(f.id in same for f in forms):
            return []
        if any(f.subject == form.subject and f.grade.upper() == klass.grade.upper() for f in forms):
            name = db.get_one(Family, row.family_id).name if row.family_id is not None else forms[0].name
            required[name] = True
    if not required:
        return []
    kind = "a practice test" if form.kind == "mirror" else "another test"
    return [f"{window.name} requires {' and '.join(required)} of grade {klass.grade}; {form.name} is {kind}."]


def _languages(db: Session, forms: set[int]) -> Counter[str]:
    """How many items of these forms are in which language, where it was said."""
    found = db.execute(
        select(Item.language, func.count())
        .join(ItemVersion, ItemVersion.item_id == Item.id)
        .join(FormItem, FormItem.item_version_id == ItemVersion.id)
        .where(FormItem.form_id.in_(forms), Item.language != "")
        .group_by(Item.language)
    )
    return Counter({language: n for language, n in found})


def _other_language(db: Session, form: Form, klass: SchoolClass, start: datetime) -> list[str]:
    """Than every test that the class has been given this year."""
    own = _languages(db, {form.id})
    if not own:
        return []
    begun = _year_begins(db, start)
    given = select(PlannedSession.form_id).where(
        PlannedSession.class_id == klass.id, PlannedSession.canceled_at.is_(None), PlannedSession.form_id != form.id
    )
    before = _languages(db, set(db.scalars(given if begun is None else given.where(PlannedSession.start >= begun))))
    (language, _) = own.most_common(1)[0]
    if not before or language in before:
        return []
    usual = before.most_common(1)[0][0]
    return [f"{form.name} is in the language “{language}”; the tests of {klass.title} this year were in “{usual}”."]


def _year_begins(db: Session, day: datetime) -> datetime | None:
    year = db.scalar(select(SchoolYear).where(SchoolYear.start <= day.date(), SchoolYear.end >= day.date()))
    return None if year is None else datetime.combine(year.start, datetime.min.time(), ZoneInfo("UTC"))


def _same_items(db: Session, form: Form, klass: SchoolClass, start: datetime) -> list[str]:
    """Of a test that the class has taken this school year."""
    if form.kind in ("mirror", "unit"):  # practice, and what is given before and after a unit
        return []
    begun = _year_begins(db, start)
    items = set(
        db.scalars(
            select(ItemVersion.item_id)
            .join(FormItem, FormItem.item_version_id == ItemVersion.id)
            .where(FormItem.form_id == form.id)
        )
    )
    if not items or begun is None:
        return []
    same = forms_of(db, form.id)
    taken = (
        select(PlannedSession.form_id)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .where(
            PlannedSession.class_id == klass.id,
            PlannedSession.start >= begun,
            PlannedSession.start < start,
            PlannedSession.form_id.not_in(same),
            Sitting.state == "handed_in",
        )
    )
    for form_id, name, n in db.execute(
        select(Form.id, Form.name, func.count(ItemVersion.item_id.distinct()))
        .join(FormItem, FormItem.form_id == Form.id)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(Form.id.in_(taken), ItemVersion.item_id.in_(items), Form.kind != "mirror")
        .group_by(Form.id)
        .order_by(Form.id)
    ):
        if n >= SAME_ITEMS * len(items) and form_id not in same:
            return [f"{n} of the {len(items)} items of {form.name} were on {name}, which {klass.title} took this year."]
    return []
