"""Asking an outside test service for files of scores and norms, over HTTP."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import httpx2 as httpx

from bildung.formats.oneroster_rest import Unreachable

SECONDS = 30
MOST = 64 * 1024 * 1024


@dataclass(frozen=True)
class ServiceFile:
    """A file that the service has. kind: scores or norms. path: below its address."""

    kind: str
    title: str
    path: str


def list_files(address: str, transport: httpx.BaseTransport | None = None) -> list[ServiceFile]:
    """What there is. Raises Unreachable, in words."""
    body = _get(address, "/files.json", transport)
    try:
        rows: list[dict[str, Any]] = body.json()["files"]
        return [ServiceFile(str(r["kind"]), str(r["title"]), str(r["path"])) for r in rows]
    except (ValueError, KeyError, TypeError):
        raise Unreachable(f"the test service at {address} does not say which files it has") from None


def get_file(address: str, path: str, transport: httpx.BaseTransport | None = None) -> bytes:
    """One of the files that were listed. Raises Unreachable, in words."""
    data: bytes = _get(address, path, transport).content
    if len(data) > MOST:
        raise Unreachable(f"the file of the test service is larger than {MOST // 2**20} MB")
    return data


def _get(address: str, path: str, transport: httpx.BaseTransport | None) -> httpx.Response:
    address = address.rstrip("/")
    try:
        with httpx.Client(timeout=SECONDS, transport=transport) as http:
            answer = http.get(f"{address}{path}")
    except httpx.HTTPError as error:
        raise Unreachable(f"the test service at {address} cannot be reached ({type(error).__name__})") from None
    if answer.status_code != 200:
        raise Unreachable(f"the test service at {address} answered with status {answer.status_code}")
    return answer
