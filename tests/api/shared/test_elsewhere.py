"""Pages of staff that are computed in processes beside the server: the same answers, and nobody waits for one that died."""

from __future__ import annotations

import asyncio
import json
import os
import signal
import time
import unittest
import unittest.mock
from pathlib import Path

import httpx2 as httpx

from bildung.api.elsewhere import BUSY, Elsewhere, lane_of
from tests.support import PASSWORD, Served, WorldCase, served_folder


class Lanes(unittest.TestCase):
    def test_what_students_and_writing_need_stays_where_it_is(self) -> None:
        for method, path in (
            ("POST", "/api/sit/answers"),
            ("GET", "/api/sit/paper"),
            ("GET", "/api/sessions/3/events"),
            ("PUT", "/api/sessions/3"),
            ("POST", "/api/quality/verdicts"),
            ("GET", "/api/quality/jobs/x"),
            ("GET", "/api/quality/reports/3/file"),
            ("GET", "/api/media/x"),
            ("GET", "/api/scoring/items/4"),  # it takes a response up
            ("GET", "/api/scoring/alerts"),
            ("GET", "/api/releases/forms/3/records"),  # the process beside does not know the stand-in's address
            ("GET", "/today"),
        ):
            self.assertIsNone(lane_of(method, path), path)

    def test_what_is_looked_at_all_the_time_does_not_wait_behind_an_analysis(self) -> None:
        for path in ("/api/today", "/api/sessions", "/api/sessions/12", "/api/scoring", "/api/quality/attempts/7"):
            self.assertEqual(lane_of("GET", path), "near", path)
        for path in (
            "/api/quality",
            "/api/quality/trust",
            "/api/participation/report.pdf",
            "/api/bank/items/7",
            "/api/scoring/items/4/agreement",
        ):
            self.assertEqual(lane_of("GET", path), "far", path)


class Twice(WorldCase):
    def test_what_waits_is_shared_and_what_has_begun_is_not(self) -> None:
        elsewhere = Elsewhere(self.ctx, 1)
        self.addCleanup(elsewhere.stop)
        scope = {"path": "/api/today", "query_string": b"", "headers": [(b"cookie", b"one")]}
        other = scope | {"headers": [(b"cookie", b"another")]}

        async def ask() -> list[int]:
            asked, waiting = [], []
            for wanted in (scope, scope, other):
                asked.append(asyncio.create_task(elsewhere.ask("near", wanted)))
                await asyncio.sleep(0)
                waiting.append(elsewhere.waiting())
            for answer in list(elsewhere._asked.values()):
                answer.set_running_or_notify_cancel()  # a process has begun
            asked.append(asyncio.create_task(elsewhere.ask("near", scope)))
            await asyncio.sleep(0)
            waiting.append(elsewhere.waiting())
            for one in asked:
                one.cancel()
            await asyncio.gather(*asked, return_exceptions=True)
            return waiting

        self.assertEqual(asyncio.run(ask()), [1, 1, 2, 3], "the last one reads what was written since")

    def test_more_than_a_lane_holds_is_told_so_at_once(self) -> None:
        with unittest.mock.patch("bildung.api.elsewhere.MOST_WAITING", 1):
            elsewhere = Elsewhere(self.ctx, 1)
        self.addCleanup(elsewhere.stop)

        async def ask() -> tuple[int, bytes]:
            scope = {"path": "/api/quality", "query_string": b"", "headers": []}
            waits = asyncio.create_task(elsewhere.ask("far", scope))
            await asyncio.sleep(0)
            status, _, body = await elsewhere.ask("far", scope | {"query_string": b"window=2"})
            waits.cancel()
            await asyncio.gather(waits, return_exceptions=True)
            return status, body

        status, body = asyncio.run(ask())
        self.assertEqual((status, json.loads(body)["detail"]), (503, BUSY))


def children(server: Served) -> list[int]:
    """Processes that a server has begun."""
    assert server.process is not None
    found = []
    for stat in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = stat.read_text().rpartition(")")[2].split()
        except OSError:  # it has ended meanwhile
            continue
        if int(fields[1]) == server.process.pid and "spawn_main" in (stat.parent / "cmdline").read_text():
            found.append(int(stat.parent.name))
    return found


class Beside(unittest.TestCase):
    def elsewhere(self, client: httpx.Client, path: str) -> httpx.Response:
        """The answer of a process, once there is one."""
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            answer = client.get(path)
            if "server-timing" in answer.headers and answer.status_code != 503:
                return answer
        raise AssertionError("no process answered within a minute")

    def test_the_same_answers_and_a_new_process_where_one_was_killed(self) -> None:
        with served_folder(helpers=1) as server, httpx.Client(base_url=server.address, timeout=30) as client:
            signed_in = client.post("/api/signin", json={"username": "boss", "password": PASSWORD})
            client.headers["x-bildung-csrf"] = signed_in.json()["csrf"]
            pages = ("/api/today", "/api/sessions?window=1", "/api/bank/items", "/api/participation?window=999")
            here = {path: client.get(path) for path in pages}
            for path, first in here.items():
                there = self.elsewhere(client, path)
                self.assertEqual((there.status_code, there.json()), (first.status_code, first.json()), path)
                self.assertEqual(there.headers["content-security-policy"], first.headers["content-security-policy"])
            before = children(server)
            self.assertGreaterEqual(len(before), 2)
            for process in before:
                os.kill(process, signal.SIGKILL)
            answer = client.get("/api/today")
            if answer.status_code == 503:
                self.assertEqual(answer.json()["detail"], "the work on this page was interrupted; try again")
            self.assertEqual(client.get("/api/calendar").status_code, 200, "what is answered here goes on")
            self.assertEqual(self.elsewhere(client, "/api/today").status_code, 200)
            self.assertFalse(set(children(server)) & set(before))
            client.post("/api/signout").raise_for_status()
            self.assertEqual(self.elsewhere(client, "/api/today").status_code, 401)
