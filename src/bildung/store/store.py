"""One data folder: its database, opened for many readers and one writer."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from pathlib import Path
from typing import Any, TypeVar

import orjson
from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.orm import Session

from bildung.store.migrating import DATABASE, migrate
from bildung.store.writer import Writer

T = TypeVar("T")
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

    def write_soon(self, work: Callable[[Connection], T]) -> Future[T]:
        """The same on rows, for what comes a hundred times a second: nobody waits here; it is done once it is on disk."""
        return self._writer.soon(work)

    def close(self) -> None:
        self._writer.stop()
        self._readers.dispose()
        self._writers.dispose()


def _loads(value: str | int | float) -> Any:
    """SQLite keeps a number by itself as one, whatever the column is called."""
    return orjson.loads(value) if isinstance(value, str) else value


def _engine(path: Path, begin: str, query_only: bool) -> Engine:
    engine = create_engine(
        f"sqlite:///{path}",
        connect_args={"check_same_thread": False},
        json_serializer=lambda value: orjson.dumps(value, option=orjson.OPT_NON_STR_KEYS).decode(),
        json_deserializer=_loads,
    )

    def connect(connection: sqlite3.Connection, _record: Any) -> None:
        # transactions are begun by the hook below, not by the driver's guesses
        connection.isolation_level = None
        for pragma in (
            f"busy_timeout={BUSY_MS}",
            "journal_mode=WAL",
            "synchronous=FULL",
            "foreign_keys=ON",
            f"query_only={'ON' if query_only else 'OFF'}",
        ):
            connection.execute(f"PRAGMA {pragma}")

    event.listen(engine, "connect", connect)
    event.listen(engine, "begin", lambda connection: connection.exec_driver_sql(begin))
    return engine
