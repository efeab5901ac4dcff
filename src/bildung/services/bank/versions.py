"""Versions of an item, and the words by which it is found."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from bildung.formats.content import (
    Content,
    htmls,
    kind_of,
)
from bildung.formats.markup import bare_text
from bildung.services.items.bankitem import content_of
from bildung.store.models import (
    Item,
    ItemStandard,
    ItemVersion,
    Scoring,
    Standard,
    StimulusVersion,
)
from bildung.store.words import put_words


def add_version(
    db: Session,
    item: Item,
    content: Content,
    standards: Sequence[Standard],
    stimulus: StimulusVersion | None,
    at: datetime,
    author_id: int | None = None,
    template: dict[str, Any] | None = None,
) -> ItemVersion:
    """The item's next version. content: made safe already."""
    number = max((v.number for v in item.versions), default=0) + 1
    version = ItemVersion(
        item=item,
        number=number,
        kind=kind_of(content.shown, content.scoring),
        shown=content.shown.model_dump(),
        behind=content.behind.model_dump(),
        template=template,
        stimulus=stimulus,
        author_id=author_id,
        created_at=at,
    )
    version.scorings.append(
        Scoring(
            number=1,
            parts=[s.model_dump() for s in content.scoring],
            points=sum(s.points for s in content.scoring),
            created_at=at,
        )
    )
    for rank, standard in enumerate(standards):
        version.standards.append(ItemStandard(standard=standard, rank=rank))
    db.add(version)
    return version


def index_items(db: Session, items: Sequence[Item]) -> None:
    """Make their words findable, as they are now."""
    rows = {}
    for item in items:
        latest = item.versions[-1] if item.versions else None
        words = ""
        if latest is not None:
            content = content_of(latest)
            words = " ".join(bare_text(html) for html in htmls(content))
            if latest.stimulus is not None:
                words += f" {latest.stimulus.title} {bare_text(latest.stimulus.html)}"
        tags = " ".join((item.topic, item.unit, item.source, *item.labels))
        rows[item.id] = (item.code, words, tags, " ".join(s.standard.code for s in latest.standards) if latest else "")
    put_words(db, rows)
