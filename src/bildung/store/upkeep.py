"""A thorough look at what a data folder holds beside the soundness of its database."""

from __future__ import annotations

import contextlib
import hashlib
import sqlite3
from collections.abc import Iterator
from pathlib import Path

from bildung.store.migrating import DATABASE

MOST = 20


def check_media(folder: Path) -> Iterator[str]:
    """Pictures and sounds that items name and that are not there, or are not what they were."""
    with contextlib.closing(sqlite3.connect(folder / DATABASE)) as connection:
        rows = connection.execute("SELECT key, size FROM media ORDER BY key").fetchall()
    files = {path.stem: path for path in (folder / "media").glob("*")} if (folder / "media").is_dir() else {}
    for key, size in rows:
        path = files.get(key)
        if path is None:
            yield f"media/{key}: is not there"
        elif path.stat().st_size != size or hashlib.sha256(path.read_bytes()).hexdigest()[:24] != key:
            yield f"media/{path.name}: is not what was uploaded"


def check_answers(folder: Path) -> Iterator[str]:
    """Present answers that are not the last ones that came."""
    wrong = """
        SELECT r.sitting_id, count(*) FROM response r
        LEFT JOIN response_event e ON e.sitting_id = r.sitting_id AND e.form_item_id = r.form_item_id
            AND e.takeover = r.takeover AND e.sequence = r.sequence AND e.answer = r.answer
        WHERE e.id IS NULL OR EXISTS (
            SELECT 1 FROM response_event l WHERE l.sitting_id = r.sitting_id AND l.form_item_id = r.form_item_id
            AND (l.takeover > r.takeover OR (l.takeover = r.takeover AND l.sequence > r.sequence)))
        GROUP BY r.sitting_id ORDER BY r.sitting_id
    """
    with contextlib.closing(sqlite3.connect(folder / DATABASE)) as connection:
        rows = connection.execute(wrong).fetchall()
    for sitting, n in rows[:MOST]:
        yield f"attempt {sitting}: {n} {'answer is' if n == 1 else 'answers are'} not the last that came"
    if len(rows) > MOST:
        yield f"and {len(rows) - MOST} more attempts"
