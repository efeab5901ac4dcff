"""A server that starts while students are at work."""

from __future__ import annotations

import logging
import signal
import threading
import unittest
from unittest import mock

from fastapi.testclient import TestClient

from bildung.api import app
from tests.support import WorldCase


class StudentsFirst(WorldCase):
    def test_students_are_answered_while_staff_wait(self) -> None:
        may_go_on, read = threading.Event(), app._staff_part
        asked: list[int] = []

        def slowly() -> object:
            may_go_on.wait(30)
            return read()

        with (
            mock.patch.object(app, "_staff_part", slowly),
            TestClient(app.create_app(self.ctx, students_first=True)) as client,
        ):
            waiting = threading.Thread(target=lambda: asked.append(client.get("/api/welcome").status_code))
            waiting.start()
            self.assertEqual(client.get("/api/sit/paper").status_code, 401)
            self.assertEqual(client.get("/join").status_code, 200)
            self.assertEqual(asked, [])
            may_go_on.set()
            waiting.join(30)
            self.assertEqual(asked, [200])
            self.assertEqual(client.get("/api/today").status_code, 401)
            self.assertEqual(client.get("/api/nowhere").status_code, 404)

    def test_a_server_that_cannot_serve_staff_ends(self) -> None:
        told = threading.Event()
        with (
            mock.patch.object(app, "_staff_part", side_effect=ImportError("no such library")),
            mock.patch.object(signal, "raise_signal", lambda number: told.set()),
            self.assertLogs(logging.getLogger("bildung"), "ERROR") as logged,
            TestClient(app.create_app(self.ctx, students_first=True)),
        ):
            self.assertTrue(told.wait(30))
        self.assertIn("no such library", logged.output[0])


if __name__ == "__main__":
    unittest.main()
