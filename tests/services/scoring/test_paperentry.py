"""Answers typed off paper count as those of devices do; typed twice, a slip is found before anything is kept."""

from __future__ import annotations

import unittest

from sqlalchemy import select

from bildung.services.scoring import paperentry
from bildung.services.sessions import running
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.sitting.events import rebuild
from bildung.store.models import Response, Sitting
from tests.services.corrections.test_making import CorrectionCase


class Paper(CorrectionCase):
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


if __name__ == "__main__":
    unittest.main()
