"""Blueprints kept to be used again: what a test is to hold, and whether the bank has it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any

from sqlalchemy import ColumnElement, func, select, true
from sqlalchemy.orm import Session

from bildung.core.assembly.blueprint import Candidate, Row, check
from bildung.core.errors import Refused
from bildung.formats.blueprint import KINDS, Plan, read_plan
from bildung.services.bank.candidates import candidates
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, owner_of_new, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, Ref, listed
from bildung.store.models import Blueprint, Form, Item


@dataclass(frozen=True, kw_only=True)
class Stock:
    """What the bank has for a row: items, points, how many of them with a history, and how many not sat this year.
    missing: how many the row still wants, in what it counts. empties: where there is none, which filter leaves none."""

    items: int
    points: float
    known: int
    fresh: int
    missing: float
    empties: str


@dataclass(frozen=True, kw_only=True)
class BlueprintView:
    """stock: by row. contradiction: why no form could meet it, or empty. forms: made from it. may_write: by who asks."""

    id: Id
    name: str
    subject: str
    grade: str
    kind: str
    revision: int
    content: Plan
    changed_at: datetime
    stock: list[Stock]
    contradiction: str
    forms: Annotated[list[tuple[int, str]], listed(Ref)]
    may_write: bool
    finding: str


@dataclass(frozen=True, kw_only=True)
class BlueprintLine:
    id: Id
    name: str
    subject: str
    grade: str
    kind: str
    rows: int
    forms: int
    changed_at: datetime


def list_blueprints(ctx: Context, actor: Actor) -> list[BlueprintLine]:
    """Every blueprint that this person may use, each held against the bank."""
    scope(actor, Action.TESTS_READ)
    with ctx.store.read() as db:
        forms = dict(db.execute(select(Form.blueprint_id, func.count()).group_by(Form.blueprint_id)).all())
        return [
            BlueprintLine(
                id=b.id,
                name=b.name,
                subject=b.subject,
                grade=b.grade,
                kind=b.kind,
                rows=len(b.content["rows"]),
                forms=forms.get(b.id, 0),
                changed_at=b.changed_at,
            )
            for b in db.scalars(select(Blueprint).where(_seen(actor)).order_by(Blueprint.name))
        ]


def get_blueprint(ctx: Context, actor: Actor, id: int) -> BlueprintView:
    """One blueprint with what the bank has for each of its rows."""
    scope(actor, Action.TESTS_READ)
    with ctx.store.read() as db:
        return _view(ctx, db, actor, find(db, actor, id))


def save_blueprint(
    ctx: Context,
    actor: Actor,
    id: int | None,
    revision: int,
    name: str,
    subject: str,
    grade: str,
    kind: str,
    content: Any,
) -> BlueprintView:
    """A new one, or a change of one as it was seen. One that contradicts itself may be kept: it says so."""
    scope(actor, Action.TESTS_WRITE)
    name = need_text(name, "name")
    if kind and kind not in KINDS:
        raise Invalid(f"kind is one of {', '.join(KINDS)}", "kind")
    try:
        plan = read_plan(content)
    except Refused as error:
        raise Invalid(str(error), "content") from None

    def work(db: Session) -> BlueprintView:
        if id is None:
            blueprint = Blueprint(
                name=name, owner_id=owner_of_new(actor), content={}, revision=0, changed_at=ctx.clock()
            )
            db.add(blueprint)
        else:
            blueprint = find(db, actor, id)
            if not _mine(actor, blueprint):
                raise NotFound("there is no such blueprint, or it is not yours to change")
            if blueprint.revision != revision:
                raise Conflict(
                    "someone changed this blueprint in the meantime; your version is still on the page, open theirs to compare"
                )
        with db.no_autoflush:
            other = db.scalar(select(Blueprint.id).where(Blueprint.name == name, Blueprint.id != (id or 0)))
        if other is not None:
            raise Conflict(f"there is a blueprint named {name} already; choose another name", "name")
        blueprint.name, blueprint.subject, blueprint.grade, blueprint.kind = name, subject.strip(), grade.strip(), kind
        blueprint.content, blueprint.changed_at = plan.model_dump(), ctx.clock()
        blueprint.revision += 1
        db.flush()
        audit.record(
            db, ctx.clock(), actor.person_id, "blueprint.save", f"blueprint:{blueprint.id}", None, {"name": name}
        )
        return _view(ctx, db, actor, blueprint)

    return ctx.store.write(work)


def find(db: Session, actor: Actor, id: int) -> Blueprint:
    """The blueprint, or NotFound where there is none that this person may use."""
    found = db.scalar(select(Blueprint).where(Blueprint.id == id, _seen(actor)))
    if found is None:
        raise NotFound("there is no such blueprint")
    return found


def _seen(actor: Actor) -> ColumnElement[bool]:
    if owner_of_new(actor) is None:
        return true()
    return Blueprint.owner_id.is_(None) | (Blueprint.owner_id == actor.person_id)


def _mine(actor: Actor, blueprint: Blueprint) -> bool:
    return owner_of_new(actor) is None or blueprint.owner_id == actor.person_id


def _view(ctx: Context, db: Session, actor: Actor, b: Blueprint) -> BlueprintView:
    plan = read_plan(b.content)
    pool = candidates(ctx, db, actor, b.subject, b.grade)
    nothing = "" if pool else _why_nothing(ctx, db, actor, b)
    stock = [
        _stock(row, [item for item in pool if row.fits(item)], nothing or row.emptied(pool)) for row in plan.core().rows
    ]
    contradiction = ""
    try:
        check(plan.core())
    except Refused as error:
        contradiction = str(error)
    forms = [
        (f, name)
        for f, name in db.execute(select(Form.id, Form.name).where(Form.blueprint_id == b.id).order_by(Form.name))
    ]
    may = actor.may(Action.TESTS_WRITE) and _mine(actor, b)
    return BlueprintView(
        id=b.id,
        name=b.name,
        subject=b.subject,
        grade=b.grade,
        kind=b.kind,
        revision=b.revision,
        content=plan,
        changed_at=b.changed_at,
        stock=stock,
        contradiction=contradiction,
        forms=forms,
        may_write=may,
        finding=_finding(b.name, plan, stock, contradiction),
    )


def _why_nothing(ctx: Context, db: Session, actor: Actor, b: Blueprint) -> str:
    """What leaves nothing of the bank before any row is asked for."""
    usable = len(candidates(ctx, db, actor))
    if not usable:
        items = db.scalar(select(func.count()).select_from(Item).where(scope(actor, Action.BANK_READ))) or 0
        return f"none of {items} items is ready or in use" if items else "the bank is empty"
    if b.subject and not candidates(ctx, db, actor, b.subject):
        return f"none of {usable} usable items is of subject {b.subject}"
    return f"none of {len(candidates(ctx, db, actor, b.subject))} usable items of {b.subject or 'any subject'} is for grade {b.grade}"


def _stock(row: Row, found: list[Candidate], empties: str) -> Stock:
    return Stock(
        items=len(found),
        points=sum(item.points for item in found),
        known=sum(item.p is not None for item in found),
        fresh=sum(not item.used for item in found),
        missing=max(0.0, row.low - sum(map(row.weight, found))),
        empties="" if found else empties,
    )


def _finding(name: str, plan: Plan, stock: list[Stock], contradiction: str) -> str:
    if not plan.rows and plan.items is None and plan.points is None:
        return f"{name} has no rows yet: say what it is to cover."
    if contradiction:
        return f"{name} cannot be met by any bank: {contradiction}."
    short = [(row, s) for row, s in zip(plan.core().rows, stock, strict=True) if s.missing]
    if short:
        row, first = short[0]
        have = first.items if row.count == "items" else first.points
        more = (
            f", and {len(short) - 1} more {'row is' if len(short) == 2 else 'rows are'} short" if len(short) > 1 else ""
        )
        reason = f" ({first.empties})" if first.empties else ""
        return f"{name}: of {row.says} the bank has {have:g} {row.count}{reason}, {row.low:g} are wanted{more}."
    times = min(
        ((s.items if r.count == "items" else s.points) / r.low for r, s in zip(plan.rows, stock, strict=True) if r.low),
        default=0,
    )
    return (
        f"{name}: the bank can fill every row; for the scarcest it has {times:.1f} times what is needed."
        if times
        else f"{name}: the bank can fill every row."
    )
