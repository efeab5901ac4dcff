"""The whole application by two processes on one folder."""

from __future__ import annotations

import os
import signal
import threading
import time
import unittest

import httpx2 as httpx

from tests.api.shared.test_elsewhere import children
from tests.support import PASSWORD, Served, served_folder


def worker_of(answer: httpx.Response) -> int:
    return int(answer.headers["server-timing"].rpartition("=")[2])


class Two(unittest.TestCase):
    def client(self, server: Served, number: int) -> httpx.Client:
        """One whose connection goes to this worker."""
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            client = httpx.Client(base_url=server.address, timeout=20)
            try:
                if worker_of(client.get("/api/welcome")) == number:
                    self.addCleanup(client.close)
                    return client
            except httpx.TransportError:  # the process of this connection was just killed
                pass
            client.close()
        raise AssertionError(f"worker {number} answered nothing within a minute")

    def test_whichever_answers(self) -> None:
        with served_folder(workers=2) as server:
            first, second = self.client(server, 0), self.client(server, 1)
            signed_in = first.post("/api/signin", json={"username": "boss", "password": PASSWORD})
            signed_in.raise_for_status()
            second.cookies.update(first.cookies)
            for client in (first, second):
                client.headers["x-bildung-csrf"] = signed_in.json()["csrf"]
            with self.subTest("what one wrote the other reads"):
                first.post("/api/groups", json={"name": "Book club"}).raise_for_status()
                self.assertIn("Book club", second.get("/api/groups").text)
            with self.subTest("both write at once"):
                self.write_at_once(first, second)
            with self.subTest("failed tries count together"):
                for turn in range(8):
                    client = (first, second)[turn % 2]
                    last = client.post("/api/signin", json={"username": "boss", "password": "wrong"})
                self.assertEqual(last.status_code, 429)
            with self.subTest("one that was killed is begun anew; the other goes on"):
                (other,) = children(server)
                os.kill(other, signal.SIGKILL)
                try:
                    answer = first.get("/api/me")
                except httpx.TransportError:  # a new connection that the killed one had taken: the device asks again
                    answer = self.client(server, 0).get("/api/welcome")
                self.assertEqual(answer.status_code, 200)
                again = self.client(server, 1)
                again.cookies.update(first.cookies)
                self.assertEqual(again.get("/api/me").status_code, 200)
            with self.subTest("all end together, in time"):
                began = time.monotonic()
                server.stop()
                self.assertLess(time.monotonic() - began, 8)
                server.said.seek(0)
                self.assertEqual(server.said.read(), b"")

    def write_at_once(self, first: httpx.Client, second: httpx.Client) -> None:
        codes: list[int] = []

        def write(client: httpx.Client) -> None:
            codes.extend(
                client.put("/api/me/letter-keys", json={"on": bool(turn % 2)}).status_code for turn in range(30)
            )

        threads = [threading.Thread(target=write, args=(client,)) for client in (first, second)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(set(codes), {204})
        self.assertEqual(len(codes), 60)
