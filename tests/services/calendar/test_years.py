"""School years, closed days and windows; moving up a year; course plans and what was taught."""

from __future__ import annotations

import unittest
from datetime import date
from typing import Any

from sqlalchemy import select

from bildung.core.school.pacing import PlannedLesson, pace
from bildung.core.school.promotion import next_grade, next_title
from bildung.demo.files import sheet
from bildung.demo.rosters import Layout, roster_files
from bildung.formats.problem import ImportProblem
from bildung.services.calendar import pacing, windows, years
from bildung.services.people import classes
from bildung.services.rosters import rollover
from bildung.services.sessions import scheduling
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.store.models import Enrolment, Lesson, Person, School, SchoolClass, Standard, Window
from tests.support import WorldCase, small_roster

WEEK = [True] * 5 + [False] * 2


class YearCase(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(6))

    def page(self, id: int | None = None) -> years.YearPage:
        page = years.year_page(self.ctx, self.boss, id)
        assert page is not None
        return page


class SchoolYears(YearCase):
    def test_closed_days_and_windows_are_counted_in_instruction(self) -> None:
        before = self.page()
        years.close_days(self.ctx, self.boss, "break", date(2026, 10, 19), date(2026, 10, 30), None)
        years.close_days(self.ctx, self.boss, "inside it", date(2026, 10, 26), date(2026, 10, 27), None)
        after = self.page()
        self.assertEqual((before.counted.days - after.counted.days, after.counted.weeks), (10, after.counted.days / 5))
        (fall,) = after.windows
        self.assertEqual(fall.days, 60, "70 weekdays from 14 September to 18 December, 10 of them closed")
        self.assertEqual(fall.weeks_before, 6.0, "3 August to 11 September: the first of August was a Saturday")
        years.open_days(self.ctx, self.boss, after.closed[0].id)
        self.assertEqual(before.counted.days - self.page().counted.days, 2)

    def test_a_schools_own_closed_day_is_its_own(self) -> None:
        school = self.page().schools[0][0]
        before = self.page().counted.days
        years.close_days(self.ctx, self.boss, "harbor day", date(2026, 11, 3), date(2026, 11, 3), school)
        self.assertEqual(self.page().counted.days, before)
        with self.ctx.store.read() as db:
            here = years.instruction_between(db, date(2026, 11, 2), date(2026, 11, 6), school).days
            elsewhere = years.instruction_between(db, date(2026, 11, 2), date(2026, 11, 6)).days
        self.assertEqual((here, elsewhere), (4, 5))

    def test_years_never_overlap_and_dates_make_sense(self) -> None:
        id = self.page().year_id
        for error, values in (
            (Conflict, (None, "Next", date(2027, 7, 1), date(2028, 6, 30))),
            (Conflict, (None, "2026/27", date(2028, 8, 1), date(2029, 7, 1))),
            (Invalid, (None, "Short", date(2028, 8, 1), date(2028, 8, 2))),
            (Invalid, (None, " ", date(2028, 8, 1), date(2029, 7, 1))),
            (NotFound, (999, "None", date(2028, 8, 1), date(2029, 7, 1))),
        ):
            with self.assertRaises(error):
                years.change_year(self.ctx, self.boss, *values, WEEK)
        with self.assertRaises(Invalid):
            years.change_year(self.ctx, self.boss, id, "2026/27", date(2026, 8, 1), date(2027, 7, 31), [False] * 7)
        six = [True] * 6 + [False]
        years.change_year(self.ctx, self.boss, id, "2026/27", date(2026, 8, 10), date(2027, 7, 31), six)
        self.assertEqual((self.page().start, self.page().weekdays), (date(2026, 8, 10), six))
        with self.assertRaises(NotAllowed):
            years.change_year(
                self.ctx, self.teacher_of(self.class_id()), id, "x", date(2026, 8, 1), date(2027, 7, 31), WEEK
            )

    def test_a_window_keeps_its_sessions_inside(self) -> None:
        from datetime import timedelta

        from tests.support import NOON

        self.bring_items(3)
        scheduling.schedule(
            self.ctx,
            self.boss,
            self.make_form(),
            self.window_id,
            [self.class_id()],
            "",
            None,
            NOON,
            NOON + timedelta(hours=1),
        )
        with self.assertRaisesRegex(Conflict, "1 session is planned outside these days"):
            years.change_window(self.ctx, self.boss, self.window_id, "Fall", date(2026, 9, 14), date(2026, 11, 1))
        years.change_window(self.ctx, self.boss, self.window_id, "Late fall", date(2026, 11, 1), date(2026, 12, 18))
        self.assertEqual([w.name for w in self.page().windows], ["Late fall"])


