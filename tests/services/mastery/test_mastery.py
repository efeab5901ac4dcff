"""The grid of a class, its cells and a student's standards: by the exported evidence, after a correction, for who may see it."""

from __future__ import annotations

import csv
import io
import unittest
from collections import defaultdict
from datetime import date, timedelta

from sqlalchemy import select

from bildung.core.mastery.states import STATES
from bildung.services.corrections import making
from bildung.services.corrections.asked import CorrectionWish
from bildung.services.corrections.preview import preview as tried
from bildung.services.mastery import cell, grid, needs, out, standard
from bildung.services.mastery.grid import GridAsked
from bildung.services.mastery.needs import NeedsAsked
from bildung.services.mastery.scope import WhoAsked
from bildung.services.mastery.student import student_mastery
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Invalid, NotAllowed, NotFound
from bildung.store.models import Enrolment, FormItem, PlannedSession, SchoolClass
from tests.core.mastery.test_mastery import slow
from tests.services.growth.given import give
from tests.services.mastery.case import MasteryCase


class Grid(MasteryCase):
    def test_every_state_is_that_of_a_slow_script_over_the_exported_evidence(self) -> None:
        page = self.page()
        self.assertEqual(len(page.rows), self.SIZE)
        self.assertTrue(page.columns)
        rows: dict[tuple[str, str], list[tuple[int, int, float, float]]] = defaultdict(list)
        exported = out.evidence_file(self.ctx, self.boss, self.asked()).decode("utf-8-sig")
        for line in csv.DictReader(io.StringIO(exported)):
            self.assertEqual(line["usual_p"], "", "12 students say nothing of an item")
            day = date.fromisoformat(line["day"]).toordinal()
            place = 0, day, float(line["earned"]), float(line["possible"])
            if float(line["tag"]) == 1.0:
                rows[line["id"], line["standard"]].append(place)
        checked = 0
        for row in page.rows[:4]:
            for column, told in zip(page.columns, row.states, strict=True):
                mine = rows[str(row.person), column.code]
                if mine:
                    self.assertEqual(STATES[told], slow(mine)[0])
                    checked += 1
        self.assertGreater(checked, 4)

    def test_columns_count_who_has_mastered_and_a_correction_moves_it_at_once(self) -> None:
        before = self.page()
        for at, column in enumerate(before.columns):
            states = [row.states[at] for row in before.rows]
            self.assertEqual(column.mastered, sum(s >= 4 for s in states))
            self.assertEqual(column.assessed, sum(s > 1 for s in states))
        with self.ctx.store.read() as db:
            place = db.scalars(select(FormItem.id).where(FormItem.form_id == self.form, FormItem.position == 1)).one()
        wish = CorrectionWish(kind="drop", place=place, window_id=self.later_id)
        making.correct(self.ctx, self.boss, wish, "Unfair.", tried(self.ctx, self.boss, wish).asof)
        after = self.page()
        amounts = [sum(sum(row.amounts) for row in p.rows) for p in (before, after)]
        self.assertLess(amounts[1], amounts[0])

    def test_only_evidence_of_a_stretch_of_days(self) -> None:
        with self.ctx.store.read() as db:
            first = db.get_one(PlannedSession, self.sessions[0]).start.date()
        early = self.page(last=first + timedelta(days=1))
        self.assertLess(
            sum(sum(row.amounts) for row in early.rows),
            self.amounts(),
        )
        with self.assertRaisesRegex(Invalid, "before the last"):
            self.page(first=first, last=first - timedelta(days=1))

    def test_whose_it_is(self) -> None:
        own = self.teacher_of(self.klass)
        self.assertEqual(len(grid.grid_page(self.ctx, own, GridAsked()).rows), self.SIZE)
        other = Actor(person_id=99_999, name="N", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        self.assertEqual(grid.grid_page(self.ctx, other, GridAsked()).finding, "No class here is yours to see.")
        student = int(self.page().rows[0].person)
        standard = int(self.page().columns[0].standard)
        for refused in (
            lambda: grid.grid_page(self.ctx, other, self.asked()),
            lambda: cell.cell_page(self.ctx, other, student, standard),
            lambda: student_mastery(self.ctx, other, student, "Mathematics"),
            lambda: out.evidence_file(self.ctx, other, self.asked()),
        ):
            with self.assertRaises(NotFound):
                refused()
        proctor = Actor(person_id=99_999, name="N", grants=(Grant("proctor", None),), sign_in_id=0, csrf="")
        with self.assertRaises(NotAllowed):
            grid.grid_page(self.ctx, proctor, GridAsked())

    def test_out_with_and_without_names(self) -> None:
        page = self.page()
        for kind in ("csv", "xlsx", "pdf"):
            self.assertTrue(out.grid_file(self.ctx, self.boss, self.asked(), kind, True))
        for hidden in (
            out.grid_file(self.ctx, self.boss, self.asked(), "csv", False),
            out.evidence_file(self.ctx, self.boss, self.asked(), False),
        ):
            text = hidden.decode("utf-8-sig")
            self.assertFalse([row.name for row in page.rows if row.name in text])
            self.assertNotIn(str(page.rows[0].person), {line.split(",")[0] for line in text.splitlines()})


class Standards(MasteryCase):
    def groups(self, least: int, most: int, many: int, **more: object) -> needs.NeedGroups:
        asked = NeedsAsked(class_id=self.klass, least=least, most=most, many=many, **more)  # type: ignore[arg-type]
        return needs.need_groups(self.ctx, self.boss, asked)

    def test_sessions_in_time_and_students_by_state(self) -> None:
        grid_of = self.page()
        column = grid_of.columns[0]
        page = standard.standard_page(self.ctx, self.boss, self.klass, int(column.standard))
        self.assertEqual([s.n for s in page.sessions], [self.SIZE, self.SIZE])
        self.assertEqual([s.day for s in page.sessions], sorted(s.day for s in page.sessions))
        self.assertEqual(page.sessions[1].share, 1.0)
        self.assertTrue(page.sessions[0].ci95[0] <= page.sessions[0].share <= page.sessions[0].ci95[1])
        by_person = {row.person: grid_of.states[row.states[0]] for row in grid_of.rows}
        self.assertEqual({s.person: s.state for s in page.students}, by_person)
        mastered = {s.person for s in page.students if s.state in ("mastered", "retained")}
        self.assertEqual(set(page.enrich), mastered)
        self.assertFalse(set(page.reteach) & mastered)
        with self.assertRaises(NotFound):
            standard.standard_page(self.ctx, self.boss, self.klass, 99_999)

    def test_groups_from_needs(self) -> None:
        early = give(self, self.make_form("Another"), self.window_id, 0)
        self.move(early, 30)
        found = self.groups(2, 6, 3)
        people = [p.person for g in found.groups for p in g.people]
        self.assertEqual(len(people), len(set(people)), "each student in one group")
        self.assertLessEqual(len(found.groups), 3)
        self.assertTrue(all(2 <= len(g.people) <= 6 for g in found.groups))
        rest = {p.person for p in (*found.unmet, *found.without)}
        self.assertEqual(len(set(people) | rest), self.SIZE)
        one, two = people[:2]
        parted = self.groups(1, self.SIZE, 3, apart=[(one, two), (one, 99_999)])
        self.assertFalse([g for g in parted.groups if {one, two} <= {p.person for p in g.people}])
        for least, most, many in ((5, 3, 3), (0, 3, 3), (1, 3, 0)):
            with self.assertRaisesRegex(Invalid, "at least one student"):
                self.groups(least, most, many)

    def test_pages_of_what_is_not_there_or_not_theirs(self) -> None:
        column = int(self.page().columns[0].standard)
        stranger = Actor(person_id=self.boss.person_id, name="x", grants=(), sign_in_id=0, csrf="")
        with self.assertRaises(NotAllowed):
            standard.standard_page(self.ctx, stranger, self.klass, column)
        with self.assertRaises(NotAllowed):
            needs.need_groups(self.ctx, stranger, NeedsAsked(class_id=self.klass))
        with self.assertRaisesRegex(NotFound, "no such class"):
            needs.need_groups(self.ctx, self.boss, NeedsAsked(class_id=99_999))
        with self.assertRaisesRegex(NotFound, "no such class"):
            standard.standard_page(self.ctx, self.boss, 99_999, column)


def make_class(db) -> int:  # type: ignore[no-untyped-def]
    """Another class of the subject and grade."""
    first = db.scalars(select(SchoolClass).where(SchoolClass.subject == "Mathematics")).first()
    other = SchoolClass(
        source_id="other",
        title="Mathematics other",
        school_id=first.school_id,
        subject="Mathematics",
        grade=first.grade,
    )
    db.add(other)
    db.flush()
    return int(other.id)


class Cells(MasteryCase):
    def test_the_run_response_by_response(self) -> None:
        page = self.page()
        row = page.rows[0]
        found = cell.cell_page(self.ctx, self.boss, int(row.person), int(page.columns[0].standard))
        self.assertEqual(found.state, STATES[row.states[0]])
        assert found.share is not None
        self.assertEqual(round(found.share, 4), row.shares[0])
        self.assertAlmostEqual(sum(found.bars), 1.0)
        assert found.low is not None and found.high is not None and found.mean is not None
        self.assertTrue(found.low < found.mean < found.high)
        self.assertEqual([p.day for p in found.pieces], sorted(p.day for p in found.pieces))
        self.assertEqual({h.day for h in found.history}, {p.day for p in found.pieces})
        self.assertEqual(found.unusual, sum(p.possible for p in found.pieces))
        self.assertTrue(found.next)

    def test_a_student_beside_the_class(self) -> None:
        page = self.page()
        first, second = (int(row.person) for row in page.rows[:2])
        found = student_mastery(self.ctx, self.boss, first, "Mathematics")
        self.assertEqual((found.next, found.before), (second, None))
        means = [s.mean for s in found.standards]
        self.assertEqual(means, sorted(means))
        by_code = {c.code: page.states[page.rows[0].states[at]] for at, c in enumerate(page.columns)}
        self.assertEqual({s.code: s.state for s in found.standards}, by_code)
        with self.assertRaises(NotFound):
            student_mastery(self.ctx, self.boss, first, "Alchemy")

    def test_a_student_who_changes_class_keeps_the_run(self) -> None:
        student = int(self.page().rows[0].person)
        standard = int(self.page().columns[0].standard)
        before = cell.cell_page(self.ctx, self.boss, student, standard)

        def move(db):  # type: ignore[no-untyped-def]
            other = make_class(db)
            row = db.scalars(
                select(Enrolment).where(Enrolment.person_id == student, Enrolment.class_id == self.klass)
            ).one()
            row.active = False
            db.add(Enrolment(class_id=other, person_id=student, role="student", active=True))
            return other

        other = self.ctx.store.write(move)
        after = cell.cell_page(self.ctx, self.boss, student, standard)
        self.assertEqual((after.says, after.pieces), (before.says, before.pieces))
        self.assertNotIn(student, [int(row.person) for row in self.page().rows])
        there = grid.grid_page(self.ctx, self.boss, GridAsked(who=WhoAsked(class_id=other)))
        self.assertEqual([int(row.person) for row in there.rows], [student])
        self.assertTrue(any(there.rows[0].states))


if __name__ == "__main__":
    unittest.main()
