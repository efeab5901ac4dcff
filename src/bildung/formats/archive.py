"""Zip archives from outside: bounded, and never trusted with a path."""

from __future__ import annotations

import io
import zipfile
from pathlib import PurePosixPath

from bildung.formats.problem import ImportProblem

MAX_MEMBERS = 5_000
MAX_EXPANDED = 128 * 1024 * 1024
MAX_RATIO = 200


def open_archive(file: str, data: bytes) -> dict[str, bytes]:
    """Contents by path. Refuses paths that leave the archive, links, encryption, and too large an expansion."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _contents(file, archive, len(data))
    except (zipfile.BadZipFile, NotImplementedError, EOFError, ValueError) as error:
        raise ImportProblem(
            file=file, found=f"not a readable zip file ({error})", allowed="a zip file is expected"
        ) from None


def _contents(file: str, archive: zipfile.ZipFile, size: int) -> dict[str, bytes]:
    members = archive.infolist()
    if len(members) > MAX_MEMBERS:
        raise ImportProblem(file=file, found=f"{len(members)} files", allowed=f"at most {MAX_MEMBERS} are read")
    contents: dict[str, bytes] = {}
    total = 0
    limit = min(MAX_EXPANDED, max(size * MAX_RATIO, 1024 * 1024))
    for member in members:
        path = PurePosixPath(member.filename.replace("\\", "/"))
        place = f"{file}: {member.filename}"
        if path.is_absolute() or ".." in path.parts or ":" in member.filename:
            raise ImportProblem(
                file=place, found="a path outside the archive's folder", allowed="paths stay inside the archive"
            )
        if member.is_dir():
            continue
        if (member.external_attr >> 16) & 0o170000 == 0o120000:
            raise ImportProblem(file=place, found="a link", allowed="plain files only")
        if member.flag_bits & 1:
            raise ImportProblem(file=place, found="an encrypted file", allowed="unencrypted files only")
        with archive.open(member) as stream:
            # the stated size can lie: what counts is what comes out
            body = stream.read(limit - total + 1)
        total += len(body)
        if total > limit:
            raise ImportProblem(file=place, found="expands too far", allowed=f"at most {limit} bytes in all")
        if str(path) in contents:
            raise ImportProblem(file=place, found="a file twice", allowed="each path stands once")
        contents[str(path)] = body
    return contents


def is_archive(data: bytes) -> bool:
    return data[:4] in (b"PK\x03\x04", b"PK\x05\x06")
