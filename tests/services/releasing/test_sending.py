"""Results on their way to the records: sent twice they are there once, what changed goes again, a system that goes down loses nothing."""

from __future__ import annotations

import csv
import io
import json
import unittest
import zipfile
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Thread
from typing import Any, ClassVar

from bildung.services.corrections import making as correcting
from bildung.services.corrections.preview import preview
from bildung.services.releasing import making, sending
from bildung.services.shared.errors import Conflict, NotAllowed, NotFound
from bildung.services.shared.standins import Standins
from bildung.standins.beside import beside
from bildung.standins.records import Office, create_records, office_of
from bildung.store.models import Person, Sitting
from tests.services.corrections.test_making import CorrectionCase
from tests.support import small_roster


class SendingCase(CorrectionCase):
    office: Office

    def setUp(self) -> None:
        super().setUp()
        self.office = office_of(small_roster(self.SIZE), self.clock)
        running = beside(create_records(self.office))
        self.ctx.own(Standins).records = running.__enter__()
        self.addCleanup(running.__exit__, None, None, None)

    def page(self) -> sending.SendingPage:
        return sending.sending_page(self.ctx, self.boss, self.form, self.window_id)

    def send(self) -> sending.SendingLine:
        return sending.send_results(self.ctx, self.boss, self.form, self.window_id)


class Sending(SendingCase):
    def test_what_is_sent_twice_is_there_once_and_only_what_changed_goes_again(self) -> None:
        self.assertEqual(self.page().finding, "None of the 8 results has been sent to the records.")
        run = self.send()
        self.assertEqual((run.state, run.sent, run.refused, run.by), ("done", 8, 0, "Hanne Quill"))
        arrived = self.office.arrived
        self.assertEqual((len(arrived["lineItems"]), len(arrived["results"])), (1, 8))
        self.assertEqual(sorted(r["score"] for r in arrived["results"].values()), sorted(self.totals().values()))
        self.assertEqual(self.page().finding, "The records have all 8 results as they are now.")
        with self.assertRaisesRegex(Conflict, "have all of these results"):
            self.send()
        wish = self.wish("score", sitting=self.sittings()[0], points=1.0)
        correcting.correct(self.ctx, self.boss, wish, "Seen on paper.", preview(self.ctx, self.boss, wish).asof)
        page = self.page()
        self.assertEqual(page.finding, "1 result differs from what the records have.")
        self.assertEqual([(line.sent, line.score) for line in page.lines], [(True, 4.0)])
        puts = self.office.puts
        self.assertEqual(self.send().sent, 1)
        self.assertEqual(self.office.puts - puts, 3)  # category, test, result
        self.assertEqual(len(arrived["results"]), 8)

    def test_what_the_office_refuses_is_told_and_goes_the_next_time(self) -> None:
        student = next(iter(sorted(i for i in self.office.tables["users"] if "S" in i)))
        gone = self.office.tables["users"].pop(student)
        run = self.send()
        self.assertEqual((run.sent, run.refused), (7, 1))
        self.assertEqual(run.lines[0].why, f"there is no student {student}")
        self.office.tables["users"][student] = gone
        self.assertEqual((self.send().sent, self.page().unsent), (1, 0))

    def test_a_test_that_is_refused_is_told_once_and_not_with_each_result(self) -> None:
        (klass,) = {i["class"]["sourcedId"] for i in self._sent_tests()}
        gone = self.office.tables["classes"].pop(klass)
        self.office.arrived["lineItems"].clear()
        making.hold_back(self.ctx, self.boss, self.sittings()[0], "Later.")  # so that something moved
        wish = self.wish("key", key="C")
        correcting.correct(self.ctx, self.boss, wish, "Wrong.", preview(self.ctx, self.boss, wish).asof)
        run = self.send()
        self.assertEqual((run.sent, run.refused), (0, 7))
        self.assertEqual([line.why for line in run.lines], [f"there is no class {klass}"])
        self.office.tables["classes"][klass] = gone

    def _sent_tests(self) -> list[dict[str, Any]]:
        self.send()
        return list(self.office.arrived["lineItems"].values())

    def test_a_system_that_goes_down_in_the_middle_keeps_what_it_took(self) -> None:
        self.office.down_after = 5
        run = self.send()
        self.assertEqual((run.state, run.sent), ("failed", 3))
        self.assertIn(
            "The last sending stopped: the records system answered with status 503. 5 results still to send.",
            self.page().finding,
        )
        self.office.down_after = None
        self.assertEqual((self.send().sent, len(self.office.arrived["results"])), (5, 8))

    def test_absent_exempt_held_back_and_local_students(self) -> None:
        first, second, third, fourth, *_ = self.sittings()

        def change(db: Any) -> None:
            db.get_one(Sitting, first).state = "absent"
            db.get_one(Sitting, second).state = "exempt"
            db.get_one(Sitting, third).state = "void"
            person = db.get_one(Person, db.get_one(Sitting, fourth).person_id)
            person.source_id = "local:x"

        self.ctx.store.write(change)
        making.hold_back(self.ctx, self.boss, self.sittings()[4], "Later.")
        page = self.page()
        self.assertEqual(
            sorted((line.status, line.score) for line in page.lines if line.score is None),
            [("exempt", None), ("not submitted", None)],
        )
        self.assertEqual(
            (page.total, [u.why for u in page.unknown]), (5, ["the student was entered here and is not in the records"])
        )

    def test_only_coordinators_and_only_what_is_there(self) -> None:
        with self.assertRaises(NotAllowed):
            sending.sending_page(self.ctx, self.teacher, self.form, self.window_id)
        with self.assertRaises(NotFound):
            sending.sending_page(self.ctx, self.boss, 10**6, self.window_id)
        self.ctx.own(Standins).records = ""
        self.assertFalse(self.page().system)
        with self.assertRaisesRegex(Conflict, "no records system is set up"):
            self.send()


