"""A simulated class: students' devices at work in a session, in a process of its own, so that a session can be watched.

`python -m bildung.standins.classroom < class.json`. Each student has answers of their own, prepared by whoever knows how able
they are; here they are only given, with pauses, a trip to the restroom, a question to the proctor, outages, and one device that
dies. It speaks to the server as any device does.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import random
import sys
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

import httpx2 as httpx

READY = 60.0  # seconds that the server may take to start
HERE = 60.0  # seconds between signs of a device
LOOK = 5.0  # seconds between looks at whether the room stands still


@dataclass(frozen=True, kw_only=True)
class SimulatedStudent:
    """code: to sign in with. answers: by question, in the order given. caught_up: how many of them are there already when it
    joins. joins: after so many seconds. pace: seconds for a question, about. habits: help, restroom, away (leaves the page),
    outage, dies; each comes once, somewhere in the middle. submits: at the end."""

    code: str
    answers: dict[str, str]
    caught_up: int = 0
    joins: float = 0.0
    pace: float = 20.0
    habits: Sequence[str] = field(default_factory=tuple)
    submits: bool = True


@dataclass(frozen=True, kw_only=True)
class SimulatedClass:
    """address: of the server. code: of the session. speed: how many seconds pass in one."""

    address: str
    code: str
    students: Sequence[SimulatedStudent]
    seed: int = 1
    speed: float = 1.0

    @classmethod
    def read(cls, text: str) -> SimulatedClass:
        """From its JSON."""
        plain = json.loads(text)
        students = [SimulatedStudent(**{**s, "habits": tuple(s["habits"])}) for s in plain["students"]]
        return cls(**{**plain, "students": students})

    def write(self) -> str:
        """As JSON."""
        return json.dumps(asdict(self))


class Device:
    """One student at one device."""

    def __init__(self, klass: SimulatedClass, student: SimulatedStudent, rng: random.Random) -> None:
        self._class, self._student, self._rng = klass, student, rng
        self._client = httpx.AsyncClient(base_url=klass.address, timeout=30)
        self._paper: dict[str, Any] = {}
        self._sequence = 0

    async def work(self) -> None:
        """From joining to submitting; a server that has gone, or a session that is closed, ends it."""
        with contextlib.suppress(httpx.HTTPError, KeyError, ValueError):
            async with self._client:
                await self._wait(self._student.joins)
                await self._join()
                here = asyncio.create_task(self._be_here())
                try:
                    await self._answer_all()
                finally:
                    here.cancel()

    async def _wait(self, seconds: float) -> None:
        await asyncio.sleep(seconds / self._class.speed)

    async def _join(self) -> None:
        codes = {"session_code": self._class.code, "own_code": self._student.code}
        answer = await self._client.post("/api/sit/join", json=codes)
        answer.raise_for_status()
        self._client.headers["x-bildung-csrf"] = answer.json()["csrf"]
        self._paper = (await self._client.get("/api/sit/paper")).raise_for_status().json()
        self._sequence = self._paper["sequence"]

    async def _be_here(self) -> None:
        while True:
            await self._wait(HERE)
            with contextlib.suppress(httpx.HTTPError):
                await self._sign("here")

    async def _sign(self, kind: str, seconds: int = 0) -> None:
        await self._client.post("/api/sit/sign", json={"kind": kind, "seconds": seconds})

    async def _answer_all(self) -> None:
        questions = [q["id"] for q in self._paper["questions"]]
        when = {
            self._rng.randrange(self._student.caught_up, max(self._student.caught_up + 1, len(questions))): habit
            for habit in self._student.habits
        }
        for at, question in enumerate(questions):
            if at >= self._student.caught_up:
                await self._think(question)
                if at in when and not await self._habit(when[at]):
                    return
            if question in self._student.answers:
                await self._send(question, self._student.answers[question])
        if self._student.submits:
            await self._wait(self._student.pace)
            await self._client.post("/api/sit/hand-in")

    async def _think(self, question: str) -> None:
        """About a question; not while the room stands still."""
        await self._wait(self._student.pace * self._rng.uniform(0.4, 1.8))
        while (await self._client.get("/api/sit/standing")).raise_for_status().json()["room"]["paused"]:
            await self._wait(LOOK)

    async def _habit(self, habit: str) -> bool:
        """Whether the device goes on afterwards."""
        pace = self._student.pace
        if habit == "help":
            await self._sign("help")
            await self._wait(3 * pace)
        elif habit == "restroom":
            await self._sign("restroom")
            await self._wait(8 * pace)
            await self._sign("back")
        elif habit == "away":
            await self._wait(pace)
            await self._sign("left", round(pace))
        elif habit == "outage":
            await self._client.aclose()
            await self._wait(12 * pace)
            self._client = httpx.AsyncClient(base_url=self._class.address, timeout=30)
            await self._join()
        return habit != "dies"

    async def _send(self, question: str, answer: str) -> None:
        self._sequence += 1
        message = {
            "id": f"{self._rng.getrandbits(128):032x}",
            "question": question,
            "answer": answer,
            "takeover": self._paper["takeover"],
            "sequence": self._sequence,
        }
        sent = {"answers": [message], "reached": 0, "times": []}
        await self._client.post("/api/sit/answers", json=sent)


async def run(klass: SimulatedClass) -> None:
    """All of them at once, as soon as the server answers."""
    async with httpx.AsyncClient(base_url=klass.address, timeout=5) as client:
        for _ in range(int(READY / 0.2)):
            with contextlib.suppress(httpx.HTTPError):
                if (await client.get("/api/welcome")).status_code == 200:
                    break
            await asyncio.sleep(0.2)
        else:
            return
    devices = [Device(klass, student, random.Random(f"{klass.seed} {student.code}")) for student in klass.students]
    await asyncio.gather(*(device.work() for device in devices))


if __name__ == "__main__":
    with contextlib.suppress(KeyboardInterrupt, BrokenPipeError):
        asyncio.run(run(SimulatedClass.read(sys.stdin.read())))