class Windows(YearCase):
    def spans(self) -> list[tuple[str, date, date]]:
        with self.ctx.store.read() as db:
            rows = db.scalars(select(Window).order_by(Window.start))
            return [(w.name, w.start, w.end) for w in rows]

    def test_windows_never_share_a_day(self) -> None:
        with self.assertRaisesRegex(
            Conflict, "Fall is from Monday, September 14, 2026 to .*choose other days for Extra"
        ):
            windows.create_window(self.ctx, self.boss, "Extra", date(2026, 12, 18), date(2026, 12, 20))
        spring = windows.create_window(self.ctx, self.boss, "Spring", date(2027, 3, 1), date(2027, 3, 12))
        with self.assertRaisesRegex(Conflict, "choose other days for Spring"):
            years.change_window(self.ctx, self.boss, spring, "Spring", date(2026, 12, 1), date(2027, 3, 12))
        years.change_window(self.ctx, self.boss, spring, "Late spring", date(2027, 3, 1), date(2027, 3, 12))
        self.assertEqual([name for name, _, _ in self.spans()], ["Fall", "Late spring"])

    def test_they_are_copied_to_the_same_weekdays_a_year_later_once(self) -> None:
        year = self.page().year_id
        self.assertEqual(windows.copy_windows(self.ctx, self.boss, year), 1)
        (_, start, end), (name, later, last) = self.spans()
        self.assertEqual((name, (later - start).days, (last - end).days), ("Fall", 364, 364))
        with self.assertRaisesRegex(Conflict, "copied already"):
            windows.copy_windows(self.ctx, self.boss, year)
        windows.create_window(self.ctx, self.boss, "Spring", date(2027, 3, 1), date(2027, 3, 12))
        windows.create_window(self.ctx, self.boss, "Other", date(2028, 3, 8), date(2028, 3, 9))
        with self.assertRaisesRegex(Conflict, "Other is from"):
            windows.copy_windows(self.ctx, self.boss, year)
        self.assertEqual(len(self.spans()), 4, "all or none")
        with self.assertRaises(NotAllowed):
            windows.copy_windows(self.ctx, self.teacher_of(self.class_id()), year)
        with self.assertRaises(NotFound):
            windows.copy_windows(self.ctx, self.boss, 999)


