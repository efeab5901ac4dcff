"""Files as they are uploaded."""

from __future__ import annotations

from fastapi import UploadFile


def contents(files: list[UploadFile]) -> dict[str, bytes]:
    """By name; a file without one is called by its place."""
    return {file.filename or f"file {at}": file.file.read() for at, file in enumerate(files, 1)}
