"""Whether a data folder can be served: held by one server, not newer than the program, whole, writable, with room."""

from __future__ import annotations

import contextlib
import os
import shutil
import sqlite3
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from bildung.store.migrating import DATABASE, newest_migration

if os.name == "posix":
    import fcntl

LOCK = "in-use"
LEAST_ROOM = 64 * 2**20
QUICK_SECONDS = 30


class FolderProblem(Exception):
    """One sentence: what is wrong with the folder, and what to do."""


@contextlib.contextmanager
def held(folder: Path, what: str = "a Bildung server") -> Iterator[None]:
    """The folder is this process's alone. FolderProblem with who holds it, where somebody does. The lock goes with the
    process, however it ends."""
    folder.mkdir(parents=True, exist_ok=True)
    try:
        handle = (folder / LOCK).open("a+")
    except OSError as error:
        raise FolderProblem(
            f"{folder} cannot be written to ({error.strerror}); give this user the right to, or mount it writable"
        ) from None
    with handle:
        if os.name == "posix":
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                handle.seek(0)
                holder = handle.read().strip() or "another process"
                raise FolderProblem(
                    f"{folder} is in use by {holder}; stop that one first, or choose another folder with --data"
                ) from None
        handle.seek(0)
        handle.truncate()
        handle.write(f"{what}, process {os.getpid()}, since {datetime.now(UTC):%Y-%m-%d %H:%M} UTC")
        handle.flush()
        yield


def look(folder: Path, thorough: bool = False) -> None:
    """FolderProblem where the folder must not be served. thorough: every page of the database and every link between its
    tables, however long it takes; else as far as half a minute goes."""
    path = folder / DATABASE
    if not path.exists():
        return
    if not os.access(path, os.W_OK) or not os.access(folder, os.W_OK):
        raise FolderProblem(f"{path} is read-only; give this user the right to write to it and its folder")
    room = shutil.disk_usage(folder).free
    if room < LEAST_ROOM:
        raise FolderProblem(
            f"the disk of {folder} has {room // 2**20} MB left; make at least {LEAST_ROOM // 2**20} MB of room first"
        )
    try:
        with contextlib.closing(sqlite3.connect(path, timeout=2)) as connection:
            _newer(connection, folder)
            _whole(connection, folder, thorough)
            connection.isolation_level = None
            connection.execute("BEGIN IMMEDIATE")
            connection.execute("ROLLBACK")
    except sqlite3.OperationalError as error:
        if "locked" in str(error) or "busy" in str(error):
            raise FolderProblem(f"{path} is locked by another program; close it and start again") from None
        raise FolderProblem(
            f"{path} cannot be opened ({error}); restore a backup: ./bildung restore FROM --data {folder}"
        ) from None
    except sqlite3.DatabaseError as error:
        raise FolderProblem(_damaged(folder, str(error))) from None


def _newer(connection: sqlite3.Connection, folder: Path) -> None:
    try:
        row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.OperationalError as error:
        if "no such table" in str(error):
            return
        raise
    if row and row[0] > newest_migration():
        raise FolderProblem(
            f"{folder} was last used by a newer Bildung (its tables are at {row[0]}, this program knows {newest_migration()}); "
            "update the program, or restore a backup from before"
        )


def _whole(connection: sqlite3.Connection, folder: Path, thorough: bool) -> None:
    began = time.monotonic()
    if not thorough:  # an interrupted look has found nothing so far, and the server can start
        connection.set_progress_handler(lambda: int(time.monotonic() - began > QUICK_SECONDS), 100_000)
    try:
        found = connection.execute(f"PRAGMA {'integrity_check' if thorough else 'quick_check'}(1)").fetchone()
    except sqlite3.OperationalError as error:
        if "interrupt" in str(error):
            return
        raise
    finally:
        connection.set_progress_handler(None, 0)
    if found and found[0] != "ok":
        raise FolderProblem(_damaged(folder, str(found[0])))
    if thorough:
        broken = connection.execute("PRAGMA foreign_key_check").fetchone()
        if broken:
            raise FolderProblem(
                _damaged(folder, f"a row of {broken[0]} points to a row of {broken[2]} that is not there")
            )


def _damaged(folder: Path, what: str) -> str:
    first = " ".join(what.split())[:120]
    return f"the database in {folder} is damaged ({first}) and is not served; restore a backup: ./bildung restore FROM --data {folder}"
