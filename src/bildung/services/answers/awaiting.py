"""Items whose answers a person scores."""

from __future__ import annotations

from sqlalchemy import String, cast, select
from sqlalchemy.orm import Session

from bildung.formats.scored import awaits, item_rule
from bildung.services.items.bankitem import content_of
from bildung.store.models import FormItem, ItemVersion, PlannedSession, Sitting


def places_by_person(db: Session) -> list[int]:
    """Items of forms that anybody took whose answers a person scores, at least in part."""
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
