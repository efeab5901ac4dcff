"""Agreement of scorers as the page tells it."""

from __future__ import annotations

import unittest

from bildung.services.scoring import scorers, waiting
from bildung.services.scoring.waiting import TaskWish
from bildung.services.shared.errors import NotAllowed
from tests.services.scoring.support import STUDENTS, ScoringCase

WROTE = STUDENTS - 1


class Agreement(ScoringCase):
    def setUp(self) -> None:
        super().setUp()
        tasks = [TaskWish(scorer=id) for id in (self.boss_id, self.teacher.person_id)]
        waiting.plan_scoring(self.ctx, self.boss, self.places["writing"], self.window_id, tasks, 1.0, None)

    def page(self) -> scorers.AgreementPage:
        return scorers.agreement_page(self.ctx, self.boss, self.places["writing"], self.window_id)

    def test_before_anything_is_scored_nothing_is_said(self) -> None:
        self.assertEqual(self.page().finding, "No response to this item has been scored yet.")

    def test_two_scorers_on_the_same_responses(self) -> None:
        for n, sitting in enumerate(self.sittings()[:WROTE]):
            self.give(self.teacher, sitting, 1.0, float(n % 3))
        for n, sitting in enumerate(self.sittings()[:WROTE]):
            self.give(self.boss, sitting, 1.0, float(n % 2))
        page = self.page()
        pair = page.pairs[0]
        alike = sum(n % 3 == n % 2 for n in range(WROTE))
        self.assertEqual((pair.n, round(pair.exact * WROTE), pair.codes), (WROTE, alike, 0))
        self.assertIn(
            f"Two scorers gave the same points to {100 * alike / WROTE:.0f}% of {WROTE} responses.", page.finding
        )
        self.assertEqual({s.verdict for s in page.scorers}, {"too few to tell"})
        self.assertAlmostEqual(sum(s.effect or 0 for s in page.scorers), 0.0)
        self.assertTrue(all(s.needed > 0 and not s.rescore for s in page.scorers))

    def test_condition_codes_are_counted_apart(self) -> None:
        one, two, three = self.sittings()[:3]
        for sitting, first, second in ((one, "off_topic", "off_topic"), (two, "off_topic", "too_short")):
            self.give(self.teacher, sitting, code=first)
            self.clock.pass_by(minutes=11)  # what the teacher has open now goes back
            self.give(self.boss, sitting, code=second)
            self.clock.pass_by(minutes=11)
        self.give(self.teacher, three, 1.0, 1.0)
        pair = self.page().pairs[0]
        self.assertEqual((pair.n, pair.codes, pair.codes_alike), (0, 2, 1))

    def test_one_scorer_alone_and_who_may_look(self) -> None:
        self.give(self.teacher, self.sittings()[0], 1.0, 1.0)
        page = self.page()
        self.assertEqual((page.scorers[0].effect, page.scorers[0].verdict), (None, "cannot be told"))
        self.assertIn("cannot be told", page.finding)
        with self.assertRaises(NotAllowed):
            scorers.agreement_page(self.ctx, self.teacher, self.places["writing"], self.window_id)


if __name__ == "__main__":
    unittest.main()
