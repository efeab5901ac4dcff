"""Verdicts on items: keep, rework, drop or field-test again, with a reason; what is open; what the bank makes of them."""

from __future__ import annotations

from dataclasses import replace
from typing import get_args

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.services.items.texts import texts_of
from bildung.services.items.verdicts import VerdictLine, VerdictStanding, What, standing_of, verdicts_of
from bildung.services.quality.scope import sat_in
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.store.models import Form, Item, ItemVersion, PlannedSession, Verdict, Window


def say(
    ctx: Context,
    actor: Actor,
    item_version_id: int,
    form_id: int | None,
    window_id: int | None,
    verdict: str,
    reason: str,
) -> VerdictLine:
    """By whoever may judge an administration of the item, or keeps the bank. A reason is needed but for taking back."""
    if verdict not in get_args(What):
        raise Invalid(f"a decision is one of {', '.join(get_args(What))}", "verdict")
    why = need_text(reason, "reason", 500) if verdict != "open" else reason.strip()[:500]

    def work(db: Session) -> VerdictLine:
        version = db.get(ItemVersion, item_version_id)
        if version is None or not _may(db, actor, item_version_id, form_id):
            raise NotFound("there is no such item, or it is not yours to judge")
        if window_id is not None and db.get(Window, window_id) is None:
            raise NotFound("there is no such window")
        made = Verdict(
            item_version_id=item_version_id,
            form_id=form_id,
            window_id=window_id,
            verdict=verdict,
            reason=why,
            person_id=actor.person_id,
            at=ctx.clock(),
        )
        db.add(made)
        db.flush()
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "item.verdict",
            f"item:{version.item_id}",
            None,
            {"verdict": verdict},
            why,
        )
        return next(line for line in verdicts_of(db, [version.item_id])[version.item_id] if line.id == made.id)

    return ctx.store.write(work)


def _may(db: Session, actor: Actor, version: int, form: int | None) -> bool:
    """Coordinators and keepers always; a teacher where they may judge a sitting of the form that holds it."""
    if actor.may(Action.BANK_KEEP):
        return True
    if form is None or not actor.may(Action.QUALITY_DECIDE):
        return False
    held = db.scalar(
        select(func.count()).select_from(Form).where(Form.id == form, Form.items.any(item_version_id=version))
    )
    judged = db.scalar(select(PlannedSession.id).where(sat_in(form), scope(actor, Action.QUALITY_DECIDE)).limit(1))
    return bool(held) and judged is not None


def list_verdicts(ctx: Context, actor: Actor) -> tuple[str, list[VerdictStanding]]:
    """What is open, the oldest first; then what is done, the newest first."""
    allowed = scope(actor, Action.BANK_READ)
    with ctx.store.read() as db:
        mine = set(db.scalars(select(Item.id).where(allowed)))
        found = [s for id, s in standing_of(db).items() if id in mine]
        texts = texts_of(db, {s.item_id for s in found})
    found = [replace(s, text=texts[s.item_id]) for s in found]
    open_ = sorted((s for s in found if not s.done), key=lambda s: (s.latest.at, s.item))
    done = sorted((s for s in found if s.done), key=lambda s: (s.latest.at, s.item), reverse=True)
    return _finding(found), [*open_, *done]


def _finding(found: list[VerdictStanding]) -> str:
    if not found:
        return "No decisions yet."
    open_ = [s for s in found if not s.done]
    if not open_:
        return f"{len(found)} {'decision' if len(found) == 1 else 'decisions'}, all carried out."
    kinds = {what: sum(s.latest.verdict == what for s in open_) for what in ("rework", "drop", "again")}
    words = {"rework": "to rework", "drop": "to retire", "again": "to field-test again"}
    parts = [f"{n} {words[what]}" for what, n in kinds.items() if n]
    return f"{len(open_)} open: {', '.join(parts)}. {len(found) - len(open_)} done."
