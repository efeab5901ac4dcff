"""Heavy reading goes elsewhere: pages of staff are computed in processes of lower priority, beside the one that students
save in.

The server hands a whole request to a process that runs the same application on a snapshot of the same data folder, and
passes its answer on. Two lanes: what somebody looks at all the time (sessions, Today) never waits behind an analysis.
"""

from __future__ import annotations

import asyncio
import contextlib
import gc
import itertools
import json
import multiprocessing
import multiprocessing.process
import os
import queue
import re
import signal
import threading
from concurrent.futures import Future
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from bildung.services.shared.bus import Bus
from bildung.services.shared.context import Context
from bildung.services.shared.jobs import Job, RunningJobs

NICE = 5  # less urgent than the process that students save in
LOOK = 0.2  # seconds between looks at how far the work is and whether somebody stopped it
AFTER = 1.5  # seconds that a process is begun after the server, which is to answer first, and after one that failed
MOST_WAITING = 200  # requests of one lane
LANES = {
    "near": re.compile(r"/api/(today|sessions|scoring|quality/attempts)(/\d+)?"),
    "far": re.compile(
        r"/api/(quality(?!/(jobs|reports|sample|answers-file))(/.*)?|participation(/.*)?|bank/(items|health|standards).*|scoring/items/\d+/agreement|corrections(/preview)?|releases(/forms/\d+)?|people|classes|rosters/check|mastery(/.*)?|growth|growth/measures/\d+/(pair|cuts|report\.\w+|occasions/.*|students/.*)|growth/reflections(/.*)?)"
    ),
}
FIRST = re.compile(r"/api/sessions/\d+")  # before all others: a proctor's page while students work
BUSY = "the server is busy with other pages; try again in a minute"
BROKEN = "the work on this page was interrupted; try again"

Answer = tuple[int, list[tuple[bytes, bytes]], bytes]


def lane_of(method: str, path: str) -> str | None:
    """Where a request is answered; None: here."""
    if method != "GET":
        return None
    return next((lane for lane, paths in LANES.items() if paths.fullmatch(path)), None)


@dataclass(order=True)
class _Asked:
    """In the order in which they are begun. scope: what of it a process needs. answer: once it is there."""

    later: bool
    number: int
    scope: dict[str, Any] = field(compare=False)
    answer: Future[Answer] = field(default_factory=Future, compare=False)


class Elsewhere:
    """The processes of one server."""

    def __init__(self, ctx: Context, many: int) -> None:
        """many: processes for analyses; one more is for what is looked at all the time."""
        self._ctx = ctx
        self._stopping = threading.Event()
        self._ready = dict.fromkeys(LANES, 0)
        self._waiting = {lane: queue.PriorityQueue[_Asked](MOST_WAITING) for lane in LANES}
        self._numbers = itertools.count()
        self._asked: dict[tuple[Any, ...], Future[Answer]] = {}
        self._running: set[multiprocessing.process.BaseProcess] = set()
        self._threads = [
            threading.Thread(target=self._keep, args=(lane,), name=f"elsewhere {lane}", daemon=True)
            for lane, count in (("near", 1), ("far", many))
            for _ in range(count)
        ]
        for thread in self._threads:
            thread.start()

    def waiting(self) -> int:
        """Requests that no process has begun."""
        return sum(lane.qsize() for lane in self._waiting.values())

    def ready(self, lane: str) -> bool:
        """Whether a process of this lane is there; until then the server answers by itself."""
        return self._ready[lane] > 0

    async def ask(self, lane: str, scope: Scope) -> Answer:
        """The answer of a process."""
        names = (
            "type",
            "http_version",
            "method",
            "scheme",
            "path",
            "raw_path",
            "query_string",
            "headers",
            "client",
            "server",
        )
        plain = {name: scope.get(name) for name in names} | {"root_path": "", "asgi": {"version": "3.0"}}
        said = dict(scope["headers"])
        key = (scope["path"], scope["query_string"], said.get(b"cookie"), said.get(b"if-none-match"))
        answer = self._asked.get(key)
        # what the same person asks for twice at once is computed once; what has begun may be older than what they did since
        if answer is None or answer.running() or answer.done():
            asked = _Asked(FIRST.fullmatch(scope["path"]) is None, next(self._numbers), plain)
            try:
                self._waiting[lane].put_nowait(asked)
            except queue.Full:
                return _problem(BUSY)
            answer = self._asked[key] = asked.answer
            answer.add_done_callback(lambda done: self._forget(key, done))
        return await asyncio.shield(asyncio.wrap_future(answer))

    def _forget(self, key: tuple[Any, ...], answer: Future[Answer]) -> None:
        if self._asked.get(key) is answer:
            del self._asked[key]

    def stop(self) -> None:
        """End the processes; what they were at is told so."""
        self._stopping.set()
        for _ in self._threads:
            for lane in self._waiting.values():
                with contextlib.suppress(queue.Full):
                    lane.put_nowait(_Asked(False, -1, {}))
        for process in list(self._running):  # one that is still reading its libraries would be waited for
            process.terminate()
        for thread in self._threads:
            thread.join(3)

    def _keep(self, lane: str) -> None:
        """One process after the other: a new one where one has ended."""
        self._stopping.wait(AFTER)
        while not self._stopping.is_set():
            here, there = multiprocessing.get_context("spawn").Pipe()
            process = multiprocessing.get_context("spawn").Process(
                target=_work, args=(self._ctx.store.folder, there), daemon=True
            )
            process.start()
            self._running.add(process)
            there.close()
            try:
                if self._stopping.is_set():
                    return
                here.recv()  # it has read what it needs
                self._ready[lane] += 1
                try:
                    self._serve(lane, here)
                finally:
                    self._ready[lane] -= 1
            except (OSError, EOFError):
                self._stopping.wait(AFTER)
            finally:
                here.close()
                process.terminate()
                process.join(2)
                self._running.discard(process)

    def _serve(self, lane: str, here: Connection) -> None:
        """Until the process ends, or the server does."""
        while not self._stopping.is_set():
            asked = self._waiting[lane].get()
            if not asked.scope:
                return
            if not asked.answer.set_running_or_notify_cancel():
                continue
            try:
                here.send(asked.scope)
                asked.answer.set_result(self._heard(here))
            except (OSError, EOFError):
                asked.answer.set_result(_problem(BROKEN))
                return

    def _heard(self, here: Connection) -> Answer:
        mirrored: dict[tuple[int, str], Job] = {}
        running = self._ctx.own(RunningJobs).named
        try:
            while True:
                if self._stopping.is_set():
                    return _problem(BROKEN)
                for key, job in mirrored.items():
                    if job.stopped:
                        here.send(key)
                if not here.poll(LOOK):
                    continue
                what, value = here.recv()
                if what == "answer":
                    answer: Answer = value
                    return answer
                if what == "told":
                    self._ctx.bus.publish(*value)
                else:
                    key, said, done, total = value
                    job = mirrored.setdefault(key, Job(person_id=key[0]))
                    job.what, job.done, job.total = said, done, total
                    running[key] = job
        finally:
            for key in mirrored:
                running.pop(key, None)


