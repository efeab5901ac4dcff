"""Several web workers on one data folder: processes that answer whatever comes, beside the first.

They accept on the same socket, each with its own readers and writer of the store; what one must know of the others goes
through it (services/shared/sharing.py). The first does what the server does by itself: what is overdue, the night's work,
reports. One that dies is begun anew; when the first ends, all do.
"""

from __future__ import annotations

import contextlib
import multiprocessing
import os
import signal
import socket
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from bildung.services.shared.context import Context
from bildung.services.shared.sharing import SharedBus, Sharing
from bildung.services.shared.standins import Standins

AFTER = 1.0  # seconds between the end of a worker and the next
ENDS_WITHIN = 5.0  # seconds that a worker has when it is told to stop


@dataclass(frozen=True, kw_only=True)
class Serving:
    """How requests are answered. proxies: addresses whose forwarded headers are believed. tls: certificate with its chain
    and key, PEM. helpers: processes of each worker for heavy pages of staff, and one more for what they look at all the
    time; 0: none."""

    host: str
    port: int
    proxies: tuple[str, ...] = ()
    tls: tuple[Path | None, Path | None] | None = None
    helpers: int = 0


@contextlib.contextmanager
def sharing(ctx: Context) -> Iterator[None]:
    """Tell the other workers and hear them, as long as the block lasts."""
    looks = Sharing(ctx)
    looks.start()
    try:
        yield
    finally:
        looks.stop()


class Others:
    """The workers beside the first, each kept alive by a thread."""

    def __init__(self, ctx: Context, many: int, how: Serving, listening: socket.socket) -> None:
        self._ctx, self._how, self._socket = ctx, how, listening
        self._stopping = threading.Event()
        self._threads = [
            threading.Thread(target=self._keep, args=(number + 1,), name=f"worker {number + 1}", daemon=True)
            for number in range(many)
        ]
        for thread in self._threads:
            thread.start()

    def tell(self) -> None:
        """All end, while this one does: none waits for another."""
        self._stopping.set()

    def stop(self) -> None:
        """Tell all to end and wait for them."""
        self.tell()
        for thread in self._threads:
            thread.join(ENDS_WITHIN + 1)

    def _keep(self, number: int) -> None:
        spawn = multiprocessing.get_context("spawn")
        while not self._stopping.is_set():
            here, there = spawn.Pipe()
            told = self._ctx.own(Standins)
            process = spawn.Process(
                target=_work, args=(self._ctx.store.folder, number, self._how, self._socket, told, there)
            )
            process.start()
            there.close()
            while process.is_alive() and not self._stopping.is_set():
                process.join(0.2)
            here.close()  # which is how it is told
            process.join(ENDS_WITHIN)
            if process.is_alive():
                process.kill()
                process.join()
            self._stopping.wait(AFTER)


class Numbered:
    """Says which worker answered."""

    def __init__(self, app: ASGIApp, number: int) -> None:
        self.app, self._said = app, (b"server-timing", f"worker;desc={number}".encode())

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def numbered(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message["headers"], self._said]
            await send(message)

        await self.app(scope, receive, numbered if scope["type"] == "http" else send)


def _work(
    folder: Path, number: int, how: Serving, listening: socket.socket, standins: Standins, there: Connection
) -> None:
    """The process of one worker, until the first closes the pipe or dies."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl+C reaches all; the first says when to end
    from bildung.api.serve import run
    from bildung.store.store import Store

    def watch() -> None:
        with contextlib.suppress(EOFError, OSError):
            there.recv()
        os.kill(os.getpid(), signal.SIGTERM)
        time.sleep(ENDS_WITHIN)
        os._exit(1)

    ctx = Context(store=Store(folder), bus=SharedBus(), worker=number, shared=True)
    mine = ctx.own(Standins)
    mine.records, mine.provider = standins.records, standins.provider
    threading.Thread(target=watch, daemon=True).start()
    try:
        with sharing(ctx):
            run(ctx, how, listening)
    finally:
        ctx.store.close()
