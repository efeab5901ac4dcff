"""The grid of a class, its cells and a student's standards: by the exported evidence, after a correction, for who may see it."""

from __future__ import annotations

import csv
import io
import unittest
from collections import defaultdict
from datetime import date, timedelta

from sqlalchemy import select

from bildung.core.mastery.states import STATES
from bildung.services.answers.packing import pack
from bildung.services.corrections import making
from bildung.services.corrections.asked import CorrectionWish
from bildung.services.corrections.preview import preview as tried
from bildung.services.mastery import cell, grid, needs, standard
from bildung.services.mastery.grid import GridAsked
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Invalid, NotAllowed, NotFound
from bildung.store.models import FormItem, Person, PlannedSession, Standard, Window
from tests.core.mastery.test_mastery import slow
from tests.services.growth.given import give
from tests.support import WorldCase, small_roster


class MasteryCase(WorldCase):
    """Twelve students, six items; the first window half right, the second all right."""

    SIZE = 12

    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(self.SIZE))
        self.bring_items(12)
        self.form = self.make_form()

        def later(db):  # type: ignore[no-untyped-def]
            first = db.get_one(Window, self.window_id)
            window = Window(name="Later", start=first.start + timedelta(days=84), end=first.start + timedelta(days=98))
            db.add(window)
            # the codes came with the items; here they are standards of the class's subject
            for at, s in enumerate(db.scalars(select(Standard).order_by(Standard.id))):
                s.subject, s.grade, s.text, s.position = "Mathematics", "5", f"Standard {s.code}", at
            db.flush()
            return window.id

        self.later_id = self.ctx.store.write(later)
        self.sessions = [give(self, self.form, self.window_id, 4)]
        self.move(self.sessions[0], 60)
        self.sessions.append(give(self, self.form, self.later_id, 12))
        self.klass = self.class_id()

    def move(self, session: int, days: int) -> None:
        """To an earlier day."""

        def work(db):  # type: ignore[no-untyped-def]
            row = db.get_one(PlannedSession, session)
            row.start, row.end = row.start - timedelta(days=days), row.end - timedelta(days=days)
            row.data_version += 1
            db.flush()
            pack(db, row)

        self.ctx.store.write(work)

    def page(self, **more: object) -> grid.GridPage:
        return grid.grid_page(self.ctx, self.boss, GridAsked(class_id=self.klass, **more))  # type: ignore[arg-type]


class Grid(MasteryCase):
    def test_every_state_is_that_of_a_slow_script_over_the_exported_evidence(self) -> None:
        page = self.page()
        self.assertEqual(len(page.rows), self.SIZE)
        self.assertTrue(page.columns)
        rows: dict[tuple[str, str], list[tuple[int, int, float, float]]] = defaultdict(list)
        exported = grid.evidence_file(self.ctx, self.boss, self.klass).decode("utf-8-sig")
        for line in csv.DictReader(io.StringIO(exported)):
            self.assertEqual(line["usual_p"], "", "12 students say nothing of an item")
            day = date.fromisoformat(line["day"]).toordinal()
            place = 0, day, float(line["earned"]), float(line["possible"])
            if float(line["tag"]) == 1.0:
                rows[line["id"], line["standard"]].append(place)
        checked = 0
        for row in page.rows[:4]:
            for column, told in zip(page.columns, row.cells, strict=True):
                mine = rows[str(row.person), column.code]
                if mine:
                    self.assertEqual(STATES[told.state], slow(mine)[0])
                    checked += 1
        self.assertGreater(checked, 4)

    def test_columns_count_who_has_mastered_and_a_correction_moves_it_at_once(self) -> None:
        before = self.page()
        for at, column in enumerate(before.columns):
            states = [row.cells[at].state for row in before.rows]
            self.assertEqual(column.mastered, sum(s >= 4 for s in states))
            self.assertEqual(column.assessed, sum(s > 1 for s in states))
        with self.ctx.store.read() as db:
            place = db.scalars(select(FormItem.id).where(FormItem.form_id == self.form, FormItem.position == 1)).one()
        wish = CorrectionWish(kind="drop", place=place, window_id=self.later_id)
        making.correct(self.ctx, self.boss, wish, "Unfair.", tried(self.ctx, self.boss, wish).asof)
        after = self.page()
        amounts = [sum(c.amount for row in p.rows for c in row.cells) for p in (before, after)]
        self.assertLess(amounts[1], amounts[0])

    def test_only_evidence_of_a_stretch_of_days(self) -> None:
        with self.ctx.store.read() as db:
            first = db.get_one(PlannedSession, self.sessions[0]).start.date()
        early = self.page(last=first + timedelta(days=1))
        self.assertLess(
            sum(c.amount for row in early.rows for c in row.cells),
            sum(c.amount for row in self.page().rows for c in row.cells),
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
            lambda: grid.grid_page(self.ctx, other, GridAsked(class_id=self.klass)),
            lambda: cell.cell_page(self.ctx, other, student, standard),
            lambda: cell.student_mastery(self.ctx, other, student, "Mathematics"),
            lambda: grid.evidence_file(self.ctx, other, self.klass),
        ):
            with self.assertRaises(NotFound):
                refused()
        proctor = Actor(person_id=99_999, name="N", grants=(Grant("proctor", None),), sign_in_id=0, csrf="")
        with self.assertRaises(NotAllowed):
            grid.grid_page(self.ctx, proctor, GridAsked())

    def test_out_with_and_without_names(self) -> None:
        page = self.page()
        for kind in ("csv", "xlsx"):
            self.assertTrue(grid.grid_file(self.ctx, self.boss, GridAsked(class_id=self.klass), kind, True))
        hidden = grid.grid_file(self.ctx, self.boss, GridAsked(class_id=self.klass), "csv", False).decode("utf-8-sig")
        self.assertFalse([row.name for row in page.rows if row.name in hidden])


