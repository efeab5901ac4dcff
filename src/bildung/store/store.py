"""One data folder: its database, opened for many readers and one writer."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from pathlib import Path
from typing import Any, TypeVar

import orjson
from sqlalchemy import Connection, Engine, NullPool, create_engine, event
from sqlalchemy.orm import Session

from bildung.store.barrier import Barrier, Busy
from bildung.store.bulk import TRIES, Copies, Log, Moved, Rehearsal, finish
from bildung.store.migrating import DATABASE, migrate
from bildung.store.writer import HalfDone, Writer

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
        self._barrier = Barrier(folder / "writing.lock")
        finish(folder, self._writers, self._barrier)
        self._writer = Writer(self._writers, self._barrier)
        self._copies = Copies(self.path, lambda path: _engine(path, "BEGIN", kept=False))

    @contextlib.contextmanager
    def read(self) -> Iterator[Session]:
        with Session(self._readers) as session:
            yield session

    def write(self, work: Callable[[Session], T], much: bool = False) -> T:
        """Returns once the transaction is on disk; whatever `work` raises leaves nothing behind. much: what takes longer than
        others can wait is rehearsed on a copy and merged in a moment (`bulk`); it may be done several times, so it changes
        nothing but what the session holds."""
        for _ in range(TRIES if much else 0):
            try:
                result, rehearsal = self._copies.rehearse(work)
                self._merge(rehearsal)
                return result
            except (Moved, Busy, sqlite3.IntegrityError):
                continue
            except (OSError, sqlite3.OperationalError):  # no room for a copy
                break
        return self._writer.run(work)

    def _merge(self, rehearsal: Rehearsal) -> None:
        pieces = rehearsal.pieces()
        log = Log.of(self.folder, pieces)
        if len(pieces) > 1:
            log.keep()
        try:
            self._writer.run_pieces(log.steps(rehearsal.check))
        except HalfDone:
            raise  # the log stays: what is left is done when the store is opened again
        except BaseException:
            log.drop()
            raise
        log.drop()

    def write_soon(self, work: Callable[[Connection], T]) -> Future[T]:
        """The same on rows, for what comes a hundred times a second: nobody waits here; it is done once it is on disk."""
        return self._writer.soon(work)

    def close(self) -> None:
        self._writer.stop()
        self._readers.dispose()
        self._writers.dispose()
        self._barrier.give_up()


def _loads(value: str | int | float) -> Any:
    """SQLite keeps a number by itself as one, whatever the column is called."""
    return orjson.loads(value) if isinstance(value, str) else value


KEPT = ("journal_mode=WAL", "synchronous=FULL")
THROWN_AWAY = ("journal_mode=MEMORY", "synchronous=OFF")


def _engine(path: Path, begin: str, query_only: bool = False, kept: bool = True) -> Engine:
    """kept: else a file that is opened anew each time and lost without harm."""
    engine = create_engine(
        f"sqlite:///{path}",
        connect_args={"check_same_thread": False},
        json_serializer=lambda value: orjson.dumps(value, option=orjson.OPT_NON_STR_KEYS).decode(),
        json_deserializer=_loads,
        poolclass=None if kept else NullPool,
    )

    def connect(connection: sqlite3.Connection, _record: Any) -> None:
        # transactions are begun by the hook below, not by the driver's guesses
        connection.isolation_level = None
        for pragma in (
            f"busy_timeout={BUSY_MS}",
            *(KEPT if kept else THROWN_AWAY),
            "foreign_keys=ON",
            f"query_only={'ON' if query_only else 'OFF'}",
        ):
            connection.execute(f"PRAGMA {pragma}")

    event.listen(engine, "connect", connect)
    event.listen(engine, "begin", lambda connection: connection.exec_driver_sql(begin))
    return engine
