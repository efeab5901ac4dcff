"""One connection to the server, as a browser keeps it: plain HTTP/1.1 over a socket, sharing no code with the server."""

from __future__ import annotations

import asyncio
import contextlib
import gzip
import json
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from typing import Any


@dataclass
class Line:
    """cookies, csrf: as the server gave them. It connects when first used, and again where the connection was lost."""

    host: str
    port: int
    cookies: dict[str, str] = field(default_factory=dict)
    csrf: str = ""
    opened: int = 0
    _reader: asyncio.StreamReader | None = None
    _writer: asyncio.StreamWriter | None = None

    async def send(self, method: str, path: str, body: Any = None, raw: bytes = b"", kind: str = "") -> tuple[int, Any]:
        """Status and what came back, JSON where it is JSON."""
        if self._writer is None or self._writer.is_closing():
            self._reader, self._writer = await asyncio.open_connection(self.host, self.port)
            self.opened += 1
        data = raw or (b"" if body is None else json.dumps(body).encode())
        self._writer.write(self._head(method, path, len(data), kind or "application/json") + data)
        try:
            await self._writer.drain()
            return await self._answer()
        except (OSError, asyncio.IncompleteReadError):
            await self.close()
            raise

    def _head(self, method: str, path: str, length: int, kind: str) -> bytes:
        cookie = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        lines = [f"{method} {path} HTTP/1.1", f"Host: {self.host}:{self.port}", "Accept-Encoding: gzip"]
        lines += [f"Cookie: {cookie}"] if cookie else []
        lines += [f"X-Bildung-Csrf: {self.csrf}"] if self.csrf else []
        lines += [f"Content-Type: {kind}"] if length else []
        return "\r\n".join([*lines, f"Content-Length: {length}", "", ""]).encode()

    async def _answer(self) -> tuple[int, Any]:
        status, headers = await self._headers()
        assert self._reader is not None
        if headers.get("transfer-encoding") == "chunked":
            data = b"".join([piece async for piece in self._chunks()])
        else:
            data = await self._reader.readexactly(int(headers.get("content-length", "0")))
        if headers.get("connection") == "close":
            await self.close()
        if headers.get("content-encoding") == "gzip":
            data = gzip.decompress(data)
        if data and "json" in headers.get("content-type", ""):
            return status, json.loads(data)
        return status, data

    async def _headers(self) -> tuple[int, dict[str, str]]:
        assert self._reader is not None
        head = (await self._reader.readuntil(b"\r\n\r\n")).decode("latin-1").split("\r\n")
        headers = {}
        for line in head[1:]:
            name, _, value = line.partition(":")
            if name.lower() == "set-cookie":
                cookie, _, said = value.strip().partition(";")[0].partition("=")
                self.cookies[cookie] = said
            headers[name.lower()] = value.strip()
        return int(head[0].split()[1]), headers

    async def _chunks(self) -> AsyncIterator[bytes]:
        assert self._reader is not None
        while True:
            size = int((await self._reader.readuntil(b"\r\n")).split(b";")[0], 16)
            piece = await self._reader.readexactly(size + 2)
            if not size:
                return
            yield piece[:-2]

    async def events(self, path: str) -> AsyncIterator[str]:
        """Names of events of a stream, as they come."""
        self._reader, self._writer = await asyncio.open_connection(self.host, self.port)
        self._writer.write(self._head("GET", path, 0, ""))
        await self._headers()
        async for piece in self._chunks():
            for line in piece.decode().split("\n"):
                if line.startswith("event: "):
                    yield line.removeprefix("event: ")

    async def close(self) -> None:
        if self._writer is not None:
            self._writer.close()
            with contextlib.suppress(OSError):
                await self._writer.wait_closed()
        self._reader = self._writer = None
