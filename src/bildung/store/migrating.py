"""Bringing a database to the newest migration, with a copy kept first."""

from __future__ import annotations

import contextlib
import os
import sqlite3
import time
from pathlib import Path

DATABASE = "bildung.sqlite"


KEPT_BEFORE = 5  # copies from before a migration


def migrate(path: Path) -> None:
    """Bring the database to the newest migration, a copy of it kept beside first; quick where it is there already."""
    head = newest_migration()
    if path.exists():
        row = None
        with contextlib.closing(sqlite3.connect(path)) as connection, contextlib.suppress(sqlite3.OperationalError):
            row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
        if row and row[0] == head:
            return
        if row:
            _keep_copy(path, row[0])
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("sqlalchemy.url", f"sqlite:///{path}")
    command.upgrade(config, "head")


def _keep_copy(path: Path, version: str) -> None:
    folder = path.parent / "backups"
    folder.mkdir(exist_ok=True)
    copy_database(path, folder / f"before-migration-from-{version}-{time.strftime('%Y%m%d-%H%M%S')}.sqlite")
    for old in sorted(folder.glob("before-migration-from-*.sqlite"), key=lambda p: p.stat().st_mtime)[:-KEPT_BEFORE]:
        old.unlink()


def newest_migration() -> str:
    """The revision of the last migration file; they are numbered."""
    files = sorted((Path(__file__).parent / "migrations" / "versions").glob("[0-9]*.py"))
    return files[-1].stem.split("_")[0]


def copy_database(source: Path, target: Path) -> None:
    """One consistent moment of a database in use; writers go on meanwhile."""
    with (
        contextlib.closing(sqlite3.connect(source, timeout=30)) as read,
        contextlib.closing(sqlite3.connect(target)) as copy,
    ):
        read.backup(copy)
        copy.execute("PRAGMA journal_mode=DELETE")  # one file, nothing beside it
    with target.open("rb") as written:
        os.fsync(written.fileno())