class Files(SendingCase):
    def test_the_files_are_those_of_the_standard(self) -> None:
        name, content = sending.as_files(self.ctx, self.boss, self.form, self.window_id)
        self.assertEqual(name, "Writing, Fall, gradebook.zip")
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            tables = {n: list(csv.DictReader(io.StringIO(archive.read(n).decode()))) for n in archive.namelist()}
        told = {row["propertyName"]: row["value"] for row in tables["manifest.csv"]}
        self.assertEqual((told["oneroster.version"], told["file.results"]), ("1.2", "bulk"))
        self.assertEqual(sorted(float(r["score"]) for r in tables["results.csv"]), sorted(self.totals().values()))
        tests = {r["sourcedId"]: r for r in tables["lineItems.csv"]}
        for row in tables["results.csv"]:
            self.assertEqual(tests[row["lineItemSourcedId"]]["classSourcedId"], row["classSourcedId"])
            self.assertEqual((row["scoreStatus"], row["missing"]), ("fully graded", "false"))
        categories = {r["sourcedId"] for r in tables["categories.csv"]}
        self.assertEqual({r["categorySourcedId"] for r in tests.values()}, categories)
        self.assertEqual({r["resultValueMax"] for r in tests.values()}, {"5"})


class Plain(BaseHTTPRequestHandler):
    """A receiver that shares no code with ours: it knows the standard's addresses and bodies only."""

    got: ClassVar[dict[str, dict[str, Any]]] = {}

    def do_POST(self) -> None:
        self._answer(200, {"access_token": "t", "token_type": "Bearer"})

    def do_PUT(self) -> None:
        body = json.loads(self.rfile.read(int(self.headers["content-length"])))
        parts = self.path.split("/")
        right = parts[1:5] == ["ims", "oneroster", "gradebook", "v1p2"] and self.headers["authorization"] == "Bearer t"
        one = body.get({"categories": "category", "lineItems": "lineItem", "results": "result"}.get(parts[5], ""))
        if not right or one is None or one["sourcedId"] != parts[6]:
            return self._answer(400, {"imsx_description": "not the standard"})
        self.got.setdefault(parts[5], {})[parts[6]] = one
        self._answer(201, {})

    def _answer(self, code: int, body: dict[str, Any]) -> None:
        self.rfile.read(int(self.headers["content-length"] or 0)) if self.command == "POST" else None
        text = json.dumps(body).encode()
        self.send_response(code)
        self.send_header("content-type", "application/json")
        self.send_header("content-length", str(len(text)))
        self.end_headers()
        self.wfile.write(text)

    def log_message(self, *said: Any) -> None:
        """Nothing."""


class Foreign(CorrectionCase):
    def test_a_receiver_that_was_written_from_the_standard_understands_it(self) -> None:
        server = ThreadingHTTPServer(("127.0.0.1", 0), Plain)
        Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        self.ctx.own(Standins).records = f"http://127.0.0.1:{server.server_port}"
        run = sending.send_results(self.ctx, self.boss, self.form, self.window_id)
        self.assertEqual((run.sent, run.refused, run.state), (8, 0, "done"))
        (test,) = Plain.got["lineItems"].values()
        self.assertEqual({r["lineItem"]["sourcedId"] for r in Plain.got["results"].values()}, {test["sourcedId"]})
        self.assertEqual({r["scoreStatus"] for r in Plain.got["results"].values()}, {"fully graded"})


if __name__ == "__main__":
    unittest.main()
