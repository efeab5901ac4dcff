"""Files that are written through to the disk before anybody is told that they are kept."""

from __future__ import annotations

import contextlib
import hashlib
import os
from pathlib import Path


def write_durably(path: Path, data: bytes) -> None:
    """Whole or not at all: beside it first, through to the disk, then in its place, and the folder's entry through too."""
    beside = path.with_name(f".{path.name}.partial")
    try:
        with beside.open("wb") as out:
            out.write(data)
            out.flush()
            os.fsync(out.fileno())
        beside.replace(path)
    except BaseException:
        with contextlib.suppress(OSError):
            beside.unlink()
        raise
    sync_folder(path.parent)


def sync_folder(folder: Path) -> None:
    """The names in a folder are on the disk, where the system can say so."""
    try:
        handle = os.open(folder, os.O_RDONLY)
    except OSError:
        return
    try:
        with contextlib.suppress(OSError):
            os.fsync(handle)
    finally:
        os.close(handle)


def digest(path: Path) -> str:
    """SHA-256 of a file, read in pieces."""
    found = hashlib.sha256()
    with path.open("rb") as read:
        while piece := read.read(1 << 20):
            found.update(piece)
    return found.hexdigest()
