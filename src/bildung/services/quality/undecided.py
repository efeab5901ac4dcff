"""Items that wanted a look the last time they were sat, and about which nobody has decided since."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.classical.flags import WEIGHTS
from bildung.core.school.privacy import LEAST
from bildung.services.items.texts import texts_of
from bildung.services.items.verdicts import verdicts_of
from bildung.services.quality.scope import administrations
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.wire import Id
from bildung.store.models import Form, Item, ItemFigure, ItemUse, ItemVersion, Window


@dataclass(frozen=True, kw_only=True)
class Undecided:
    """One item and the administration that calls for a verdict. urgent: it may be wrong, as by its key. flags: what was
    seen, heaviest first. again: it was decided about before, and was flagged again since."""

    item_id: Id
    item: str
    subject: str
    grade: str
    form_id: Id
    form: str
    window_id: Id
    window: str
    at: datetime
    n: int
    p: float | None
    r_rest: float | None
    urgent: bool
    flags: list[str]
    again: bool
    text: str = ""


def list_undecided(ctx: Context, actor: Actor) -> list[Undecided]:
    """What this person may judge: by what weighs most, then the latest. Reworked and retired items want none."""
    if not actor.may(Action.QUALITY_READ):
        return []
    with ctx.store.read() as db:
        judged = administrations(db, scope(actor, Action.QUALITY_READ))
        found = [u for u in _flagged(db) if (u.form_id, u.window_id) in judged]
        decided = verdicts_of(db, {u.item_id for u in found})
        texts = texts_of(db, {u.item_id for u in found})
    found = [replace(u, text=texts[u.item_id]) for u in found]
    open_: list[Undecided] = []
    for item in found:
        latest = decided.get(item.item_id, [None])[0]
        if latest is None or latest.verdict == "open":
            open_.append(item)
        elif latest.at < item.at:
            open_.append(replace(item, again=True))
    heaviest = list(WEIGHTS)
    return sorted(
        open_, key=lambda u: (heaviest.index(u.flags[0].replace(" ", "_")), -u.at.timestamp(), u.form, u.item)
    )


def _flagged(db: Session) -> list[Undecided]:
    """Every item whose newest version was the last to be sat and was not sound then. Few students are not told of."""
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    rows = db.execute(
        select(Item, ItemFigure, Form.name, Window.name)
        .join(ItemUse, ItemUse.item_id == Item.id)
        .join(ItemFigure, (ItemFigure.item_version_id == ItemUse.item_version_id) & (ItemFigure.at == ItemUse.at))
        .join(Form, Form.id == ItemFigure.form_id)
        .join(Window, Window.id == ItemFigure.window_id)
        .where(
            ItemUse.item_version_id.in_(newest),
            ItemFigure.sound.is_(False),
            ItemFigure.n >= LEAST,
            Item.state != "retired",
        )
        .order_by(Item.id, ItemFigure.form_id)
    )
    found: dict[int, Undecided] = {}
    for item, f, form, window in rows:
        heavy = [flag for flag in f.flags if flag["weight"] in ("problem", "look")]
        heavy.sort(key=lambda flag: flag["weight"] != "problem")
        names = list(dict.fromkeys(flag["flag"].replace("_", " ") for flag in heavy))
        urgent = any(flag["weight"] == "problem" for flag in heavy)
        found.setdefault(
            item.id,
            Undecided(
                item_id=item.id,
                item=item.code,
                subject=item.subject,
                grade=item.grade,
                form_id=f.form_id,
                form=form,
                window_id=f.window_id,
                window=window,
                at=f.at,
                n=f.n,
                p=f.p,
                r_rest=f.r_rest,
                urgent=urgent,
                flags=names,
                again=False,
            ),
        )
    return list(found.values())


def finding(undecided: list[Undecided], decided: str) -> str:
    """What the page of verdicts opens with. decided: the sentence about what was decided."""
    if not undecided:
        return decided
    n, urgent = len(undecided), sum(u.urgent for u in undecided)
    text = f"{n} {'item' if n == 1 else 'items'} to decide"
    if urgent:
        text += f"; {urgent} may be wrong" if n > 1 else " and may be wrong"
    return f"{text}. {decided}"