class MovingUp(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        import random

        self.bring_people(
            roster_files(
                Layout(key="HM", name="Hollin Moor", grades=("4", "5", "6"), classes=1, size=6, year=2026),
                random.Random(3),
            )
        )
        self.clock.now = self.clock.now.replace(year=2027, month=7, day=20)
        self.wanted = rollover.RolloverPlan("2027/28", date(2027, 8, 1), date(2028, 7, 31))

    def move(self, wanted: rollover.RolloverPlan) -> dict[str, int]:
        return rollover.apply(self.ctx, self.boss, rollover.preview(self.ctx, self.boss, wanted).id).counts

    def grades(self) -> list[str]:
        with self.ctx.store.read() as db:
            return sorted(db.scalars(select(Person.grade).where(Person.kind == "student", Person.active.is_(True))))

    def test_everybody_moves_up_with_their_class_and_the_top_grade_leaves(self) -> None:
        with self.ctx.store.read() as db:
            old = db.scalars(select(SchoolClass).where(SchoolClass.title == "Mathematics 4.1")).one()
            together = set(
                db.scalars(select(Enrolment.person_id).where(Enrolment.class_id == old.id, Enrolment.role == "student"))
            )
            next_teacher = self.teacher_of(
                db.scalars(select(SchoolClass.id).where(SchoolClass.title == "Mathematics 5.1")).one()
            )
        teacher_before = self.teacher_of(old.id)
        self.move(self.wanted)
        self.assertEqual(self.grades(), ["5"] * 6 + ["6"] * 6)
        with self.ctx.store.read() as db:
            new = db.scalars(
                select(SchoolClass).where(SchoolClass.title == "Mathematics 5.1", SchoolClass.active.is_(True))
            ).one()
            members = set(
                db.scalars(select(Enrolment.person_id).where(Enrolment.class_id == new.id, Enrolment.role == "student"))
            )
            empty = db.scalars(
                select(SchoolClass).where(SchoolClass.title == "Mathematics 4.1", SchoolClass.active.is_(True))
            ).one()
            nobody = db.scalars(
                select(Enrolment.id).where(Enrolment.class_id == empty.id, Enrolment.role == "student")
            ).all()
        self.assertEqual((members, nobody), (together, []))
        self.assertEqual(self.teacher_of(new.id).person_id, next_teacher.person_id)
        past = classes.get_class(self.ctx, teacher_before, old.id)
        self.assertEqual(len(past.students), 6, "last year's class stays open to who taught it")
        year = next(id for id, title in classes.list_classes(self.ctx, teacher_before)[2] if title == "2026/27")
        self.clock.now = self.clock.now.replace(month=9)
        last_year = classes.list_classes(self.ctx, teacher_before, year)[1]
        self.assertIn("Mathematics 4.1", [c.title for c in last_year])

    def test_who_repeats_stays_and_joins_the_class_of_their_grade(self) -> None:
        with self.ctx.store.read() as db:
            one = db.scalars(select(Person).where(Person.grade == "5")).first()
        assert one is not None
        self.move(rollover.RolloverPlan("2027/28", date(2027, 8, 1), date(2028, 7, 31), [one.source_id.lower()]))
        with self.ctx.store.read() as db:
            self.assertEqual(db.get_one(Person, one.id).grade, "5")
            titles = set(
                db.scalars(
                    select(SchoolClass.title)
                    .join(Enrolment, Enrolment.class_id == SchoolClass.id)
                    .where(Enrolment.person_id == one.id, Enrolment.active.is_(True))
                )
            )
        self.assertEqual(titles, {"Mathematics 5.1", "Reading 5.1"})

    def test_the_next_grade_of_another_school_is_where_one_goes_and_an_unknown_grade_stays(self) -> None:
        def elsewhere(db: Any) -> tuple[int, int, int]:
            upper = School(source_id="UP", name="Upper School")
            db.add(upper)
            db.flush()
            one = Person(source_id="UP-1", given="Una", family="Up", kind="student", grade="7", school_id=upper.id)
            here = db.scalars(select(Person).where(Person.grade == "6", Person.kind == "student")).first()
            odd = db.scalars(select(Person).where(Person.grade == "5", Person.kind == "student")).first()
            db.add(one)
            odd.grade = "X"
            return upper.id, here.id, odd.id

        upper, sixth, odd = self.ctx.store.write(elsewhere)
        look = rollover.preview(self.ctx, self.boss, self.wanted)
        told = {line.label: line.detail for line in look.lines if line.what == "student"}
        self.assertEqual(sum("grade 6 → 7, to Upper School" in said for said in told.values()), 6)
        self.assertIn("grade X has no next one", told.values())
        rollover.apply(self.ctx, self.boss, look.id)
        with self.ctx.store.read() as db:
            person = db.get_one(Person, sixth)
            self.assertEqual((person.grade, person.school_id, person.active), ("7", upper, True))
            self.assertEqual((db.get_one(Person, odd).grade, db.get_one(Person, odd).active), ("X", True))
            classes_of = select(Enrolment).where(Enrolment.person_id == sixth, Enrolment.active.is_(True))
            self.assertEqual(db.scalars(classes_of).all(), [], "the other school forms its own classes")

    def test_what_stands_in_the_way_is_named_and_nothing_is_changed(self) -> None:
        before = self.grades()
        for wanted, said in (
            (rollover.RolloverPlan("X", date(2027, 7, 1), date(2028, 6, 30)), "overlaps these days"),
            (
                rollover.RolloverPlan("2026/27", date(2027, 8, 1), date(2028, 7, 31)),
                "there is a school year 2026/27 already",
            ),
            (rollover.RolloverPlan("X", date(2027, 8, 1), date(2027, 8, 2)), "between 90 and 400 days"),
            (
                rollover.RolloverPlan("X", date(2027, 8, 1), date(2028, 7, 31), ["nobody"]),
                "no one has the number or sign-in code 'nobody'",
            ),
        ):
            with self.assertRaisesRegex((Invalid, Conflict), said):  # type: ignore[arg-type]
                rollover.preview(self.ctx, self.boss, wanted)
        self.assertEqual(self.grades(), before)

    def test_grades_and_titles_by_hand(self) -> None:
        self.assertEqual([next_grade(g) for g in ("K", "k", "1", "9", "", "X")], ["1", "1", "2", "10", None, None])
        for title, grade, up in (
            ("Mathematics 6.1", "6", "Mathematics 7.1"),
            ("6.1 Reading", "6", "7.1 Reading"),
            ("Room 16, grade 6", "6", "Room 16, grade 7"),
            ("KA", "K", None),
            ("Class K", "K", "Class 1"),
            ("Homeroom 9b", "9", "Homeroom 10b"),
            ("Choir", "6", None),
            ("Choir 6", "", None),
        ):
            self.assertEqual(next_title(title, grade), up, title)


COLUMNS = ("subject", "grade", "unit", "lesson", "standards", "start", "end")


class CoursePlans(YearCase):
    def setUp(self) -> None:
        super().setUp()

        def standards(db: object) -> None:
            db.add_all([Standard(code="S1", text="One"), Standard(code="S2", text="Two")])  # type: ignore[attr-defined]

        self.ctx.store.write(standards)
        self.rows = [
            ("Mathematics", "5", "Unit", "First", "S1", "2026-09-07", "2026-09-11"),
            ("Mathematics", "5", "Unit", "Second", "S1; S2", "2026-11-16", "2026-11-20"),
            ("Mathematics", "5", "Unit", "Third", "S9", "2026-11-23", "2026-11-27"),
        ]

    def bring(self, rows: list[tuple[str, ...]]) -> dict[str, int]:
        preview = pacing.preview(self.ctx, self.boss, {"plan.csv": sheet(COLUMNS, rows)})
        return pacing.apply(self.ctx, self.boss, preview.id).counts

    def plan(self) -> pacing.PlanPage:
        return pacing.get_plan(self.ctx, self.boss, pacing.list_plans(self.ctx, self.boss)[1][0].id)

    def test_a_plan_comes_as_a_sheet_and_the_same_sheet_changes_nothing(self) -> None:
        self.assertEqual(self.bring(self.rows), {"added": 4, "changed": 0, "left_out": 1, "same": 0})
        page = self.plan()
        self.assertEqual(
            [(x.title, x.standards) for x in page.lessons], [("First", ["S1"]), ("Second", ["S1", "S2"]), ("Third", [])]
        )
        self.assertEqual((page.plan.expected, page.plan.lessons), (2, 3))
        self.assertEqual(self.bring(self.rows)["same"], 3)

    def test_what_was_taught_stays_with_a_lesson_whose_days_move(self) -> None:
        self.bring(self.rows)
        teacher, klass = self.teacher_of(self.class_id()), self.class_id()
        first = self.plan().lessons[0].id
        pacing.say_taught(self.ctx, teacher, klass, first, date(2026, 9, 10))
        self.rows[0] = (*self.rows[0][:5], "2026-09-14", "2026-09-18")
        self.assertEqual(self.bring(self.rows)["changed"], 1)
        (pace_of,) = self.plan().classes
        self.assertEqual((pace_of.taught, pace_of.done, pace_of.ahead), ({first: date(2026, 9, 10)}, 1, -1))
        pacing.say_taught(self.ctx, teacher, klass, first, None)
        self.assertEqual(self.plan().classes[0].done, 0)
        self.bring(self.rows[1:])
        with self.ctx.store.read() as db:
            self.assertEqual(set(db.scalars(select(Lesson.title))), {"Second", "Third"})

    def test_only_who_teaches_a_class_says_what_was_taught_and_never_ahead_of_time(self) -> None:
        self.bring(self.rows)
        first, klass = self.plan().lessons[0].id, self.class_id()
        reading = self.teacher_of(self.class_id("Reading"))
        with self.assertRaises(NotFound):
            pacing.say_taught(self.ctx, reading, klass, first, date(2026, 9, 10))
        with self.assertRaisesRegex(Invalid, "does not follow the plan"):
            pacing.say_taught(self.ctx, reading, self.class_id("Reading"), first, date(2026, 9, 10))
        with self.assertRaisesRegex(Invalid, "lies ahead"):
            pacing.say_taught(self.ctx, self.teacher_of(klass), klass, first, date(2026, 12, 1))

    def test_what_cannot_be_read_is_named(self) -> None:
        for row, said in (
            (("Mathematics", "5", "U", "", "S1", "2026-09-07", "2026-09-11"), "line 2, column lesson: empty"),
            (("Mathematics", "5", "U", "L", "S1", "soon", "2026-09-11"), "column start: 'soon'; a date"),
            (("Mathematics", "5", "U", "L", "S1", "2026-09-11", "2026-09-07"), "column end: 2026-09-07; not before"),
        ):
            with self.assertRaises(ImportProblem) as caught:
                self.bring([row])
            self.assertIn(said, str(caught.exception))
        with self.assertRaisesRegex(ImportProblem, "'First' again in Unit"):
            self.bring([self.rows[0], self.rows[0]])


class Pacing(unittest.TestCase):
    def test_behind_ahead_and_left_out(self) -> None:
        lessons = [PlannedLesson(date(2026, 9, d), date(2026, 9, d + 4)) for d in (7, 14, 21)]
        today = date(2026, 9, 19)  # two are over
        for taught, expected in (
            ([True, True, False], (2, 2, 0, ())),
            ([False, False, False], (2, 0, -2, ())),
            ([True, True, True], (2, 3, 1, ())),
            ([True, False, True], (2, 2, 0, (1,))),
            ([False, True, False], (2, 1, -1, (0,))),
        ):
            p = pace(lessons, taught, today)
            self.assertEqual((p.expected, p.taught, p.ahead, p.skipped), expected)