class Shipped:
    """Hands requests that are answered elsewhere over; all others go on to the application."""

    def __init__(self, app: ASGIApp, elsewhere: Elsewhere) -> None:
        self.app, self.elsewhere = app, elsewhere

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        lane = lane_of(scope["method"], scope["path"]) if scope["type"] == "http" else None
        if lane is None or not self.elsewhere.ready(lane):
            await self.app(scope, receive, send)
            return
        status, headers, body = await self.elsewhere.ask(lane, scope)
        headers = [*headers, (b"server-timing", f"elsewhere;desc={lane}".encode())]
        await send({"type": "http.response.start", "status": status, "headers": headers})
        await send({"type": "http.response.body", "body": body})


def _problem(says: str) -> Answer:
    body = json.dumps({"type": "about:blank", "title": "Busy", "status": 503, "detail": says, "place": ""}).encode()
    headers = [(b"content-type", b"application/problem+json"), (b"content-length", str(len(body)).encode())]
    return 503, headers, body


class _Relay(Bus):
    """Tells the server what is published in a process beside it."""

    def __init__(self, tell: Any) -> None:
        super().__init__()
        self._tell = tell

    def publish(self, topic: str, message: dict[str, Any]) -> None:
        self._tell("told", (topic, message))


def _work(folder: Path, there: Connection) -> None:
    """The process beside the server."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    with contextlib.suppress(OSError):
        os.nice(NICE)
    from bildung.api.app import create_app
    from bildung.services.quality.lines import LinesAtHand, keep_asked
    from bildung.store.store import Store

    lock = threading.Lock()

    def tell(what: str, value: Any) -> None:
        with lock:
            there.send((what, value))

    ctx = Context(store=Store(folder), bus=_Relay(tell))
    app = create_app(ctx)
    scopes: queue.SimpleQueue[dict[str, Any] | None] = queue.SimpleQueue()

    def listen() -> None:
        """What is asked, and which jobs are to stop."""
        while True:
            try:
                said = there.recv()
            except (EOFError, OSError):
                scopes.put(None)
                return
            if isinstance(said, dict):
                scopes.put(said)
            elif job := ctx.own(RunningJobs).named.get(said):
                job.stop()

    def watch(done: threading.Event) -> None:
        while not done.wait(LOOK):
            for key, job in list(ctx.own(RunningJobs).named.items()):
                tell("job", (key, job.what, job.done, job.total))

    threading.Thread(target=listen, daemon=True).start()
    # a page makes a hundred thousand rows that all stay until it is there: what is gone is looked for between pages
    gc.freeze()
    gc.disable()
    tell("ready", None)
    with asyncio.Runner() as runner:
        while (scope := scopes.get()) is not None:
            done = threading.Event()
            watching = threading.Thread(target=watch, args=(done,), daemon=True)
            watching.start()
            answer = runner.run(_answer(app, scope))
            done.set()
            watching.join()
            tell("answer", answer)
            del answer
            gc.collect()
            # what was judged anew is kept, as the server does with what it judges itself
            if ctx.own(LinesAtHand).asked:
                keep_asked(ctx)
    ctx.store.close()


async def _answer(app: ASGIApp, scope: dict[str, Any]) -> Answer:
    status, headers, pieces = 500, list[tuple[bytes, bytes]](), list[bytes]()

    async def receive() -> Message:
        return {"type": "http.request", "body": b"", "more_body": False}

    async def send(message: Message) -> None:
        nonlocal status, headers
        if message["type"] == "http.response.start":
            status, headers = message["status"], [(bytes(name), bytes(value)) for name, value in message["headers"]]
        elif message["type"] == "http.response.body":
            pieces.append(message.get("body", b""))

    await app(scope, receive, send)
    return status, headers, b"".join(pieces)
