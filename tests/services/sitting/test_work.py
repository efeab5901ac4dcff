"""What is made beside answers, when each item was looked at, when a test can be submitted, and tests taken on paper."""

from __future__ import annotations

import struct
import unittest
from datetime import timedelta

from bildung.core.school.timing import brief_until
from bildung.services.sessions import running
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.sitting import saving, taking
from bildung.services.sitting.events import Answer
from bildung.services.sitting.saving import Message
from bildung.services.sitting.visits import SIZE, Visit, pack_visits, read_visits, visits_of
from tests.services.sessions.test_room import RoomCase


class Beside(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.question = taking.paper(self.ctx, self.first).questions[0].id

    def beside(self, about: str, content: str, sequence: int, id: str = "") -> Answer:
        return Answer(
            id=id or f"beside-{about}-{sequence}",
            question=self.question,
            answer=content,
            takeover=self.first.takeover,
            sequence=sequence,
            about=about,
        )

    def shown(self) -> tuple[str, str, str]:
        question = taking.paper(self.ctx, self.first).questions[0]
        return question.answer, question.notes, question.sketch

    def test_notes_and_sketches_are_kept_beside_the_answer_in_the_devices_order(self) -> None:
        sent = [
            self.beside("notes", "carry the 1", 3),
            self.beside("sketch", '{"version":1}', 4),
            self.beside("answer", "B", 5),
        ]
        receipt = saving.save(self.ctx, self.first, sent)
        self.assertEqual(len(receipt.acknowledged), 3)
        saving.save(self.ctx, self.first, [self.beside("notes", "older, and late", 2)])
        self.assertEqual(self.shown(), ("B", "carry the 1", '{"version":1}'))
        saving.save(self.ctx, self.first, [self.beside("notes", "", 9)])
        self.assertEqual(self.shown(), ("B", "", '{"version":1}'))
        self.assertEqual(taking.paper(self.ctx, self.first).sequence, 9, "a device goes on behind its notes")

    def test_what_is_too_long_or_nothing_of_the_kind_is_refused_by_itself(self) -> None:
        receipt = saving.save(
            self.ctx,
            self.first,
            [
                self.beside("notes", "x" * 4001, 1),
                self.beside("sketch", "x" * 60_001, 2),
                self.beside("song", "la", 3),
                self.beside("notes", "\ud800", 4),
                self.beside("notes", "fine", 5),
            ],
        )
        self.assertEqual((receipt.acknowledged, len(receipt.refused)), (["beside-notes-5"], 4))
        running.close(self.ctx, self.boss, self.session)
        late = saving.save(self.ctx, self.first, [self.beside("notes", "after the end", 6)])
        self.assertEqual(late.refused[0][1], "this test is already submitted")

    def test_visits_are_kept_in_six_bytes_each(self) -> None:
        items = [q.id for q in taking.paper(self.ctx, self.first).questions]
        visits = [Visit(items[0], 0, 312), Visit(items[2], 32, 55), Visit(items[0], 40, 20), Visit(-1, 0, 1)]
        for some in (visits[:2], visits[2:]):
            saving.saving(self.ctx, self.first, Message(answers=[], visits=some), known=True).result()
        with self.ctx.store.read() as db:
            kept = visits_of(db, self.first.sitting_id)
        self.assertEqual(kept, [Visit(0, 0, 312), Visit(2, 32, 55), Visit(0, 40, 20)])
        self.assertLess(2000 * 60 * SIZE, 5_000_000, "2,000 students with 60 visits each")


class Packing(unittest.TestCase):
    def test_what_no_row_can_hold_is_held_at_its_edge(self) -> None:
        packed = pack_visits([Visit(5, -3, -1), Visit(5, 10**9, 10**12)], [5])
        self.assertEqual(read_visits(packed), [Visit(0, 0, 0), Visit(0, 131_070, 2**24 - 1)])
        self.assertEqual(read_visits(packed + b"\x00"), read_visits(packed), "half a row is none")
        self.assertEqual(struct.calcsize("<BH") + 3, SIZE)


class Submitting(RoomCase):
    def test_not_before_the_minute_that_the_form_says(self) -> None:
        self.limit(40, submit_after=15)
        page = taking.paper(self.ctx, self.first)
        self.assertEqual(page.submit_from, self.clock.now + timedelta(minutes=15))
        with self.assertRaisesRegex(Conflict, "from minute 15 on"):
            taking.hand_in(self.ctx, self.first)
        with self.assertRaises(Conflict):
            taking.hand_in(self.ctx, self.first, False, self.clock.now + timedelta(hours=1))
        self.clock.pass_by(minutes=15)
        self.assertEqual(taking.hand_in(self.ctx, self.first), "handed_in")

    def test_a_device_whose_time_is_over_submits_all_the_same(self) -> None:
        self.limit(10, submit_after=15)
        self.clock.pass_by(minutes=11)
        self.assertEqual(taking.hand_in(self.ctx, self.first, True), "handed_in")

    def test_far_quicker_than_usual_is_a_third_of_the_usual_time(self) -> None:
        self.assertIsNone(taking.paper(self.ctx, self.first).brief_until, "too few have taken it")
        now = self.clock.now
        self.assertEqual(brief_until(now, 1800), now + timedelta(minutes=10))
        self.assertIsNone(brief_until(now, None))


class OnPaper(RoomCase):
    def test_it_waits_is_not_absent_and_in_no_total(self) -> None:
        third = self.page().sittings[2]
        running.mark(self.ctx, self.boss, self.session, third.id, "on_paper")
        with self.assertRaisesRegex(Invalid, "on paper"):
            self.join(2)
        running.mark(self.ctx, self.boss, self.session, self.first.sitting_id, "on_paper")
        self.assertIn("2 on paper", self.page().finding)
        running.close(self.ctx, self.boss, self.session)
        states = {s.id: s.state for s in self.page().sittings}
        self.assertEqual((states[third.id], states[self.first.sitting_id]), ("on_paper", "on_paper"))
        counts = self.page().session.counts
        self.assertEqual((counts["on_paper"], counts["absent"], counts["handed_in"]), (2, 2, 1))

    def test_it_is_taken_back(self) -> None:
        third = self.page().sittings[2]
        running.mark(self.ctx, self.boss, self.session, third.id, "on_paper")
        running.mark(self.ctx, self.boss, self.session, third.id, "back")
        self.assertEqual(self.page().sittings[2].state, "not_started")
        running.mark(self.ctx, self.boss, self.session, self.first.sitting_id, "on_paper")
        running.mark(self.ctx, self.boss, self.session, self.first.sitting_id, "back")
        self.assertEqual(self.line(self.first).state, "answering")
        taking.hand_in(self.ctx, self.first)
        with self.assertRaises(Conflict):
            running.mark(self.ctx, self.boss, self.session, self.first.sitting_id, "on_paper")

    def test_words_for_those_who_are_finished(self) -> None:
        self.do("afterward", text="Read quietly until the bell.")
        taking.hand_in(self.ctx, self.first)
        self.assertEqual(taking.paper(self.ctx, self.first).afterward, "Read quietly until the bell.")
        with self.assertRaises(Invalid):
            self.do("afterward", text="x" * 201)
