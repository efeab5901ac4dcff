"""Much writing at once without holding up those who save: rehearsed on a copy, then merged in a moment.

The work runs on a copy of the store that nobody else sees; every statement that writes is kept with its values. Only these
are then done on the store itself, in a fraction of the time that finding out took: in one transaction, or, where there are
many thousands of rows, in pieces that are written to a file first, so that a server that ends in the middle ends them when it
starts again. All or nothing. Where others changed meanwhile what the work rests on, the merge finds out by itself (the log has grown, numbers or
counts of rows are others) and the whole is rehearsed anew.
"""

from __future__ import annotations

import itertools
import logging
import marshal
import os
import re
import secrets
import sqlite3
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import Connection, Engine, event
from sqlalchemy.orm import Session

from bildung.store.barrier import Barrier
from bildung.store.files import write_durably

T = TypeVar("T")
report = logging.getLogger(__name__)
TRIES = 3
WRITES = re.compile(r"\s*(INSERT|UPDATE|DELETE|REPLACE)\b", re.IGNORECASE)
DELETES = re.compile(r"\s*DELETE\b", re.IGNORECASE)
COUNTED = re.compile(r"\s*(UPDATE|DELETE)\b(?!.*\bRETURNING\b)", re.IGNORECASE | re.DOTALL)
INTO = re.compile(r"\s*(?:INSERT|REPLACE)(?: OR \w+)? INTO \"?(\w+)", re.IGNORECASE)
SAVEPOINT = re.compile(r"\s*(SAVEPOINT|ROLLBACK TO SAVEPOINT|RELEASE SAVEPOINT) (\w+)", re.IGNORECASE)
JOINED = "sign_in"
WITNESS = "audit"  # whoever of the staff changes something writes a line here
HARMLESS = (
    "accommodation.provided",
    "sitting.mark",
    "session.cards",
    "session.sheets",
    "day.print",
    "password.change",
    "room.back",
    "room.helped",
    "room.irregularity",
    "room.message",
    "room.minutes",
    "room.pause",
    "room.restroom",
    "room.resume",
)
"""Lines of the log that change nothing that bulk work rests on: what happens all the time while sessions run."""


Statement = tuple[str, Any, bool, int]
ABOUT = 60.0  # seconds within which whoever wrote a log has written its first piece
PIECE = 2000  # rows that are written in about 15 ms: 50 are allowed, and other work slows the machine
WIDTH = 10  # values of a row, about, where many rows are one statement


_NUMBERS = itertools.count()


class Moved(Exception):
    """Others changed meanwhile what a rehearsal rests on."""


