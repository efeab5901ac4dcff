"""How students went about the items: which they came back to, and where they changed their answer."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.classical.revisits import came_back
from bildung.services.quality.judged import Judged
from bildung.services.shared.context import Context
from bildung.services.sitting.visits import read_visits
from bildung.store.models import FormItem, ResponseEvent, Sitting, VisitLog

AT_ONCE = 5000  # ids of one statement


@dataclass(frozen=True)
class HandledItem:
    """One item. seen: students whose visits are known and who saw it; back: of them, who came back to it from another item.
    changed: students who gave two different answers or more, of `n`, all who took the form."""

    number: int
    seen: int
    back: int
    changed: int
    n: int


def handled(ctx: Context, judged: Judged) -> list[HandledItem]:
    """By item, of students who took the form that leads the view; nothing of a test in parts, whose sittings are several."""
    together, lead = judged.together, judged.scoped.forms[0].id
    if together.in_parts:
        return []
    mine = judged.counted[together.form[judged.counted] == lead]
    ids = [int(id) for id in together.sitting[mine]]
    with ctx.store.read() as db:
        paper = list(db.scalars(select(FormItem.id).where(FormItem.form_id == lead).order_by(FormItem.position)).all())
        visits = _visits(db, ids)
        changed = _changed(db, ids)
    counts = came_back(visits, len(paper))
    at = {id: place for place, id in enumerate(paper)}
    return [
        HandledItem(row.number, *counts[at[row.place]], changed.get(row.place, 0), len(ids))
        for row in judged.rows
        if row.place in at
    ]


def _visits(db: Session, ids: list[int]) -> list[list[int]]:
    """By student the places that they visited; of a draw the places are not those of the form."""
    found: dict[int, list[int]] = {}
    for start in range(0, len(ids), AT_ONCE):
        rows = db.execute(
            select(VisitLog.sitting_id, VisitLog.packed)
            .join(Sitting, Sitting.id == VisitLog.sitting_id)
            .where(VisitLog.sitting_id.in_(ids[start : start + AT_ONCE]), Sitting.drawn.is_(None))
            .order_by(VisitLog.sitting_id, VisitLog.takeover)
        )
        for sitting, packed in rows:
            found.setdefault(sitting, []).extend(visit.item for visit in read_visits(packed))
    return list(found.values())


def _changed(db: Session, ids: list[int]) -> dict[int, int]:
    """By form item, students with two different answers or more that were none of them empty."""
    found: dict[int, int] = {}
    for start in range(0, len(ids), AT_ONCE):
        several = (
            select(ResponseEvent.form_item_id)
            .where(ResponseEvent.sitting_id.in_(ids[start : start + AT_ONCE]), ResponseEvent.answer != "")
            .group_by(ResponseEvent.sitting_id, ResponseEvent.form_item_id)
            .having(func.count(ResponseEvent.answer.distinct()) > 1)
            .subquery()
        )
        for item, n in db.execute(select(several.c.form_item_id, func.count()).group_by(several.c.form_item_id)):
            found[item] = found.get(item, 0) + n
    return found
