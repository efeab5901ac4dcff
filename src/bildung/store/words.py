"""The word index of the bank: SQLite's FTS5, and the only place that knows it."""

from __future__ import annotations

import json
import re
from typing import Any

from sqlalchemy import ColumnElement, Integer, column, delete, func, insert, literal_column, select, table
from sqlalchemy.orm import Session

_WORDS = table(
    "item_words", column("rowid", Integer), column("code"), column("words"), column("tags"), column("standards")
)


def put_words(db: Session, rows: dict[int, tuple[str, str, str, str]]) -> None:
    """Code, words, tags and standards of items by id; what was there of them goes."""
    if not rows:
        return
    drop_words(db, list(rows))
    db.execute(
        insert(_WORDS),
        [{"rowid": id, "code": c, "words": w, "tags": t, "standards": s} for id, (c, w, t, s) in rows.items()],
    )


def drop_words(db: Session, ids: list[int]) -> None:
    for at in range(0, len(ids), 500):
        db.execute(delete(_WORDS).where(_WORDS.c.rowid.in_(ids[at : at + 500])))


def having(db: Session, id: Any, words: str) -> ColumnElement[bool]:
    """Items whose text holds all these words, each as a beginning. Looked up at once: as part of a larger query SQLite
    may ask the index again for every item."""
    phrases = [f'"{word}"*' for word in re.findall(r"\w+", words)]
    if not phrases:
        return literal_column("1") == 1
    match = literal_column("item_words").op("MATCH")(" ".join(phrases))
    ids = list(db.scalars(select(_WORDS.c.rowid).where(match)))
    each = func.json_each(json.dumps(ids)).table_valued("value")
    found: ColumnElement[bool] = id.in_(select(each.c.value))
    return found
