"""Reading what a command was given and writing what it made, whole or not at all."""

from __future__ import annotations

import os
from pathlib import Path

from bildung.formats.problem import ImportProblem


def read_bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise ImportProblem(
            file=str(path), found=error.strerror or "cannot be read", allowed="a file that can be read"
        ) from None


def write_whole(path: Path, data: bytes) -> None:
    """Beside it first, then in its place, so that nothing is left half written."""
    beside = path.with_name(path.name + ".partial")
    try:
        beside.write_bytes(data)
        os.replace(beside, path)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise ImportProblem(
            file=str(path), found=error.strerror or "cannot be written", allowed="a place that can be written"
        ) from None
