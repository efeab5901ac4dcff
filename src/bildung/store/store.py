"""One data folder: its database, opened for many readers and one writer."""

from __future__ import annotations

import contextlib
import sqlite3
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session

from bildung.store.writer import Writer

T = TypeVar("T")
DATABASE = "bildung.sqlite"
KEPT_BEFORE = 5  # copies from before a migration
BUSY_MS = 10_000


class Store:
    """`read()` gives a session on a consistent snapshot; `write(work)` runs `work` durably, alone."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.folder = folder
        self.path = folder / DATABASE
        migrate(self.path)
        self._readers = _engine(self.path, "BEGIN", query_only=True)
        self._writers = _engine(self.path, "BEGIN IMMEDIATE", query_only=False)
        self._writer = Writer(self._writers)

    @contextlib.contextmanager
    def read(self) -> Iterator[Session]:
        with Session(self._readers) as session:
            yield session

    def write(self, work: Callable[[Session], T]) -> T:
        """Returns once the transaction is on disk; whatever `work` raises leaves nothing behind."""
        return self._writer.run(work)

    def close(self) -> None:
        self._writer.stop()
        self._readers.dispose()
        self._writers.dispose()


def _engine(path: Path, begin: str, query_only: bool) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"check_same_thread": False})

    def connect(connection: sqlite3.Connection, _record: Any) -> None:
        # transactions are begun by the hook below, not by the driver's guesses
        connection.isolation_level = None
        for pragma in (
            f"busy_timeout={BUSY_MS}", "journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON",
            f"query_only={'ON' if query_only else 'OFF'}",
        ):  # fmt: skip
            connection.execute(f"PRAGMA {pragma}")

    event.listen(engine, "connect", connect)
    event.listen(engine, "begin", lambda connection: connection.exec_driver_sql(begin))
    return engine


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
    from bildung.store.backup import copy_database

    folder = path.parent / "backups"
    folder.mkdir(exist_ok=True)
    copy_database(path, folder / f"before-migration-from-{version}-{time.strftime('%Y%m%d-%H%M%S')}.sqlite")
    for old in sorted(folder.glob("before-migration-from-*.sqlite"), key=lambda p: p.stat().st_mtime)[:-KEPT_BEFORE]:
        old.unlink()


def newest_migration() -> str:
    """The revision of the last migration file; they are numbered."""
    files = sorted((Path(__file__).parent / "migrations" / "versions").glob("[0-9]*.py"))
    return files[-1].stem.split("_")[0]
