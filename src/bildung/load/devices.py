"""Students' devices and staff beside them, in a process of its own: reads what to do as JSON, prints what was measured.

`python -m bildung.load.devices < task.json`
"""

from __future__ import annotations

import asyncio
import itertools
import json
import os
import random
import sys
import time
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

from bildung.load.line import Line

AT_ONCE = 100  # connections that are being opened


@dataclass(kw_only=True)
class Task:
    """What to do. server: the process that is asked. sessions: id, code, codes of students. every: seconds between answers of one student. staff: names to
    sign in with, who open pages meanwhile; import_rows: of the roster that one of them imports."""

    port: int
    server: int
    sessions: list[tuple[int, str, list[str]]]
    seconds: float
    every: float
    password: str = ""
    staff: list[str] = field(default_factory=list)
    live: str = ""
    taken: tuple[int, int] = (0, 0)
    import_rows: int = 0
    submit: bool = True


@dataclass(kw_only=True)
class Measured:
    """Seconds. joins, saves: each of them. processor: that the server used while
    answers were sent. gap: the longest time from an answer that was acknowledged to the live page
    having it. errors: what went wrong, with how often. reconnects: connections that a device opened beyond its first."""

    joined: float = 0.0
    processor: float = 0.0
    joins: list[float] = field(default_factory=list)
    saves: list[float] = field(default_factory=list)
    submits: list[float] = field(default_factory=list)
    pages: list[float] = field(default_factory=list)
    gap: float = 0.0
    imported: float = 0.0
    reconnects: int = 0
    errors: dict[str, int] = field(default_factory=dict)

    def wrong(self, what: str) -> None:
        self.errors[what] = self.errors.get(what, 0) + 1


class Device:
    """One student's."""

    def __init__(self, task: Task, measured: Measured, session: str, code: str) -> None:
        self.line = Line("127.0.0.1", task.port)
        self.task, self.measured, self.session, self.code = task, measured, session, code
        self.random = random.Random(code)
        self.paper: Any = None
        self.sent = 0

    async def join(self, gate: asyncio.Semaphore) -> None:
        began = time.perf_counter()
        async with gate:
            status, answer = await self.line.send(
                "POST", "/api/sit/join", {"session_code": self.session, "own_code": self.code}
            )
            if status != 200:
                return self.measured.wrong(f"join {status} {str(answer)[:80]}")
            self.line.csrf = answer["csrf"]
            status, self.paper = await self.line.send("GET", "/api/sit/paper")
        if status != 200:
            return self.measured.wrong(f"paper {status}")
        self.measured.joins.append(time.perf_counter() - began)
        return None

    async def work(self) -> None:
        until = time.perf_counter() + self.task.seconds
        await asyncio.sleep(self.random.random() * self.task.every)
        while time.perf_counter() < until and self.paper:
            began = time.perf_counter()
            await self.answer()
            await asyncio.sleep(max(0.0, self.task.every - (time.perf_counter() - began)))

    async def answer(self) -> None:
        """One answer with the times of its item, as a page sends it."""
        self.sent += 1
        question = self.paper["questions"][self.sent % len(self.paper["questions"])]
        part = question["shown"]["parts"][0]
        text = self.random.choice("ABCD") if part["type"] == "choice" else str(self.sent)
        message = {
            "id": f"{self.code}-{self.sent:08d}",
            "question": question["id"],
            "answer": text,
            "takeover": self.paper["takeover"],
            "sequence": self.sent,
        }
        times = [{"question": question["id"], "milliseconds": 4000 + self.sent}]
        began = time.perf_counter()
        try:
            status, receipt = await self.line.send("POST", "/api/sit/answers", {"answers": [message], "times": times})
        except (OSError, asyncio.IncompleteReadError) as error:
            return self.measured.wrong(f"save {type(error).__name__}")
        self.measured.saves.append(time.perf_counter() - began)
        if status != 200 or receipt["acknowledged"] != [message["id"]]:
            self.measured.wrong(f"save {status} {str(receipt)[:80]}")
        return None

    async def submit(self) -> None:
        began = time.perf_counter()
        status, answer = await self.line.send("POST", "/api/sit/hand-in")
        self.measured.submits.append(time.perf_counter() - began)
        if status != 200 or answer["state"] != "handed_in":
            self.measured.wrong(f"submit {status} {str(answer)[:80]}")


