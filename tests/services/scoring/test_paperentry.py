"""Answers typed off paper count as those of devices do; typed twice, a slip is found before anything is kept."""

from __future__ import annotations

import unittest

from sqlalchemy import select

from bildung.formats.problem import ImportProblem
from bildung.services.scoring import answersfile, paperentry
from bildung.services.sessions import running
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.staging import Preview
from bildung.services.sitting.events import rebuild
from bildung.store.models import Person, Response, Sitting
from tests.services.corrections.test_making import CorrectionCase


class PaperCase(CorrectionCase):
    def setUp(self) -> None:
        super().setUp()

        # what a device sent is put aside: these two worked on paper
        def work(db):  # type: ignore[no-untyped-def]
            for id in self.sittings()[:2]:
                sitting = db.get_one(Sitting, id)
                sitting.state, sitting.handed_in_at, sitting.started_at = "not_started", None, None
                for row in db.scalars(select(Response).where(Response.sitting_id == id)):
                    db.delete(row)

        self.ctx.store.write(work)
        for id in self.sittings()[:2]:
            running.mark(self.ctx, self.boss, self.session, id, "on_paper")
        self.one = self.sittings()[0]


class Paper(PaperCase):
    def enter(
        self, typed: dict[str, str], again: dict[str, str] | None = None, submit: bool = False
    ) -> paperentry.Entered:
        first = {self.places[kind]: text for kind, text in typed.items()}
        second = None if again is None else {self.places[kind]: text for kind, text in again.items()}
        return paperentry.enter(self.ctx, self.teacher, self.session, self.one, first, second, submit)

    def test_typed_answers_are_in_every_figure_once_submitted(self) -> None:
        page = paperentry.entry_page(self.ctx, self.teacher, self.session)
        self.assertEqual(page.finding, "2 of 2 attempts on paper wait to be entered.")
        self.assertNotIn(self.one, self.totals())
        sheet = paperentry.entry_sheet(self.ctx, self.teacher, self.session, self.one)
        self.assertEqual(
            [(i.number, i.way) for i in sheet.items], [(1, "letter"), (2, "text"), (3, "text"), (4, "text")]
        )
        self.assertEqual(self.enter({"choice": "a", "numeric": "14.6"}).answers, 2)
        self.assertNotIn(self.one, self.totals())
        self.assertEqual(self.enter({"gap": "2"}, submit=True).answers, 3)
        self.assertEqual(self.totals()[self.one], 4.0)
        page = paperentry.entry_page(self.ctx, self.teacher, self.session)
        self.assertEqual((page.finding, page.attempts[0].entered), ("1 of 2 attempts on paper waits to be entered.", 3))

    def test_a_slip_is_mended_and_the_present_answers_come_from_the_events(self) -> None:
        self.enter({"choice": "C", "numeric": "15"}, submit=True)
        self.assertEqual(self.totals()[self.one], 0.0)
        self.enter({"choice": "B", "numeric": ""})
        self.assertEqual(self.totals()[self.one], 2.0)
        self.ctx.store.write(lambda db: rebuild(db, self.one))
        with self.ctx.store.read() as db:
            now = {
                r.form_item_id: r.answer for r in db.scalars(select(Response).where(Response.sitting_id == self.one))
            }
        self.assertEqual((now[self.places["choice"]], now[self.places["numeric"]]), ("B", ""))

    def test_typed_twice_and_not_the_same_nothing_is_kept(self) -> None:
        found = self.enter({"choice": "A", "gap": "2"}, {"choice": "B", "gap": "2"}, submit=True)
        self.assertEqual((found.differs, found.answers), ([1], 0))
        self.assertEqual(paperentry.entry_page(self.ctx, self.teacher, self.session).attempts[0].entered, 0)
        self.assertEqual(self.enter({"choice": "A", "gap": "2"}, {"choice": "a", "gap": "2"}, submit=True).answers, 2)

    def test_what_makes_no_sense_is_refused(self) -> None:
        with self.assertRaisesRegex(Invalid, "question 1: Z is none of the letters"):
            self.enter({"choice": "Z"})
        with self.assertRaisesRegex(Invalid, "not on this student's form"):
            paperentry.enter(self.ctx, self.teacher, self.session, self.one, {10**6: "A"}, None, False)
        with self.assertRaisesRegex(Conflict, "not taken on paper"):
            paperentry.entry_sheet(self.ctx, self.teacher, self.session, self.sittings()[3])
        with self.assertRaises(NotFound):
            paperentry.entry_page(self.ctx, self.staff("elsewhere"), self.session)
        with self.assertRaises(NotAllowed):
            paperentry.entry_page(self.ctx, self.wren, self.session)


