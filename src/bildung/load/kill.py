"""The server killed at random while devices save; what was acknowledged is counted against the store."""

from __future__ import annotations

import asyncio
import contextlib
import random
import sqlite3
import tempfile
import time
from dataclasses import dataclass, field
from pathlib import Path

from bildung.load.bench import at
from bildung.load.devices import Device, Measured, Task
from bildung.load.school import make_school
from bildung.load.served import Served

DEVICES = 60
LEAST, MOST = 0.2, 1.5  # seconds between a start and a kill


@dataclass(kw_only=True)
class Killed:
    """Over all kills: answers acknowledged, those of them that the store lacks, messages that it has twice, answers whose present
    value is not that of their newest event; seconds of each start to the first page, and to the first answer acknowledged."""

    kills: int = 0
    acknowledged: int = 0
    lost: int = 0
    doubled: int = 0
    stale: int = 0
    starts: list[float] = field(default_factory=list)
    firsts: list[float] = field(default_factory=list)
    errors: dict[str, int] = field(default_factory=dict)


class Saver(Device):
    """Saves without pause, sends again what was not acknowledged, and remembers what was."""

    def __init__(self, task: Task, session: str, code: str) -> None:
        super().__init__(task, Measured(), session, code)
        self.acknowledged: set[str] = set()
        self.waiting: list[dict[str, object]] = []

    def next(self) -> dict[str, object]:
        """A new answer."""
        self.sent += 1
        question = self.paper["questions"][self.sent % len(self.paper["questions"])]
        choice = question["shown"]["parts"][0]["type"] == "choice"
        return {
            "id": f"{self.code}-{self.sent:08d}",
            "question": question["id"],
            "answer": self.random.choice("ABCD") if choice else str(self.sent),
            "takeover": self.paper["takeover"],
            "sequence": self.sent,
        }

    async def save_on(self, until: asyncio.Event, heard: list[float]) -> None:
        """Until told to stop, over any number of failures."""
        while not until.is_set():
            if not self.waiting:
                self.waiting = [self.next()]
            try:
                status, receipt = await self.line.send("POST", "/api/sit/answers", {"answers": self.waiting})
            except (OSError, asyncio.IncompleteReadError):
                await asyncio.sleep(0.02)
                continue
            if status != 200 or receipt["refused"]:
                self.measured.wrong(f"{status} {str(receipt)[:80]}")
                return
            heard.append(time.monotonic())
            self.acknowledged.update(receipt["acknowledged"])
            self.waiting = []


async def _drive(server: Served, savers: list[Saver], kills: int, found: Killed) -> None:
    gate = asyncio.Semaphore(20)
    await asyncio.gather(*(saver.join(gate) for saver in savers))
    until, heard, rng = asyncio.Event(), list[float](), random.Random(1)
    working = [asyncio.create_task(saver.save_on(until, heard)) for saver in savers]
    for _ in range(kills):
        await asyncio.sleep(rng.uniform(LEAST, MOST))
        await asyncio.to_thread(server.kill)
        heard.clear()
        began = time.monotonic()
        found.starts.append(await asyncio.to_thread(server.start))
        while not heard and time.monotonic() - began < 30:
            await asyncio.sleep(0.01)
        found.firsts.append((heard[0] if heard else time.monotonic()) - began)
        found.kills += 1
    until.set()
    await asyncio.gather(*working)


def kill(kills: int, students: int = DEVICES) -> Killed:
    """Kill it so often; the server is one process on one data folder throughout."""
    found = Killed()
    with tempfile.TemporaryDirectory(prefix="bildung-kill-") as name:
        folder = Path(name)
        school = make_school(folder, students)
        server = Served(folder, helpers=0)  # what saves is killed, not what computes pages
        server.start()
        assert server.process is not None
        task = Task(port=server.port, server=server.process.pid, sessions=school.sessions, seconds=0, every=0)
        savers = [Saver(task, code, own) for _, code, owns in school.sessions for own in owns]
        try:
            asyncio.run(_drive(server, savers, kills, found))
        finally:
            server.stop()
        _count(folder, savers, found)
    return found


def _count(folder: Path, savers: list[Saver], found: Killed) -> None:
    """By the tables alone."""
    with contextlib.closing(sqlite3.connect(folder / "bildung.sqlite")) as store:
        ids = {row[0] for row in store.execute("SELECT id FROM response_event")}
        twice = store.execute(
            "SELECT count(*) FROM (SELECT 1 FROM response_event GROUP BY sitting_id, takeover, sequence HAVING count(*) > 1)"
        ).fetchone()
        stale = store.execute(
            "SELECT count(*) FROM response r WHERE EXISTS (SELECT 1 FROM response_event e WHERE e.sitting_id = r.sitting_id"
            " AND e.form_item_id = r.form_item_id AND (e.takeover, e.sequence) > (r.takeover, r.sequence))"
        ).fetchone()
    for saver in savers:
        found.acknowledged += len(saver.acknowledged)
        found.lost += len(saver.acknowledged - ids)
        for what, count in saver.measured.errors.items():
            found.errors[what] = found.errors.get(what, 0) + count
    found.doubled, found.stale = int(twice[0]), int(stale[0])


def show(kills: int) -> int:
    """Print what came of it; 1 where anything was lost or doubled."""
    found = kill(kills)
    print(
        f"killed {found.kills} times while {DEVICES} devices saved: {found.acknowledged:,} answers acknowledged, "
        f"{found.lost} lost, {found.doubled} doubled, {found.stale} not the newest"
    )
    for what, took in (("the server answered", found.starts), ("the first answer was saved", found.firsts)):
        spread = [at(took, share) for share in (0.5, 0.95, 1.0)]
        print(
            f"  {what} after a restart within {spread[0]:.1f} s (median), {spread[1]:.1f} s (95%), {spread[2]:.1f} s (most)"
        )
    for what, count in found.errors.items():
        print(f"  went wrong {count} times: {what}")
    return 1 if found.lost or found.doubled or found.stale or found.errors else 0
