"""A server killed while answers are being sent: everything acknowledged is there after the restart."""

from __future__ import annotations

import contextlib
import json
import random
import threading
import time
import unittest
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx2 as httpx

from bildung.demo.files import archive, item_sheet, place
from bildung.demo.mathematics import draft_items
from tests.support import PASSWORD, Served, served_folder, small_roster

STUDENTS, ITEMS = 12, 8


def prepare(server: Served) -> tuple[str, list[str]]:
    """A session that is open now; returns its code and the students' own codes."""
    with httpx.Client(base_url=server.address, timeout=30) as client:
        token = client.post("/api/signin", json={"username": "boss", "password": PASSWORD}).raise_for_status().json()
        client.headers["x-bildung-csrf"] = token["csrf"]

        def bring(kind: str, name: str, data: bytes) -> None:
            made = client.post(f"/api/{kind}/imports", files=[("files", (name, data))]).raise_for_status().json()
            client.post(f"/api/{kind}/imports/{made['id']}/apply").raise_for_status()

        rng = random.Random(3)
        bring("people", "roster.zip", archive(small_roster(STUDENTS)))
        bring("bank", "items.csv", item_sheet(place(draft_items(rng, "6", ITEMS), "K", "Mathematics", "5", rng)))
        items = client.get("/api/bank/items").json()["items"]
        form = client.post("/api/forms", json={"name": "Kill"}).json()
        form = client.put(
            f"/api/forms/{form['id']}/items", json={"revision": 1, "items": [i["item"]["version_id"] for i in items]}
        ).json()
        client.post(f"/api/forms/{form['id']}/publish", json={"revision": form["revision"]}).raise_for_status()
        choices = client.get("/api/sessions/choices").json()
        klass = next(c["id"] for c in choices["classes"] if c["subject"] == "Mathematics")
        window = client.get("/api/calendar").json()["windows"][0]["id"]
        now = datetime.now(UTC)
        planned = {
            "form_id": form["id"],
            "window_id": window,
            "class_ids": [klass],
            "start": (now - timedelta(minutes=1)).isoformat(),
            "end": (now + timedelta(hours=1)).isoformat(),
            "why": "a test may run on any day",
        }
        made = client.post("/api/sessions", json=planned).raise_for_status().json()
        detail = client.get(f"/api/sessions/{made['ids'][0]}").json()
        return detail["session"]["code"], [s["code"] for s in detail["sittings"]]


ENOUGH = 150  # answers on their way before the server is killed


class Device(threading.Thread):
    """A student's device that answers without pause and remembers what was acknowledged."""

    def __init__(self, server: Served, session: str, code: str, stop: threading.Event) -> None:
        super().__init__()
        self.client = httpx.Client(base_url=server.address, timeout=10)
        token = (
            self.client.post("/api/sit/join", json={"session_code": session, "own_code": code})
            .raise_for_status()
            .json()
        )
        self.client.headers["x-bildung-csrf"] = token["csrf"]
        self.paper: Any = self.client.get("/api/sit/paper").json()
        self.stop_now = stop
        self.acknowledged: dict[str, str] = {}
        self.sent = 0

    def run(self) -> None:
        rng = random.Random(self.paper["sitting"])
        with contextlib.suppress(httpx.HTTPError):
            while not self.stop_now.is_set():
                self.sent += 1
                question = self.paper["questions"][self.sent % ITEMS]
                answer = rng.choice("ABCD") if question["shown"]["parts"][0]["type"] == "choice" else str(self.sent)
                message = {
                    "id": f"{self.paper['sitting']}-{self.sent:08d}",
                    "question": question["id"],
                    "answer": answer,
                    "takeover": self.paper["takeover"],
                    "sequence": self.sent,
                }
                receipt = self.client.post("/api/sit/answers", json={"answers": [message]}).raise_for_status().json()
                if receipt["acknowledged"]:
                    self.acknowledged[question["id"]] = answer
                    self.last = (question["id"], answer, self.sent)

    def present(self) -> dict[str, str]:
        return {
            q["id"]: q["answer"]
            for q in self.client.get("/api/sit/paper").raise_for_status().json()["questions"]
            if q["answer"]
        }


class Killed(unittest.TestCase):
    def test_all_acknowledged_answers_survive(self) -> None:
        with served_folder() as server:
            session, codes = prepare(server)
            stop = threading.Event()
            devices = [Device(server, session, code, stop) for code in codes]
            for round_ in range(2):
                stop.clear()
                if round_:
                    devices = [Device(server, session, code, stop) for code in codes]
                for device in devices:
                    device.start()
                deadline = time.monotonic() + 60
                while sum(device.sent for device in devices) <= ENOUGH and time.monotonic() < deadline:
                    time.sleep(0.02)
                server.kill()
                stop.set()
                for device in devices:
                    device.join()
                server.start()
                self.assertGreater(sum(device.sent for device in devices), ENOUGH)
                for device in devices:
                    present = device.present()
                    for question, answer in device.acknowledged.items():
                        # one more may have been written without its acknowledgement arriving
                        unheard = device.paper["questions"][device.sent % ITEMS]["id"]
                        if question != unheard:
                            self.assertEqual(present.get(question), answer, json.dumps(present))
                        else:
                            self.assertIn(question, present)
