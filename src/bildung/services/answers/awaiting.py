"""Submitted attempts that hold an answer which a person has to score and nobody has."""

from __future__ import annotations

from sqlalchemy import ColumnElement, String, cast, func, select
from sqlalchemy.orm import Session

from bildung.formats.scored import awaits, item_rule
from bildung.services.items.bankitem import content_of
from bildung.store.models import FormItem, ItemVersion, Mark, PlannedSession, Response, Sitting


def awaiting_scores(db: Session, allowed: ColumnElement[bool]) -> list[tuple[int, int]]:
    """Sessions, of those allowed, with how many attempts wait, the one that began first in front. A blank answer waits
    for nobody."""
    places = _by_person(db)
    if not places:
        return []
    scored = select(Mark.id).where(Mark.sitting_id == Sitting.id, Mark.form_item_id == Response.form_item_id)
    rows = db.execute(
        select(PlannedSession.id, func.count(Sitting.id.distinct()))
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .join(Response, Response.sitting_id == Sitting.id)
        .where(
            Sitting.state == "handed_in",
            Response.form_item_id.in_(places),
            Response.answer != "",
            ~scored.exists(),
            allowed,
        )
        .group_by(PlannedSession.id)
        .order_by(PlannedSession.start, PlannedSession.id)
    )
    return [(session, n) for session, n in rows]


def _by_person(db: Session) -> list[int]:
    """Items of forms whose answers no rule scores."""
    given = select(PlannedSession.form_id).distinct()
    companions = select(Sitting.form_id).where(Sitting.form_id.is_not(None)).distinct()
    rows = db.execute(
        select(FormItem.id, ItemVersion)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(
            FormItem.form_id.in_(given) | FormItem.form_id.in_(companions),
            cast(ItemVersion.shown, String).contains('"writing"'),
        )
    ).all()
    found = []
    for place, version in rows:
        content = content_of(version)
        if version.kind != "reason" and awaits(item_rule(content.shown, content.scoring)):
            found.append(place)
    return found
