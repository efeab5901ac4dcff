"""Sections that end by their own minutes: to the second, over pauses, other devices, extra time and outages."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta
from math import inf
from typing import Any

from sqlalchemy import text

from bildung.core.school.timing import section_end, worked
from bildung.formats.blueprint import FormSettings
from bildung.services.building import formsettings
from bildung.services.building.forms import create_form
from bildung.services.shared.access import Sitter
from bildung.services.shared.errors import Invalid
from bildung.services.sitting import saving, taking
from bildung.services.sitting.events import Answer
from bildung.services.sitting.saving import Message
from bildung.store.models import Form, FormItem, PlannedSession
from tests.services.sessions.test_room import RoomCase

PLAN = {"parts": [{"name": "One", "minutes": 10}, {"name": "Two", "instructions": "Think.", "minutes": 5}]}


class Sections(RoomCase):
    """Four items: two in the first section of ten minutes, two in the second of five."""

    def setUp(self) -> None:
        super().setUp()

        def work(db: Any) -> None:
            wanted = text("SELECT name FROM sqlite_master WHERE type = 'trigger' AND tbl_name IN ('form', 'form_item')")
            for name in db.scalars(wanted).all():
                db.execute(text(f"DROP TRIGGER {name}"))
            form = db.get_one(Form, db.get_one(PlannedSession, self.session).form_id)
            form.plan, form.settings = PLAN, {**form.settings, "timed_sections": True}
            for row in db.query(FormItem).filter(FormItem.form_id == form.id):
                row.part = 0 if row.position <= 2 else 1

        self.ctx.store.write(work)
        self.began = self.clock.now

    def ends(self, sitter: Sitter | None = None) -> timedelta | None:
        end = taking.standing(self.ctx, sitter or self.first).section_end
        return None if end is None else end - self.began

    def come_to(self, place: int, ago: float = 0.0, *answers: Answer) -> saving.Receipt:
        message = Message(answers=answers, reached=place, section_ago=ago)
        return saving.saving(self.ctx, self.first, message, known=True).result()

    def answer(self, place: int, sequence: int) -> Answer:
        question = taking.paper(self.ctx, self.first).questions[place].id
        return Answer(id=f"sections-{sequence}", question=question, answer="A", takeover=1, sequence=sequence)

    def test_the_next_begins_when_the_student_comes_to_it(self) -> None:
        page = taking.paper(self.ctx, self.first)
        self.assertEqual([(p.name, p.seconds) for p in page.parts], [("One", 600), ("Two", 300)])
        self.assertTrue(page.timed)
        self.assertEqual(self.ends(), timedelta(minutes=10))
        self.clock.pass_by(minutes=4)
        self.come_to(2)
        self.assertEqual(self.ends(), timedelta(minutes=9), "five minutes from now")
        self.clock.pass_by(minutes=1)
        self.come_to(3)
        self.assertEqual(self.ends(), timedelta(minutes=9), "the same section")

    def test_pauses_and_minutes_given_move_it_to_the_second(self) -> None:
        self.clock.pass_by(minutes=2)
        self.do("pause", self.first)
        self.clock.pass_by(seconds=73)
        self.do("resume", self.first)
        self.assertEqual(self.ends(), timedelta(minutes=10, seconds=73))
        self.do("minutes", self.first, minutes=3)
        self.assertEqual(self.ends(), timedelta(minutes=13, seconds=73))
        self.clock.pass_by(minutes=5)
        self.come_to(2)
        self.assertEqual(self.ends(), timedelta(minutes=7 + 5, seconds=73), "the second has its own five minutes")

    def test_what_was_given_before_the_network_came_back_counts_and_what_is_left_behind_does_not(self) -> None:
        self.clock.pass_by(minutes=9)
        first, second = self.answer(0, 1), self.answer(2, 2)
        receipt = self.come_to(2, 6 * 60, first, second)
        self.assertEqual(receipt.acknowledged, [first.id, second.id])
        self.assertEqual(self.ends(), timedelta(minutes=3 + 5), "it came to the section six minutes ago")
        late = self.come_to(2, 0, self.answer(1, 3))
        self.assertEqual(late.refused[0][1], "this question was left behind")
        self.assertEqual(self.come_to(2, 0, self.answer(3, 4)).refused, [])

    def test_a_device_is_not_believed_what_cannot_be(self) -> None:
        self.clock.pass_by(minutes=5)
        self.come_to(2, 10**9)
        self.assertEqual(self.ends(), timedelta(minutes=5), "not before the attempt began")

    def test_another_device_goes_on_in_the_section_with_the_time_it_had(self) -> None:
        self.clock.pass_by(minutes=4)
        self.come_to(2)
        self.clock.pass_by(minutes=2)
        again = self.join(0)
        page = taking.paper(self.ctx, again)
        self.assertEqual((page.reached, self.ends(again)), (2, timedelta(minutes=9)))

    def test_the_minutes_of_the_last_section_end_the_test(self) -> None:
        self.come_to(2)
        self.clock.pass_by(minutes=5)
        self.assertEqual(taking.hand_in(self.ctx, self.first, True), "handed_in")


class Rules(unittest.TestCase):
    def test_by_the_attempts_own_clock(self) -> None:
        began = datetime(2026, 9, 1, 8, tzinfo=UTC)
        pause = timedelta(minutes=3)
        self.assertEqual(worked(began, pause, began + timedelta(minutes=10)), 420)
        self.assertEqual(worked(began, pause, began), 0)
        self.assertEqual(section_end(began, 420, 4, 1.5, pause), began + timedelta(minutes=7 + 6 + 3))
        self.assertIsNone(section_end(began, 420, None, 1.0, pause))
        self.assertIsNone(section_end(began, 420, 4, inf, pause))


class Settings(RoomCase):
    def test_a_test_without_minutes_of_sections_is_refused(self) -> None:
        form = create_form(self.ctx, self.boss, "Sections that are none", "", "Mathematics", "6")
        with self.assertRaisesRegex(Invalid, "set them in its blueprint"):
            formsettings.change(
                self.ctx, self.boss, form.id, form.revision, "Test", "", "", FormSettings(timed_sections=True)
            )


if __name__ == "__main__":
    unittest.main()