class Standards(MasteryCase):
    def test_sessions_in_time_and_students_by_state(self) -> None:
        grid_of = self.page()
        column = grid_of.columns[0]
        page = standard.standard_page(self.ctx, self.boss, self.klass, int(column.standard))
        self.assertEqual([s.n for s in page.sessions], [self.SIZE, self.SIZE])
        self.assertEqual([s.day for s in page.sessions], sorted(s.day for s in page.sessions))
        self.assertEqual(page.sessions[1].share, 1.0)
        self.assertTrue(page.sessions[0].ci95[0] <= page.sessions[0].share <= page.sessions[0].ci95[1])
        by_person = {row.person: grid_of.states[row.cells[0].state] for row in grid_of.rows}
        self.assertEqual({s.person: s.state for s in page.students}, by_person)
        mastered = {s.person for s in page.students if s.state in ("mastered", "retained")}
        self.assertEqual(set(page.enrich), mastered)
        self.assertFalse(set(page.reteach) & mastered)
        with self.assertRaises(NotFound):
            standard.standard_page(self.ctx, self.boss, self.klass, 99_999)

    def test_groups_from_needs(self) -> None:
        early = give(self, self.make_form("Another"), self.window_id, 0)
        self.move(early, 30)
        found = needs.need_groups(self.ctx, self.boss, self.klass, 2, 6, 3)
        people = [p.person for g in found.groups for p in g.people]
        self.assertEqual(len(people), len(set(people)), "each student in one group")
        self.assertLessEqual(len(found.groups), 3)
        self.assertTrue(all(2 <= len(g.people) <= 6 for g in found.groups))
        rest = {p.person for p in (*found.unmet, *found.without)}
        self.assertEqual(len(set(people) | rest), self.SIZE)
        one, two = people[:2]
        parted = needs.need_groups(self.ctx, self.boss, self.klass, 1, self.SIZE, 3, [(one, two), (one, 99_999)])
        self.assertFalse([g for g in parted.groups if {one, two} <= {p.person for p in g.people}])
        for least, most, many in ((5, 3, 3), (0, 3, 3), (1, 3, 0)):
            with self.assertRaisesRegex(Invalid, "at least one student"):
                needs.need_groups(self.ctx, self.boss, self.klass, least, most, many)

    def test_pages_of_what_is_not_there_or_not_theirs(self) -> None:
        column = int(self.page().columns[0].standard)
        stranger = Actor(person_id=self.boss.person_id, name="x", grants=(), sign_in_id=0, csrf="")
        with self.assertRaises(NotAllowed):
            standard.standard_page(self.ctx, stranger, self.klass, column)
        with self.assertRaises(NotAllowed):
            needs.need_groups(self.ctx, stranger, self.klass, 2, 6, 3)
        with self.assertRaisesRegex(NotFound, "no such class"):
            needs.need_groups(self.ctx, self.boss, 99_999, 2, 6, 3)
        with self.assertRaisesRegex(NotFound, "no such class"):
            standard.standard_page(self.ctx, self.boss, 99_999, column)


class Cells(MasteryCase):
    def test_the_run_response_by_response(self) -> None:
        page = self.page()
        row = page.rows[0]
        found = cell.cell_page(self.ctx, self.boss, int(row.person), int(page.columns[0].standard))
        self.assertEqual(found.state, STATES[row.cells[0].state])
        self.assertEqual(found.share, row.cells[0].share)
        self.assertAlmostEqual(sum(found.bars), 1.0)
        assert found.low is not None and found.high is not None and found.mean is not None
        self.assertTrue(found.low < found.mean < found.high)
        self.assertEqual([p.day for p in found.pieces], sorted(p.day for p in found.pieces))
        self.assertEqual({h.day for h in found.history}, {p.day for p in found.pieces})
        self.assertEqual(found.unusual, sum(p.possible for p in found.pieces))

    def test_a_student_beside_the_class(self) -> None:
        page = self.page()
        first, second = (int(row.person) for row in page.rows[:2])
        found = cell.student_mastery(self.ctx, self.boss, first, "Mathematics")
        self.assertEqual((found.next, found.before), (second, None))
        means = [s.mean for s in found.standards]
        self.assertEqual(means, sorted(means))
        by_code = {c.code: page.states[page.rows[0].cells[at].state] for at, c in enumerate(page.columns)}
        self.assertEqual({s.code: s.state for s in found.standards}, by_code)
        with self.assertRaises(NotFound):
            cell.student_mastery(self.ctx, self.boss, first, "Alchemy")

    def test_a_student_who_changes_class_keeps_the_run(self) -> None:
        student = int(self.page().rows[0].person)
        standard = int(self.page().columns[0].standard)
        before = cell.cell_page(self.ctx, self.boss, student, standard)
        with self.ctx.store.read() as db:
            self.assertIsNotNone(db.get(Person, student))
        self.assertEqual(cell.cell_page(self.ctx, self.boss, student, standard).says, before.says)


if __name__ == "__main__":
    unittest.main()
