"""Agreement of scorers as the page tells it."""

from __future__ import annotations

import csv
import unittest

from bildung.services.answers.byperson import settled_scores
from bildung.services.scoring import scorers, scoresfile, waiting
from bildung.services.scoring.waiting import TaskWish
from bildung.services.shared.errors import Invalid, NotAllowed
from tests.services.scoring.support import STUDENTS, ScoringCase

WROTE = STUDENTS - 1


class Agreement(ScoringCase):
    def setUp(self) -> None:
        super().setUp()
        tasks = [TaskWish(scorer=id) for id in (self.boss_id, self.teacher.person_id)]
        waiting.plan_scoring(self.ctx, self.boss, self.places["writing"], self.window_id, tasks, 1.0, None)

    def page(self) -> scorers.AgreementPage:
        return scorers.agreement_page(self.ctx, self.boss, self.places["writing"], self.window_id)

    def total_of(self, sitting: int) -> float | None:
        with self.ctx.store.read() as db:
            found = settled_scores(db, [self.places["writing"]])[self.places["writing"]].get(sitting)
        return None if found is None else found.points

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

    def test_a_prescored_response_is_given_to_every_scorer_without_their_knowing(self) -> None:
        first = self.sittings()[0]
        self.give(self.boss, first, 1.0, 2.0, truth=True)
        total = self.total_of(first)
        seen = self.open(self.teacher, sitting=first)
        assert seen.response is not None
        self.assertEqual((seen.response.waits, seen.response.given, seen.response.double), ("score", [], False))
        self.assertEqual((seen.progress.mine, seen.progress.scored), (WROTE - 1, 0), "like any other")
        self.assertIn(f"{2 * WROTE} responses", waiting.waiting_page(self.ctx, self.teacher).finding)
        self.give(self.teacher, first, 0.0, 1.0)
        self.assertEqual(self.total_of(first), total, "what is right stands")
        after = self.open(self.teacher, sitting=first).response
        assert after is not None
        self.assertEqual((after.waits, [g.truth for g in after.given]), ("", [True]))
        page = self.page()
        line = next(s for s in page.scorers if s.id == self.teacher.person_id)
        self.assertEqual((page.prescored, line.prescored, line.apart, line.right, line.off), (1, 1, -2.0, 0, False))
        with self.assertRaises(NotAllowed):
            self.give(self.teacher, self.sittings()[1], 1.0, 1.0, truth=True)

    def test_a_second_opinion_is_blind_and_holds_the_total_back(self) -> None:
        waiting.plan_scoring(
            self.ctx,
            self.boss,
            self.places["writing"],
            self.window_id,
            [TaskWish(scorer=self.boss_id), TaskWish(scorer=self.teacher.person_id)],
            0.0,
            None,
        )
        first = self.sittings()[0]
        self.give(self.teacher, first, 1.0, 1.0, second=True)
        line = next(i for i in waiting.waiting_page(self.ctx, self.boss).items if i.number == 1)
        self.assertEqual((line.second, line.scored), (1, 0))
        seen = self.open(self.boss, sitting=first).response
        assert seen is not None
        self.assertEqual((seen.waits, seen.given), ("second", []))
        self.give(self.boss, first, 1.0, 2.0)
        after = self.open(self.teacher, sitting=first).response
        assert after is not None
        self.assertEqual((after.waits, after.mine.second if after.mine else None), ("", True))
        with self.assertRaises(Invalid):
            self.give(self.boss, self.sittings()[1], 1.0, 1.0, final=True, second=True)

    def test_scores_as_a_file(self) -> None:
        first, other = self.sittings()[:2]
        self.give(self.teacher, first, 1.0, 2.0, second=True)
        self.give(self.boss, other, code="off_topic", final=True)
        text = scoresfile.scores_file(self.ctx, self.boss, self.form, self.window_id, "csv").decode("utf-8-sig")
        rows = list(csv.DictReader(text.splitlines()))
        told = {
            (r["points"], r["by criterion"], r["condition code"], r["scorer"], r["counts"], r["note"]) for r in rows
        }
        self.assertEqual(
            told,
            {
                ("3", "1 + 2", "", self.teacher.name, "yes", "second opinion asked"),
                ("0", "", "off topic", self.boss.name, "settles", ""),
            },
        )
        with self.assertRaises(NotAllowed):
            scoresfile.scores_file(self.ctx, self.teacher, self.form, self.window_id, "csv")

    def test_one_scorer_alone_and_who_may_look(self) -> None:
        self.give(self.teacher, self.sittings()[0], 1.0, 1.0)
        page = self.page()
        self.assertEqual((page.scorers[0].effect, page.scorers[0].verdict), (None, "cannot be told"))
        self.assertIn("cannot be told", page.finding)
        with self.assertRaises(NotAllowed):
            scorers.agreement_page(self.ctx, self.teacher, self.places["writing"], self.window_id)


if __name__ == "__main__":
    unittest.main()
