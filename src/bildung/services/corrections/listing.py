"""Corrections that were made, and what there is to correct about an item."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from bildung.core.items.shown import counted, dated
from bildung.formats.content import Shown
from bildung.services.answers.corrected import rulings
from bildung.services.items.bankitem import StimulusView, bank_item, with_parts
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import (
    Correction,
    Form,
    FormItem,
    Item,
    ItemVersion,
    Person,
    PlannedSession,
    Sitting,
    Window,
)


@dataclass(frozen=True, kw_only=True)
class CorrectionLine:
    """what: in words. moved: what it moved, in a sentence. undone_at: it no longer holds."""

    id: Id
    kind: str
    what: str
    moved: str
    place: Id
    number: int
    item: str
    form_id: Id
    form: str
    window_id: Id
    window: str
    reason: str
    by: str
    at: datetime
    undone_at: datetime | None
    undone_by: str
    undone_why: str


@dataclass(frozen=True)
class CorrectionsPage:
    finding: str
    corrections: list[CorrectionLine]


@dataclass(frozen=True, kw_only=True)
class ScoredPartView:
    """How a part is scored now. kind: its type. options: of a choice, id and text. spelling: of written answers; empty otherwise.
    numeric: an entry of numbers, whose key may have a tolerance."""

    id: str
    kind: str
    key: str
    points: float
    options: list[tuple[str, str]]
    several: bool
    numeric: bool
    spelling: str


@dataclass(frozen=True, kw_only=True)
class Correctable:
    """An item as taken in a window. by_person: people score it. ruled: what already holds for it, in words."""

    place: Id
    number: int
    item: str
    form_id: Id
    form: str
    window_id: Id
    window: str
    points: float
    shown: Shown
    stimulus: StimulusView | None
    parts: list[ScoredPartView]
    by_person: bool
    ruled: str
    made: list[CorrectionLine]


def corrections_page(ctx: Context, actor: Actor) -> CorrectionsPage:
    """All that this person may see, the newest first."""
    allowed = scope(actor, Action.SCORES_PLAN)
    with ctx.store.read() as db:
        mine = {
            (form, window)
            for form, window in db.execute(
                select(PlannedSession.form_id, PlannedSession.window_id).where(allowed).distinct()
            )
        } | {
            (form, window)
            for form, window in db.execute(
                select(Sitting.form_id, PlannedSession.window_id)
                .join(PlannedSession, PlannedSession.id == Sitting.session_id)
                .where(allowed, Sitting.form_id.is_not(None))
                .distinct()
            )
        }
        lines = [line for line in _lines(db) if (line.form_id, line.window_id) in mine]
    hold = sum(line.undone_at is None for line in lines)
    undone = len(lines) - hold
    finding = "Nothing has been corrected."
    if lines:
        finding = f"{counted(hold, 'correction') if hold else 'No correction'} {'hold' if hold > 1 else 'holds'}"
        finding += f", {undone} {'was' if undone == 1 else 'were'} undone." if undone else "."
    return CorrectionsPage(finding, lines)


def correctable(ctx: Context, actor: Actor, place_id: int, window_id: int) -> Correctable:
    """What may be corrected about an item."""
    allowed = scope(actor, Action.SCORES_PLAN)
    with ctx.store.read() as db:
        row = db.execute(
            with_parts(
                select(FormItem, ItemVersion, Form)
                .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
                .join(Form, Form.id == FormItem.form_id)
                .where(FormItem.id == place_id)
            )
        ).first()
        window = db.get(Window, window_id)
        if row is None or window is None:
            raise NotFound("there is no such item on a form, or no such window")
        place, version, form = row
        received = (PlannedSession.form_id == form.id) | PlannedSession.sittings.any(Sitting.form_id == form.id)
        mine = select(PlannedSession.id).where(PlannedSession.window_id == window.id, received, allowed).limit(1)
        if db.scalar(mine) is None:
            raise NotFound("there is no such test, or its results are not yours to correct")
        item = bank_item(version)
        ruling = rulings(db, [place.id]).get((place.id, window.id))
        return Correctable(
            place=place.id,
            number=place.position,
            item=item.code,
            form_id=form.id,
            form=form.name,
            window_id=window.id,
            window=dated(window.name, window.start.year),
            points=item.points,
            shown=item.shown,
            stimulus=item.stimulus,
            parts=[
                ScoredPartView(
                    id=part.id,
                    kind=part.type,
                    key=scoring.key,
                    points=scoring.points,
                    options=[(o.id, o.html) for o in getattr(part, "options", [])],
                    several=getattr(part, "most", 1) != 1 or part.type == "order",
                    numeric=bool(getattr(part, "numeric", part.type == "line")),
                    spelling=scoring.spelling if part.type == "entry" and not getattr(part, "numeric", False) else "",
                )
                for part, scoring in zip(item.shown.parts, item.scoring, strict=True)
                if scoring.points and scoring.key
            ],
            by_person=any(part.type == "writing" for part in item.shown.parts) and version.kind != "reason",
            ruled=""
            if ruling is None
            else "This item is dropped."
            if ruling.rule == "drop"
            else "Everyone has the points of this item.",
            made=[line for line in _lines(db) if line.place == place.id and line.window_id == window.id],
        )


def _lines(db: Session) -> list[CorrectionLine]:
    undoer = aliased(Person)
    rows = db.execute(
        select(Correction, FormItem.position, Item.code, Form, Window, Person, undoer)
        .join(FormItem, FormItem.id == Correction.form_item_id)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .join(Item, Item.id == ItemVersion.item_id)
        .join(Form, Form.id == FormItem.form_id)
        .join(Window, Window.id == Correction.window_id)
        .join(Person, Person.id == Correction.by_id)
        .outerjoin(undoer, undoer.id == Correction.undone_by_id)
        .order_by(Correction.id.desc())
    )
    return [
        CorrectionLine(
            id=made.id,
            kind=made.kind,
            what=made.before.get("says", ""),
            moved=made.moved.get("says", ""),
            place=made.form_item_id,
            number=position,
            item=code,
            form_id=form.id,
            form=form.name,
            window_id=window.id,
            window=dated(window.name, window.start.year),
            reason=made.reason,
            by=by.name,
            at=made.at,
            undone_at=made.undone_at,
            undone_by=gone.name if gone else "",
            undone_why=made.undone_why,
        )
        for made, position, code, form, window, by, gone in rows
    ]