class Sheets(PaperCase):
    """The same by a sheet that was filled in somewhere else."""

    def bring(self, text: str) -> Preview:
        return answersfile.preview(self.ctx, self.teacher, self.session, {"answers.csv": text.encode()})

    def students(self) -> list[str]:
        sheet = answersfile.answers_sheet(self.ctx, self.teacher, self.session, "csv").decode("utf-8-sig")
        self.assertEqual(sheet.splitlines()[0], "student,name,1,2,3,4")
        return [line.split(",")[0] for line in sheet.splitlines()[1:]]

    def test_a_sheet_is_looked_at_and_goes_in_whole(self) -> None:
        first, second = self.students()
        seen = self.bring(f"student;1;2;4\n{first};a;14.6;2\n{second};Z;15;2\nnobody;A;1;1\n")
        self.assertEqual((seen.counts["added"], seen.counts["left_out"]), (1, 2))
        self.assertEqual(
            [line.detail for line in seen.lines],
            [
                "3 answers new, 0 without an answer",
                "line 3, question 1: Z is none of the letters ABC",
                "line 4: no student of this session has this number",
            ],
        )
        self.assertNotIn(self.one, self.totals(), "nothing is changed by a look")
        answersfile.apply(self.ctx, self.teacher, self.session, seen.id)
        self.assertEqual(self.totals()[self.one], 4.0)
        self.assertEqual(self.bring(f"student,1,2,4\n{first},A,14.6,2\n").counts["same"], 1)

    def test_what_goes_out_comes_back_the_same_in_both_kinds(self) -> None:
        first, _ = self.students()
        done = self.bring(f"student,1,2,3\n{first},b,-14,=2+x\n")
        answersfile.apply(self.ctx, self.teacher, self.session, done.id)
        for kind in ("csv", "xlsx"):
            data = answersfile.answers_sheet(self.ctx, self.teacher, self.session, kind)
            again = answersfile.preview(self.ctx, self.teacher, self.session, {f"a.{kind}": data})
            self.assertEqual((again.counts["same"], again.counts["changed"]), (1, 0), kind)

    def test_sheets_that_are_none(self) -> None:
        first, _ = self.students()
        for text, says in (
            ("name,1\nA,B\n", "no column student"),
            (f"student,question 1\n{first},A\n", "a column 'question 1'"),
            (f"student\n{first}\n", "no questions"),
            ("student,1\n", "no rows"),
            (f"student,1\n{first},A\n{first},B\n", "again \\(first in line 2\\)"),
            (f"student,1,01\n{first},A,B\n", "question 01 twice"),
        ):
            with self.subTest(text), self.assertRaisesRegex(ImportProblem, says):
                self.bring(text)
        beyond = self.bring(f"student,1,9\n{first},A,B\n")
        self.assertIn("question 9: the form has 4", beyond.lines[0].detail)
        on_device = self.sittings()[3]
        with self.ctx.store.read() as db:
            number = db.get_one(Person, db.get_one(Sitting, on_device).person_id).source_id
        self.assertIn("took the test on a device", self.bring(f"student,1\n{number},A\n").lines[0].detail)

    def test_whose_it_is_not(self) -> None:
        with self.assertRaises(NotFound):
            answersfile.preview(self.ctx, self.staff("elsewhere"), self.session, {"a.csv": b"student,1\nx,A\n"})


if __name__ == "__main__":
    unittest.main()