@dataclass
class Rehearsal:
    """statements: text, values, whether there are many of them, and how many rows it touched (-1: not known). tops: the
    highest row of each table that rows were added to, as the copy began. deletes: whether it takes rows away, as the attempt
    of a student who has not begun; joined: the last sign-in as the copy began, since who has joined has begun."""

    statements: list[Statement] = field(default_factory=list)
    tops: dict[str, int] = field(default_factory=dict)
    deletes: bool = False
    joined: int = 0

    def check(self, connection: Connection) -> None:
        """Moved where doing it on the store would not be what was rehearsed."""
        cursor = connection.connection.cursor()
        for table, top in self.tops.items():
            if table == WITNESS:
                marks = ", ".join("?" * len(HARMLESS))
                query = f"SELECT count(*) FROM {WITNESS} WHERE id > ? AND action NOT IN ({marks})"
                if cursor.execute(query, (top, *HARMLESS)).fetchone()[0]:
                    raise Moved("the log")
            elif _top(cursor, table) != top:
                raise Moved(table)
        if self.deletes and _top(cursor, JOINED) != self.joined:
            raise Moved(JOINED)

    def pieces(self) -> list[list[Statement]]:
        """The statements in their order, in pieces of about so many rows as are written in a moment."""
        found: list[list[Statement]] = [[]]
        room = PIECE
        for text, values, many, rows in self.statements:
            parts = (
                [(text, values[at : at + PIECE], True, -1) for at in range(0, len(values), PIECE)]
                if many
                else [(text, values, False, rows)]
            )
            for part in parts:
                size = len(part[1]) if many else max(3, rows, len(values) // WIDTH)
                if size > room and found[-1]:
                    found.append([])
                    room = PIECE
                found[-1].append(part)
                room -= size
        return found


def write(connection: Connection, statements: Sequence[Statement], first: bool = True) -> None:
    """Do what was rehearsed; Moved where it touches other rows. first: else the others were told to wait, and only what
    students answer can have come."""
    cursor = connection.connection.cursor()
    for text, values, many, rows in statements:
        if many:
            cursor.executemany(text, values)
        else:
            cursor.execute(text, values).fetchall()
        if first and rows >= 0 and cursor.rowcount not in (-1, rows):
            raise Moved(f"{rows} rows, now {cursor.rowcount}: {text[:200]}")


@dataclass(frozen=True)
class Log:
    """What is being written in pieces, on disk before the first: a server that ends in the middle ends it when it starts
    again. Without a first piece it is nothing."""

    path: Path
    name: str
    pieces: list[list[Statement]]

    @classmethod
    def of(cls, folder: Path, pieces: list[list[Statement]]) -> Log:
        """With a name of its own."""
        name = f"merging-{secrets.token_hex(8)}"
        return cls(folder / f"{name}.log", name, pieces)

    def keep(self) -> None:
        """On disk once this returns."""
        write_durably(self.path, marshal.dumps((self.name, self.pieces)))

    def steps(self, check: Callable[[Connection], None], begin: int = 0) -> list[Callable[[Connection], None]]:
        """Each piece as work that also writes down that it is done."""

        def step(connection: Connection, at: int) -> None:
            if at == 0:
                check(connection)
            write(connection, self.pieces[at], at == 0)
            cursor = connection.connection.cursor()
            if at == len(self.pieces) - 1:
                cursor.execute("DELETE FROM kept_version WHERE name = ?", (self.name,))
            else:
                cursor.execute("INSERT OR REPLACE INTO kept_version (name, number) VALUES (?, ?)", (self.name, at + 1))

        return [partial(step, at=at) for at in range(begin, len(self.pieces))]

    def drop(self) -> None:
        """All is written."""
        self.path.unlink(missing_ok=True)


def finish(folder: Path, engine: Engine, barrier: Barrier) -> None:
    """What was cut off between two pieces; nothing where another process is at it. A log whose first piece was not written is
    dropped, but not at once: another process may be about to write it."""
    logs = sorted(folder.glob("merging-*.log"))
    if not logs or not barrier.close():
        return
    try:
        for path in logs:
            name, pieces = marshal.loads(path.read_bytes())
            log = Log(path, name, pieces)
            with engine.begin() as connection:
                query = "SELECT number FROM kept_version WHERE name = ?"
                row = connection.connection.cursor().execute(query, (name,)).fetchone()
            try:
                for step in log.steps(lambda connection: None, row[0]) if row else ():
                    with engine.begin() as connection:
                        step(connection)
            except sqlite3.IntegrityError as error:  # a fault of ours; the rest of the store is whole
                report.critical("bulk work cannot be ended; it is left in %s.failed", path, exc_info=error)
                path.rename(path.with_suffix(".failed"))
                continue
            if row or time.time() - path.stat().st_mtime > ABOUT:
                log.drop()
    finally:
        barrier.open()


def _top(cursor: sqlite3.Cursor | Any, table: str) -> int:
    return int(cursor.execute(f"SELECT coalesce(max(rowid), 0) FROM {table}").fetchone()[0])


def _lives(process: str) -> bool:
    """Whether the process that a copy belongs to is still there."""
    return not process.isdecimal() or Path(f"/proc/{process}").exists() or not Path("/proc/self").exists()


class Copies:
    """Copies of one store to rehearse on, one at a time."""

    def __init__(self, path: Path, make_engine: Callable[[Path], Engine]) -> None:
        """make_engine: for a file that is thrown away, and that opens it anew each time."""
        self._path, self._copy = path, path.with_name(f"rehearsal-{os.getpid()}-{next(_NUMBERS)}.sqlite")
        for left in path.parent.glob("rehearsal-*.sqlite*"):
            if not _lives(left.name.split("-")[1].partition(".")[0]):
                left.unlink(missing_ok=True)
        self._turn = threading.Lock()
        self._recording: Rehearsal | None = None
        self._marks: list[tuple[str, int]] = []
        self._engine = make_engine(self._copy)
        event.listen(self._engine, "before_cursor_execute", self._look)
        event.listen(self._engine, "after_cursor_execute", self._record)

    def rehearse(self, work: Callable[[Session], T]) -> tuple[T, Rehearsal]:
        """What it returns, and what it would write."""
        with self._turn:
            made = self._recording = Rehearsal()
            self._marks = []
            try:
                self._take_copy()
                with self._engine.begin() as connection:
                    cursor = connection.connection.cursor()
                    made.tops[WITNESS], made.joined = _top(cursor, WITNESS), _top(cursor, JOINED)
                    with Session(connection, join_transaction_mode="create_savepoint") as session:
                        result = work(session)
                        session.commit()
                return result, made
            finally:
                self._recording = None
                for left in self._copy.parent.glob(self._copy.name + "*"):
                    left.unlink(missing_ok=True)

    def _take_copy(self) -> None:
        source = sqlite3.connect(f"file:{self._path}?mode=ro", uri=True)
        try:
            copy = sqlite3.connect(self._copy)
            try:
                source.backup(copy)
            finally:
                copy.close()
        finally:
            source.close()

    def _look(self, connection: Any, cursor: Any, text: str, values: Any, context: Any, many: bool) -> None:
        """How far a table went before the first row is added."""
        into = INTO.match(text)
        if into and self._recording is not None and into[1] not in self._recording.tops:
            self._recording.tops[into[1]] = _top(connection.connection.cursor(), into[1])

    def _record(self, connection: Any, cursor: Any, text: str, values: Any, context: Any, many: bool) -> None:
        made = self._recording
        if made is None:
            return
        point = SAVEPOINT.match(text)
        if point:
            kind, name = point[1].upper(), point[2]
            if kind == "SAVEPOINT":
                self._marks.append((name, len(made.statements)))
            elif kind.startswith("ROLLBACK"):
                del made.statements[next(at for known, at in reversed(self._marks) if known == name) :]
            return
        if WRITES.match(text):
            made.deletes = made.deletes or DELETES.match(text) is not None
            many = (
                many and bool(values) and isinstance(values[0], (list, tuple, dict))
            )  # else many rows in one statement
            counted = COUNTED.match(text) and not many
            # text, values and rows as they can be written down
            values = [tuple(row) for row in values] if many else tuple(values)
            made.statements.append((text, values, many, cursor.rowcount if counted else -1))
