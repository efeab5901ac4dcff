"""Answers as devices send them: each is judged by itself, and nothing that one holds stops the others."""

from __future__ import annotations

import json
import unittest.mock

from sqlalchemy import select, update

from bildung.services.sessions import running
from bildung.services.sitting.saving import LONGEST_SHOWN
from bildung.store.models import ResponseEvent, SignIn, TimeOn
from tests.api.shared.test_access import ApiCase
from tests.api.shared.test_queries import counted


class Batches(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.student = self.client("student")
        self.questions = [q["id"] for q in self.student.get("/api/sit/paper").json()["questions"]]

    def send(self, *answers: object, **more: object) -> dict[str, object]:
        body = json.dumps({"answers": answers, **more})  # as a device does: half characters come as escapes
        answer = self.student.post("/api/sit/answers", content=body, headers={"content-type": "application/json"})
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def message(self, at: int, answer: str = "A", **more: object) -> dict[str, object]:
        return {
            "id": f"device-made-{at}",
            "question": self.questions[at],
            "answer": answer,
            "takeover": 1,
            "sequence": at + 1,
            **more,
        }

    def kept(self) -> list[str]:
        return [q["answer"] for q in self.student.get("/api/sit/paper").json()["questions"]]

    def test_a_sign_in_that_has_ended_keeps_nothing(self) -> None:
        self.send(self.message(0))
        self.ctx.store.write(lambda db: db.execute(update(SignIn).values(revoked_at=self.ctx.clock())))
        answer = self.student.post("/api/sit/answers", json={"answers": [self.message(1)]})
        self.assertEqual(answer.status_code, 401)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(ResponseEvent.id)).all(), ["device-made-0"])

    def test_a_page_that_is_out_of_date_keeps_nothing(self) -> None:
        headers = {"x-bildung-csrf": "another"}
        answer = self.student.post("/api/sit/answers", json={"answers": [self.message(0)]}, headers=headers)
        self.assertEqual((answer.status_code, self.kept()[0]), (403, ""))

    def test_what_is_not_sent_as_json_keeps_nothing(self) -> None:
        body = json.dumps({"answers": [self.message(0)]})
        for kind in ("text/plain", "application/x-www-form-urlencoded", ""):
            answer = self.student.post("/api/sit/answers", content=body, headers={"content-type": kind})
            self.assertEqual(answer.status_code, 422, kind)
        for wrong in ("{", "[" * 3000, '{"answers": 3}', "null"):
            answer = self.student.post("/api/sit/answers", content=wrong, headers={"content-type": "application/json"})
            self.assertEqual(answer.status_code, 422, wrong[:20])
        self.assertEqual(self.kept()[0], "")
        answer = self.student.post(
            "/api/sit/answers", content=body, headers={"content-type": "application/json; charset=utf-8"}
        )
        self.assertEqual((answer.status_code, self.kept()[0]), (200, "A"))

    def test_more_open_pages_than_the_server_bears_are_told_so_and_answers_go_on(self) -> None:
        with unittest.mock.patch("bildung.api.shared.events.MOST_LISTENING", 0):
            answer = self.student.get("/api/sit/events")
        self.assertEqual((answer.status_code, answer.headers["retry-after"]), (429, "60"))
        self.assertIn("too many pages are open at once", answer.json()["detail"])
        self.send(self.message(0))
        self.assertEqual(self.kept()[0], "A")

    def test_long_answers_of_the_server_are_compressed_and_receipts_are_not(self) -> None:
        asked = {"accept-encoding": "gzip"}
        self.assertEqual(self.student.get("/api/sit/paper", headers=asked).headers.get("content-encoding"), "gzip")
        body = {"answers": [self.message(0)]}
        receipt = self.student.post("/api/sit/answers", json=body, headers=asked)
        self.assertNotIn("content-encoding", receipt.headers)

    def test_the_next_answer_costs_the_same_however_many_there_are(self) -> None:
        def asked(at: int) -> int:
            with counted() as said:
                self.send(self.message(at % len(self.questions), id=f"device-made-{at}", sequence=at + 1))
            return len(said)

        first = asked(0)
        self.assertLessEqual(first, 9, "with beginning and committing")
        self.assertEqual({asked(at) for at in range(1, 9)}, {min(first, asked(9))})

    def test_one_that_cannot_be_kept_is_named_and_the_others_are_saved(self) -> None:
        for name, bad in {
            "too long": {"answer": "x" * 45_000},
            "half of a character": {"answer": "\ud83d"},
            "half of a character in its id": {"id": "device-made-\udc00"},
            "no text": {"answer": None},
            "no number": {"sequence": "first"},
            "another's question": {"question": "999999"},
            "a question that is none": {"question": "x" * 400},
            "beyond every count": {"sequence": 2**70},
            "before every count": {"sequence": 0},
            "another device": {"takeover": 7},
            "a device that never was": {"takeover": -1},
            "an id that is too long": {"id": "i" * 400},
        }.items():
            with self.subTest(name):
                message = self.message(1, **bad)
                receipt = self.send(self.message(0), message, self.message(2, "B"))
                self.assertEqual(receipt["acknowledged"], ["device-made-0", "device-made-2"])
                self.assertEqual([r["name"] for r in receipt["refused"]], [str(message["id"]).replace("\udc00", "?")])  # type: ignore[index,attr-defined]
        self.assertEqual(self.kept()[:3], ["A", "", "B"])

    def test_a_clock_that_runs_wild_costs_no_answer(self) -> None:
        times = [
            {"question": self.questions[0], "milliseconds": 9e15},
            {"question": self.questions[1], "milliseconds": -5},
            {"question": self.questions[2], "milliseconds": 1500.7},
            {"question": "none", "milliseconds": 3},
            {"milliseconds": 3},
            {"question": 5},
        ]
        receipt = self.send(self.message(0), times=times, reached=-3)
        self.assertEqual(receipt["acknowledged"], ["device-made-0"])
        with self.ctx.store.read() as db:
            found = {str(row.form_item_id): row.milliseconds for row in db.query(TimeOn)}
        self.assertEqual(found, {self.questions[0]: LONGEST_SHOWN, self.questions[1]: 0, self.questions[2]: 1500})

    def test_after_the_session_was_closed_each_is_refused_by_name(self) -> None:
        running.close(self.ctx, self.boss, self.session.id)
        receipt = self.send(self.message(0), self.message(1))
        self.assertEqual((receipt["acknowledged"], receipt["state"]), ([], "handed_in"))
        self.assertEqual(len(receipt["refused"]), 2)  # type: ignore[arg-type]
        self.assertEqual(self.student.get("/api/sit/standing").json()["state"], "handed_in")

    def test_a_disk_that_fills_up_is_told_in_a_sentence_and_the_same_answers_are_taken_once_there_is_room(self) -> None:
        writers = self.ctx.store._writers

        def most_pages(many: int) -> None:
            with writers.connect() as connection:
                connection.exec_driver_sql(f"PRAGMA max_page_count = {many}")

        with writers.connect() as connection:
            pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
        most_pages(pages)
        number, answer = 0, None
        with self.assertLogs("bildung", "ERROR"):
            while number < 2000 and (answer is None or answer.status_code == 200):
                number += 1
                message = {**self.message(0), "id": f"device-made-{number:040d}", "sequence": number}
                answer = self.student.post("/api/sit/answers", json={"answers": [message]})
        assert answer is not None
        self.assertEqual(answer.status_code, 503, answer.text)
        self.assertIn("the server's disk is full", answer.json()["detail"])
        self.assertEqual(self.student.get("/api/sit/standing").status_code, 200, "looking goes on")
        most_pages(1_000_000)
        again = self.student.post("/api/sit/answers", json={"answers": [message]})
        self.assertEqual(again.json()["acknowledged"], [message["id"]])
