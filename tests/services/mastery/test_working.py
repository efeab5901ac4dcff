"""Groups that work on a standard, the district, a student's page and print: what they say, and to whom."""

from __future__ import annotations

import io
import unittest
from datetime import timedelta

from pypdf import PdfReader
from sqlalchemy import select

from bildung.core.school.privacy import LEAST
from bildung.services.mastery import cell, district, keeping, needs, out, practice
from bildung.services.mastery.entering import EnteredPoints, NewEvidence, enter_evidence
from bildung.services.mastery.keeping import NewPurpose
from bildung.services.mastery.needs import NeedsAsked
from bildung.services.mastery.student import student_mastery
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.store.models import (
    CoursePlan,
    Enrolment,
    Form,
    GroupMember,
    ItemStandard,
    Lesson,
    LessonStandard,
    SchoolClass,
    SchoolYear,
    Standard,
)
from tests.services.mastery.case import MasteryCase


class Working(MasteryCase):
    def setUp(self) -> None:
        super().setUp()
        page = self.page()
        self.people = [int(row.person) for row in page.rows]
        self.standard = int(page.columns[0].standard)
        self.today = cell.cell_page(self.ctx, self.boss, self.people[0], self.standard).today

    def keep(self, **more: object) -> int:
        new = NewPurpose(
            **{  # type: ignore[arg-type]
                "name": "Again",
                "members": self.people[:4],
                "standard": self.standard,
                "purpose": "Number lines",
                "check_on": self.today + timedelta(days=7),
                **more,
            }
        )
        return keeping.keep_group(self.ctx, self.boss, new)

    def right(self, people: list[int], times: int) -> None:
        """So many slips of two points, all right."""
        for at in range(times):
            new = NewEvidence(
                standard=self.standard,
                kind="score",
                what=f"Slip {at}",
                on=self.today,
                possible=2.0,
                points=[EnteredPoints(person=p, earned=2.0) for p in people],
            )
            enter_evidence(self.ctx, self.boss, new)


