"""The winter window under way, laid over the one school of the tests."""

from __future__ import annotations

from collections import Counter
from datetime import date

import numpy as np
from sqlalchemy import select

from bildung.core.participation.standing import Standing, count
from bildung.demo.abilities import abilities
from bildung.demo.district import ZONE, local_time, one_school
from bildung.demo.winter import winter_window
from bildung.services.participation.obligations import owed_tests
from bildung.services.sessions.listing import SessionLine, list_sessions
from bildung.services.today.page import today_page
from bildung.store.models import Window
from tests.demo_case import DemoCase


class Winter(DemoCase):
    """Reading is over, mathematics is in the middle; there are no classes in science here."""

    window: int
    today: date

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        now = cls.ctx.clock()
        cls.today = now.astimezone(local_time(now.date(), 0).tzinfo).date()
        district = one_school(cls.today)
        name, opens, _ = district.year.windows[district.year.last + 1]
        winter_window(cls.ctx, cls.boss, district, abilities(cls.ctx, np.random.default_rng(1), "BM"), {})
        with cls.ctx.store.read() as db:
            cls.window = db.scalars(select(Window.id).where(Window.name == name, Window.start == opens)).one()

    def lines(self, subject: str, grade: str) -> list[SessionLine]:
        found = list_sessions(self.ctx, self.boss, self.window)
        return [line for line in found if line.klass.startswith(f"{subject} {grade}.")]

    def phases(self, subject: str, grade: str) -> Counter[str]:
        return Counter(line.phase for line in self.lines(subject, grade))

    def test_each_subject_and_grade_is_where_the_window_has_come(self) -> None:
        for grade in "68":
            self.assertEqual(self.phases("Reading", grade), {"closed": 5})
        self.assertEqual(self.phases("Mathematics", "7"), {"closed": 5})
        self.assertEqual(self.phases("Mathematics", "8"), {"ahead": 5})
        self.assertEqual(self.phases("Mathematics", "6"), {"closed": 1, "open": 2, "ahead": 2})

    def test_what_is_open_has_students_at_work_and_a_proctor(self) -> None:
        for line in self.lines("Mathematics", "6"):
            if line.phase == "open":
                self.assertGreater(line.counts["answering"], 0)
                self.assertEqual(line.counts["handed_in"], 2)
                self.assertTrue(line.proctor, line.klass)
        self.assertIn("2 sessions are open now: 4 of", today_page(self.ctx, self.boss).finding, ZONE)

    def test_classes_that_cannot_be_settled_are_left_out_and_nobody_is_lost(self) -> None:
        """Two students of grade 7 are named for two forms of reading: their classes have no session."""
        self.assertLess(len(self.lines("Reading", "7")), 5)
        with self.ctx.store.read() as db:
            every = owed_tests(self.ctx, db, self.boss, self.window)
        found = count(one.owed for one in every)
        self.assertEqual(len({(one.person, one.test) for one in every}), found.owed)
        self.assertEqual(
            found.by_standing[Standing.IN_PROGRESS],
            sum(line.counts["answering"] for line in list_sessions(self.ctx, self.boss, self.window)),
        )
