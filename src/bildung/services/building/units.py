"""Filling a draft from the units of a course: one unit, or everything taught up to it."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.assembly.blueprint import Candidate
from bildung.services.bank.candidates import candidates
from bildung.services.building.forms import MAX_ITEMS, FormDetail, get_form, set_items
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.store.models import CoursePlan, Form, ItemVersion, Lesson


@dataclass(frozen=True)
class UnitStock:
    """A unit in the order of the course, with the items that may be used."""

    name: str
    items: int


def units(ctx: Context, actor: Actor, form_id: int) -> list[UnitStock]:
    """Units of the form's subject and grade in the order of the pacing guide; those that no plan names come last."""
    with ctx.store.read() as db:
        form = _form(db, actor, form_id)
        pool = candidates(ctx, db, actor, form.subject, form.grade)
        return [UnitStock(name, sum(c.unit == name for c in pool)) for name in _ordered(db, form, pool)]


def fill(ctx: Context, actor: Actor, form_id: int, revision: int, unit: str, earlier: bool) -> FormDetail:
    """Add every usable item of the unit, and of the units before it where that is wished; what is there stays."""
    with ctx.store.read() as db:
        form = _form(db, actor, form_id)
        pool = candidates(ctx, db, actor, form.subject, form.grade)
        order = _ordered(db, form, pool)
        if unit not in order:
            raise Invalid(f"{unit or 'no unit'}: choose one of the units of this subject and grade", "unit")
        wanted = set(order[: order.index(unit) + 1]) if earlier else {unit}
        there = [item.item_version_id for item in form.items]
        rank = {name: at for at, name in enumerate(order)}
        fresh = [c for c in pool if c.unit in wanted and not c.problem]
        held = {item.version.item_id for item in form.items}
        of = dict(
            db.execute(
                select(ItemVersion.id, ItemVersion.item_id).where(ItemVersion.id.in_([c.id for c in fresh]))
            ).all()
        )
        fresh = [c for c in sorted(fresh, key=lambda c: (rank[c.unit], c.code)) if of[c.id] not in held]
    if not fresh:
        raise Conflict("every usable item of that is on the form already")
    if len(there) + len(fresh) > MAX_ITEMS:
        raise Conflict(f"that would make {len(there) + len(fresh)} items; a form has at most {MAX_ITEMS}")
    found = get_form(ctx, actor, form_id)
    return set_items(ctx, actor, found.id, revision, [*there, *(c.id for c in fresh)])


def _form(db: Session, actor: Actor, form_id: int) -> Form:
    form = db.scalar(select(Form).where(Form.id == form_id, scope(actor, Action.TESTS_READ)))
    if form is None:
        raise NotFound("there is no such form")
    return form


def _ordered(db: Session, form: Form, pool: list[Candidate]) -> list[str]:
    there = {c.unit for c in pool if c.unit}
    planned = db.scalars(
        select(Lesson.unit)
        .join(CoursePlan, CoursePlan.id == Lesson.plan_id)
        .where(CoursePlan.subject == form.subject, CoursePlan.grade == form.grade)
        .order_by(CoursePlan.year_id.desc(), Lesson.position)
    )
    order = [unit for unit in dict.fromkeys(planned) if unit in there]
    return order + sorted(there - set(order))