async def _staff(task: Task, name: str, n: int, measured: Measured, until: float) -> None:
    """Opens one analysis after another and prints, with a second of looking at it; the last one imports a roster."""
    line = Line("127.0.0.1", task.port)
    status, answer = await line.send("POST", "/api/signin", {"username": name, "password": task.password})
    if status != 200:
        return measured.wrong(f"sign-in {status} {str(answer)[:80]}")
    line.csrf = answer["csrf"]
    if n == 0 and task.import_rows:
        await _import(line, task.import_rows, measured)
    form, window = task.taken
    scope = f"form={form}&window={window}"
    pages = [
        f"/api/quality/overview?{scope}",
        f"/api/quality/grid?{scope}",
        f"/api/quality/trust?{scope}",
        f"/api/quality/comparison?{scope}",
        f"/api/sessions?window={window}",
        f"/api/participation?window={window}",
        f"/api/participation/report.pdf?window={window}",
        "/api/today",
        "/api/bank/items",
    ]
    for page in itertools.islice(itertools.cycle(pages), n, None):
        if time.perf_counter() > until:
            return None
        began = time.perf_counter()
        try:
            status, answer = await line.send("GET", page)
        except (OSError, asyncio.IncompleteReadError) as error:
            measured.wrong(f"page {page.partition('?')[0]} {type(error).__name__}")
            continue
        measured.pages.append(time.perf_counter() - began)
        if status != 200:
            measured.wrong(f"page {page.partition('?')[0]} {status} {str(answer)[:60]}")
        await asyncio.sleep(1.0)
    return None


async def _import(line: Line, rows: int, measured: Measured) -> None:
    """A roster of so many people, looked at and applied."""
    users = ["sourcedId,status,enabledUser,orgSourcedIds,role,username,givenName,familyName,grades"]
    users += [f"new{n},active,true,L,student,,Given{n},Family{n % 89},06" for n in range(rows)]
    absent = ("orgs", "academicSessions", "courses", "classes", "enrollments")
    manifest = ["propertyName,value", "file.users,delta", *(f"file.{name},absent" for name in absent)]
    bound, data = "roster-of-the-load", b""
    for name, lines in (("manifest.csv", manifest), ("users.csv", users)):
        head = f'--{bound}\r\nContent-Disposition: form-data; name="files"; filename="{name}"\r\n\r\n'
        data += (head + "\n".join(lines) + "\r\n").encode()
    data += f"--{bound}--\r\n".encode()
    began = time.perf_counter()
    kind = f"multipart/form-data; boundary={bound}"
    status, made = await line.send("POST", "/api/people/imports", raw=data, kind=kind)
    if status == 200:
        status, made = await line.send("POST", f"/api/people/imports/{made['id']}/apply", {})
    if status != 200:
        measured.wrong(f"import {status} {str(made)[:120]}")
    measured.imported = time.perf_counter() - began


async def _live(task: Task, measured: Measured, until: float, acknowledged: list[float]) -> None:
    """A proctor's page that reads its session again whenever it is told that something moved."""
    session = task.sessions[0][0]
    line, stream = Line("127.0.0.1", task.port), Line("127.0.0.1", task.port)
    _, answer = await line.send("POST", "/api/signin", {"username": task.live, "password": task.password})
    line.csrf = answer["csrf"]
    stream.cookies = dict(line.cookies)

    async def watch() -> None:
        async for name in stream.events(f"/api/sessions/{session}/events"):
            if name == "moved":
                seen = len(acknowledged)
                await line.send("GET", f"/api/sessions/{session}")
                now = time.perf_counter()
                for at in acknowledged[:seen]:
                    measured.gap = max(measured.gap, now - at)
                del acknowledged[:seen]

    with_end = asyncio.create_task(watch())
    await asyncio.sleep(max(0.0, until - time.perf_counter()))
    with_end.cancel()
    await stream.close()


def processor_seconds(process: int) -> float:
    """That a process has used so far, with those of its own that have ended."""
    fields = Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()
    return sum(int(field) for field in fields[11:15]) / os.sysconf("SC_CLK_TCK")


async def run(task: Task) -> Measured:
    """All of it: everybody joins, answers, submits; staff and the live page beside them."""
    measured, gate = Measured(), asyncio.Semaphore(AT_ONCE)
    devices = [Device(task, measured, code, own) for _, code, owns in task.sessions for own in owns]
    began = time.perf_counter()
    await asyncio.gather(*(device.join(gate) for device in devices))
    measured.joined = time.perf_counter() - began
    until = time.perf_counter() + task.seconds
    acknowledged: list[float] = []
    beside = [_staff(task, name, n, measured, until) for n, name in enumerate(task.staff)]
    if task.live:
        beside.append(_live(task, measured, until, acknowledged))
    watched = set(task.sessions[0][2]) if task.live else set()

    async def noted(device: Device) -> None:
        if device.code in watched:
            plain = device.answer

            async def answer() -> None:
                await plain()
                acknowledged.append(time.perf_counter())

            device.answer = answer  # type: ignore[method-assign]
        await device.work()

    if task.seconds:
        used = processor_seconds(task.server)
        await asyncio.gather(*(noted(device) for device in devices), *beside)
        measured.processor = processor_seconds(task.server) - used
    if task.submit:
        await asyncio.gather(*(device.submit() for device in devices if device.paper))
    measured.reconnects = sum(device.line.opened - 1 for device in devices)
    return measured


if __name__ == "__main__":
    given = json.load(sys.stdin)
    print(json.dumps(asdict(asyncio.run(run(Task(**given))))))
