"""A rubric that changes in the middle of scoring."""

from __future__ import annotations

import unittest

from sqlalchemy import func, select

from bildung.services.scoring import earlier, waiting
from bildung.services.shared.errors import Conflict, NotAllowed, NotFound
from bildung.store.models import FormItem, Mark, Scoring
from tests.services.scoring.support import ScoringCase


class Earlier(ScoringCase):
    def setUp(self) -> None:
        super().setUp()
        for sitting in self.sittings()[:3]:
            self.give(self.teacher, sitting, 1.0, 1.0)

    def change_rubric(self) -> None:
        def work(db):  # type: ignore[no-untyped-def]
            place = db.get_one(FormItem, self.places["writing"])
            newest = db.scalars(
                select(Scoring)
                .where(Scoring.item_version_id == place.item_version_id)
                .order_by(Scoring.number.desc())
                .limit(1)
            ).one()
            db.add(
                Scoring(
                    item_version_id=newest.item_version_id,
                    number=newest.number + 1,
                    parts=newest.parts,
                    points=newest.points,
                    created_at=self.clock(),
                )
            )

        self.ctx.store.write(work)

    def page(self) -> earlier.EarlierPage:
        return earlier.earlier_page(self.ctx, self.boss, self.places["writing"], self.window_id)

    def open_on_page(self) -> int:
        return next(i for i in waiting.waiting_page(self.ctx, self.boss).items if i.number == 1).earlier

    def keep(self, newest: int) -> None:
        earlier.keep_earlier(self.ctx, self.boss, self.places["writing"], self.window_id, newest)

    def test_before_it_changes_there_is_nothing_to_decide(self) -> None:
        self.assertEqual((self.page().open, self.open_on_page()), (0, 0))
        self.assertEqual(self.page().finding, "All scores were given by the rubric that holds now.")

    def test_scores_by_the_earlier_one_are_listed_and_kept_by_decision(self) -> None:
        self.change_rubric()
        page = self.page()
        self.assertEqual((page.open, page.kept, self.open_on_page()), (3, 0, 3))
        self.assertEqual({(s.by, s.points, s.rubric, s.now) for s in page.scores}, {(self.teacher.name, 2.0, 1, True)})
        self.assertEqual([(r.number, r.in_force, r.scores) for r in page.rubrics], [(1, False, 3), (2, True, 0)])
        self.give(self.teacher, self.sittings()[3], 1.0, 1.0)
        self.keep(2)
        page = self.page()
        self.assertEqual((page.open, page.kept, self.open_on_page()), (0, 3, 0))
        self.assertEqual(page.finding, "3 scores by an earlier rubric stand by decision.")
        with self.subTest("it changes once more: all are asked about again"):
            self.change_rubric()
            self.assertEqual((self.page().open, self.page().kept), (1, 3), "what was decided stays decided")

    def test_a_decision_about_another_rubric_is_refused(self) -> None:
        self.change_rubric()
        seen = self.page().newest
        self.change_rubric()
        with self.assertRaisesRegex(Conflict, "changed again"):
            self.keep(seen)
        with self.assertRaises(NotAllowed):
            earlier.earlier_page(self.ctx, self.teacher, self.places["writing"], self.window_id)
        with self.assertRaises(NotFound):
            earlier.earlier_page(self.ctx, self.boss, self.places["choice"], self.window_id)

    def test_scores_that_were_set_aside_are_not_asked_about(self) -> None:
        self.change_rubric()

        def work(db):  # type: ignore[no-untyped-def]
            for mark in db.scalars(select(Mark)):
                mark.aside = True
            return db.scalar(select(func.count()).select_from(Mark))

        self.assertEqual(self.ctx.store.write(work), 3)
        self.assertEqual((self.page().open, self.open_on_page()), (0, 0))


if __name__ == "__main__":
    unittest.main()
