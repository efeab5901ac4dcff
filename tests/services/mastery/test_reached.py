"""What teaching has reached: by what the class said, else by the dates of the guide; other grades by their place."""

from __future__ import annotations

import unittest
from datetime import timedelta

from sqlalchemy import select

from bildung.services.calendar.years import local_today
from bildung.services.mastery.reached import reached, reached_by_grade
from bildung.services.mastery.student import student_mastery
from bildung.store.models import CoursePlan, Lesson, LessonStandard, SchoolYear, Standard, Taught
from tests.services.growth.given import give
from tests.services.mastery.case import MasteryCase


class ByTheGuide(MasteryCase):
    def setUp(self) -> None:
        super().setUp()
        with self.ctx.store.read() as db:
            self.today = local_today(self.ctx, db)
            self.standards = list(db.scalars(select(Standard.id).order_by(Standard.id)))[:3]

        def guide(db):  # type: ignore[no-untyped-def]
            year = db.scalars(select(SchoolYear)).first()
            if year is None:
                days = timedelta(days=150)
                year = SchoolYear(title="Y", start=self.today - days, end=self.today + days)
                db.add(year)
                db.flush()
            plan = CoursePlan(course="M", subject="Mathematics", grade="5", year_id=year.id)
            db.add(plan)
            db.flush()
            lessons = []
            for at, standard in enumerate(self.standards):
                day = self.today + timedelta(days=7 * (at - 1))
                lesson = Lesson(plan_id=plan.id, position=at + 1, unit="U", title="L", start=day, end=day)
                db.add(lesson)
                db.flush()
                db.add(LessonStandard(lesson_id=lesson.id, standard_id=standard))
                lessons.append(lesson.id)
            return lessons

        self.lessons = self.ctx.store.write(guide)

    def has(self, class_id: int | None = None) -> list[bool]:
        with self.ctx.store.read() as db:
            found = reached(db, "Mathematics", "5", self.today, class_id)
        self.assertTrue(found.guide)
        return [found.has(s, "5") for s in self.standards]

    def say(self, lesson: int, days: int) -> None:
        self.ctx.store.write(
            lambda db: db.add(
                Taught(
                    class_id=self.klass,
                    lesson_id=lesson,
                    on=self.today + timedelta(days=days),
                    person_id=self.boss.person_id,
                )
            )
        )

    def test_dates_until_the_class_says_what_it_was_taught(self) -> None:
        self.assertEqual(self.has(), [True, False, False], "a lesson of today is not over")
        self.assertEqual(self.has(self.klass), [True, False, False])
        self.say(self.lessons[2], -1)
        self.assertEqual(self.has(self.klass), [False, False, True])
        self.assertEqual(self.has(), [True, False, False], "of all classes the dates hold")
        self.say(self.lessons[0], 3)
        self.assertEqual(self.has(self.klass), [False, False, True], "what is still to come is not taught")

    def test_a_student_is_told_what_is_weak_and_what_teaching_has_not_come_to(self) -> None:
        for days in (2, 3, 4):
            give(self, self.make_form(name=f"Form {days}"), self.later_id, 0, days)
        self.say(self.lessons[0], -1)
        page = student_mastery(self.ctx, self.boss, int(self.page().rows[0].person), "Mathematics")
        weak = [s for s in page.standards if s.side == "clearly below"]
        early = sum(not s.taught for s in weak)
        self.assertTrue(0 < early < len(weak))
        self.assertIn(f"; {len(weak)} clearly below the line ({early} not taught yet)", page.finding)
        self.assertIn(f"Weakest: {next(s.code for s in weak if s.taught)}.", page.finding)

    def test_other_grades_and_no_guide(self) -> None:
        with self.ctx.store.read() as db:
            found = reached(db, "Mathematics", "5", self.today)
            self.assertEqual([found.has(1, grade) for grade in ("4", "K", "6", "")], [True, True, False, True])
            none = reached(db, "Mathematics", "6", self.today)
            self.assertFalse(none.guide)
            self.assertTrue(none.has(self.standards[2], "6"))
            self.assertEqual(set(reached_by_grade(db, "Mathematics", self.today)), {"5"})


if __name__ == "__main__":
    unittest.main()