class Groups(Working):
    def test_kept_with_a_purpose_until_they_are_ready_to_leave(self) -> None:
        id = self.keep()
        (found,) = keeping.kept_groups(self.ctx, self.boss).groups
        self.assertEqual((int(found.id), found.purpose, found.due, len(found.members)), (id, "Number lines", False, 4))
        (tried,) = cell.cell_page(self.ctx, self.boss, self.people[0], self.standard).tried
        self.assertEqual((tried.group, tried.what), ("Again", "Number lines"))
        self.right(self.people[:2], 12)
        found = keeping.kept_groups(self.ctx, self.boss).groups[0]
        ready = [int(m.person) for m in found.members if m.ready]
        self.assertTrue({*self.people[:2]} <= {*ready})
        keeping.leave_group(self.ctx, self.boss, id, ready)
        after = keeping.kept_groups(self.ctx, self.boss)
        self.assertEqual(after.groups[0].ready, 0)
        (tried,) = cell.cell_page(self.ctx, self.boss, self.people[0], self.standard).tried
        self.assertEqual(tried.until, self.today, "what was tried ends when they leave")
        with self.assertRaisesRegex(NotFound, "any more"):
            keeping.leave_group(self.ctx, self.boss, id, ready)

    def test_due_when_the_day_has_come(self) -> None:
        id = self.keep(check_on=self.today)
        self.assertTrue(keeping.kept_groups(self.ctx, self.boss).groups[0].due)
        with self.ctx.store.read() as db:
            self.assertEqual(keeping.due_groups(self.ctx, db, self.boss), 1)
        keeping.change_purpose(self.ctx, self.boss, id, "Tables", self.today + timedelta(days=1))
        self.assertEqual(keeping.kept_groups(self.ctx, self.boss).groups[0].purpose, "Tables")
        with self.ctx.store.read() as db:
            self.assertEqual(keeping.due_groups(self.ctx, db, self.boss), 0)

    def test_refused_whole(self) -> None:
        for change, error, words in (
            ({"check_on": self.today - timedelta(days=1)}, Invalid, "past"),
            ({"members": []}, Invalid, "at least one"),
            ({"standard": 99_999}, NotFound, "no such standard"),
            ({"members": [self.people[0], 99_999]}, NotFound, "not yours"),
            ({"name": " "}, Invalid, "name"),
        ):
            with self.subTest(words), self.assertRaisesRegex(error, words):
                self.keep(**change)
        self.assertEqual(keeping.kept_groups(self.ctx, self.boss).groups, [])
        with self.ctx.store.read() as db:
            self.assertIsNone(db.scalar(select(GroupMember.person_id)))
        self.keep()
        with self.assertRaises((Conflict, Invalid)):
            self.keep()
        other = Actor(person_id=99_999, name="N", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        self.assertEqual(keeping.kept_groups(self.ctx, other).groups, [])

    def test_by_state_on_one_standard(self) -> None:
        self.right(self.people[:5], 8)
        found = needs.need_groups(
            self.ctx,
            self.boss,
            NeedsAsked(class_id=self.klass, least=1, most=4, many=8, by="state", standard=self.standard),
        )
        for group in found.groups:
            self.assertEqual(len({p.says for p in group.people}), 1, "one state each")
            self.assertLessEqual(len(group.people), 4)
        with self.assertRaises(NotFound):
            needs.need_groups(self.ctx, self.boss, NeedsAsked(class_id=self.klass, by="state", standard=99_999))

    def test_by_an_error_where_no_note_says_what_it_is(self) -> None:
        found = needs.need_groups(self.ctx, self.boss, NeedsAsked(class_id=self.klass, by="error"))
        self.assertEqual(found.groups, [])
        self.assertIn("no error with a note", found.finding)
        self.assertEqual([t.label for t in found.tests], ["A form", "A form"])


class Practice(Working):
    def test_a_draft_of_what_the_bank_has_those_not_seen_first(self) -> None:
        id = practice.make_practice(self.ctx, self.boss, self.klass, self.standard, "reteach")
        with self.ctx.store.read() as db:
            form = db.get_one(Form, id)
            told = form.name, form.kind, form.published_at
            versions = [i.item_version_id for i in form.items]
            tagged = set(
                db.scalars(select(ItemStandard.item_version_id).where(ItemStandard.standard_id == self.standard))
            )
        self.assertEqual(told[1:], ("mirror", None))
        self.assertTrue(0 < len(versions) <= practice.MOST)
        self.assertTrue(set(versions) <= tagged)
        again = practice.make_practice(self.ctx, self.boss, self.klass, self.standard, "reteach")
        with self.ctx.store.read() as db:
            self.assertEqual(db.get_one(Form, again).name, f"{told[0]} 2")
        with self.assertRaisesRegex(Invalid, "reteach, enrich"):
            practice.make_practice(self.ctx, self.boss, self.klass, self.standard, "play")  # type: ignore[arg-type]
        with self.assertRaises(NotFound):
            practice.make_practice(self.ctx, self.boss, self.klass, 99_999, "enrich")

        def empty(db):  # type: ignore[no-untyped-def]
            row = Standard(code="EMPTY", subject="Mathematics", grade="5")
            db.add(row)
            db.flush()
            return row.id

        with self.assertRaisesRegex(Conflict, "no item on EMPTY"):
            practice.make_practice(self.ctx, self.boss, self.klass, self.ctx.store.write(empty), "enrich")


class District(Working):
    def test_shares_by_school_add_up_and_a_guide_holds_back(self) -> None:
        page = district.district_page(self.ctx, self.boss, "Mathematics", "5")
        grid = self.page()
        by_code = {c.code: c for c in grid.columns}
        for line in page.lines:
            told = by_code[line.code]
            self.assertEqual(line.all.n or 0, told.assessed if told.assessed >= LEAST else line.all.n or 0)
            if line.all.share is not None:
                self.assertAlmostEqual(line.all.share, told.mastered / told.assessed)
                self.assertTrue((line.all.ci95 or [0])[0] <= line.all.share <= (line.all.ci95 or [0, 1])[1])
            self.assertTrue(line.all.taught)
        self.assertFalse(page.guide)
        self.plan(taught=False)
        page = district.district_page(self.ctx, self.boss, "Mathematics", "5")
        self.assertFalse(any(line.all.taught for line in page.lines))
        self.assertIn("what has been taught so far", page.finding)
        self.assertTrue(self.page().guide)
        self.assertEqual(self.page(taught=True).columns, [])
        asked = NeedsAsked(class_id=self.klass, least=1)
        self.assertEqual(needs.need_groups(self.ctx, self.boss, asked).groups, [], "what was not taught is no need")
        self.plan(taught=True)
        page = district.district_page(self.ctx, self.boss, "Mathematics", "5")
        self.assertTrue(next(line for line in page.lines if int(line.standard) == self.standard).all.taught)

    def plan(self, taught: bool) -> None:
        def work(db):  # type: ignore[no-untyped-def]
            year = db.scalars(select(SchoolYear)).first()
            if year is None:
                year = SchoolYear(
                    title="Y", start=self.today - timedelta(days=200), end=self.today + timedelta(days=150)
                )
                db.add(year)
                db.flush()
            plan = db.scalars(select(CoursePlan)).first()
            if plan is None:
                plan = CoursePlan(course="M", subject="Mathematics", grade="5", year_id=year.id)
                db.add(plan)
                db.flush()
            when = self.today + timedelta(days=-9 if taught else 9)
            lesson = Lesson(plan_id=plan.id, position=1 + taught, unit="U", title="L", start=when, end=when)
            db.add(lesson)
            db.flush()
            db.add(LessonStandard(lesson_id=lesson.id, standard_id=self.standard))

        self.ctx.store.write(work)

    def test_small_groups_are_hidden(self) -> None:
        def few(db):  # type: ignore[no-untyped-def]
            rows = db.scalars(
                select(Enrolment).where(Enrolment.class_id == self.klass, Enrolment.role == "student")
            ).all()
            for row in rows[3:]:
                row.active = False

        self.ctx.store.write(few)
        page = district.district_page(self.ctx, self.boss, "Mathematics", "5")
        self.assertTrue(page.lines)
        for line in page.lines:
            self.assertIsNone(line.all.share)
            self.assertEqual({c.share for c in line.cells}, {None})
        with self.assertRaisesRegex(Invalid, "grade 12"):
            district.district_page(self.ctx, self.boss, "Mathematics", "12")
        with self.assertRaises(NotFound):
            district.district_page(self.ctx, self.boss, "Alchemy")

    def test_of_nobody(self) -> None:
        other = Actor(person_id=99_999, name="N", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        self.assertEqual(district.district_page(self.ctx, other).lines, [])


class Students(Working):
    def test_what_changed_and_the_work_behind_it(self) -> None:
        page = student_mastery(self.ctx, self.boss, self.people[0], "Mathematics")
        self.assertEqual(sum(page.changes.values()), sum(bool(s.change) for s in page.standards))
        self.assertTrue(page.work)
        self.assertEqual([d.day for d in page.work], sorted((d.day for d in page.work), reverse=True))
        for day in page.work:
            for test in day.tests:
                self.assertEqual(test.earned, sum(i.earned or 0 for i in test.items))
                self.assertTrue(all(i.standards for i in test.items))
        early = student_mastery(
            self.ctx, self.boss, self.people[0], "Mathematics", page.work[-1].day, page.work[-1].day
        )
        self.assertEqual(len(early.work), 1)
        self.assertNotIn("confirmed again", early.changes)
        with self.assertRaisesRegex(Invalid, "before the last"):
            student_mastery(self.ctx, self.boss, self.people[0], "Mathematics", self.today, self.today - timedelta(1))
        for line in page.domains:
            self.assertIn(f"Mastered {line.mastered} of {line.assessed + line.open}", line.says)

    def test_print_with_names_and_without(self) -> None:
        name = self.page().rows[0].name
        for names in (True, False):
            for content, pages in (
                (out.grid_file(self.ctx, self.boss, self.asked(), "pdf", names), None),
                (out.students_file(self.ctx, self.boss, self.klass, None, names), self.SIZE),
            ):
                read = PdfReader(io.BytesIO(content))
                text = " ".join(page.extract_text() for page in read.pages)
                self.assertEqual(name in text, names)
                self.assertEqual("names are hidden" in text, not names)
                if pages is not None:
                    self.assertEqual(len(read.pages), pages, "a page a student")
        one = PdfReader(io.BytesIO(out.students_file(self.ctx, self.boss, self.klass, self.people[0], True)))
        self.assertEqual(len(one.pages), 1)

    def test_nothing_to_print(self) -> None:
        def end(db):  # type: ignore[no-untyped-def]
            for row in db.scalars(select(Enrolment).where(Enrolment.class_id == self.klass)):
                row.active = False
            return db.get_one(SchoolClass, self.klass).title

        self.ctx.store.write(end)
        with self.assertRaisesRegex(Conflict, "no one"):
            out.students_file(self.ctx, self.boss, self.klass, None, True)
        with self.assertRaisesRegex(Conflict, "no evidence"):
            out.grid_file(self.ctx, self.boss, self.asked(), "pdf", True)


if __name__ == "__main__":
    unittest.main()
