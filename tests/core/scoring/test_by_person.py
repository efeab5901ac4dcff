"""What a person's scores are worth: the rubric, condition codes, two scorers, and rules beside them."""

from __future__ import annotations

import itertools
import unittest

import numpy as np

from bildung.core.errors import Refused
from bildung.core.scoring.conditions import CONDITIONS, DEFAULTS, KEYS, WORDS, Worth
from bildung.core.scoring.drawing import lot, scored_twice
from bildung.core.scoring.rubric import points_of, scale_of
from bildung.core.scoring.settled import GivenScore, SettledScore, settled, whole_response


class Rubrics(unittest.TestCase):
    def test_a_level_of_each_criterion(self) -> None:
        scale = scale_of([[2, 0, 1], [0, 1]], 3)
        self.assertEqual(scale.criteria, ((0.0, 1.0, 2.0), (0.0, 1.0)))
        found = {points_of(scale, given) for given in itertools.product(*scale.criteria)}
        self.assertEqual(found, {0.0, 1.0, 2.0, 3.0})

    def test_without_a_rubric_whole_points(self) -> None:
        self.assertEqual(scale_of([], 4).criteria, ((0.0, 1.0, 2.0, 3.0, 4.0),))
        self.assertEqual(points_of(scale_of([], 4), [3.0]), 3.0)

    def test_levels_may_skip_points_and_what_lies_between_is_refused(self) -> None:
        scale = scale_of([[0, 1, 4]], 4)
        with self.assertRaisesRegex(Refused, "2 is no level of criterion 1; its levels are 0, 1, 4"):
            points_of(scale, [2])

    def test_what_is_no_score_by_the_rubric_is_refused(self) -> None:
        scale = scale_of([[0, 1], [0, 2]], 3)
        for given in ([1.0], [1.0, 2.0, 0.0], [], [-1.0, 0.0], [1.0, 2.5], [float("nan"), 0.0], [float("inf"), 0.0]):
            with self.assertRaises(Refused, msg=str(given)):
                points_of(scale, given)

    def test_a_rubric_that_does_not_add_up_is_refused(self) -> None:
        with self.assertRaisesRegex(Refused, "worth 3 points together; the response is worth 4"):
            scale_of([[0, 1], [0, 2]], 4)
        with self.assertRaisesRegex(Refused, "criterion 2 of the rubric has two levels"):
            scale_of([[0, 1], [0, 2, 2]], 3)


class Settled(unittest.TestCase):
    def of(self, *given: GivenScore, double: bool = False, apart: float | None = None, **rules: Worth) -> SettledScore:
        return settled(given, {**DEFAULTS, **rules}, double, apart)  # type: ignore[dict-item]

    def test_one_score_stands_and_the_mean_of_two(self) -> None:
        self.assertEqual(self.of(), SettledScore(None, "score"))
        self.assertEqual(self.of(GivenScore(3.0)), SettledScore(3.0))
        self.assertEqual(self.of(GivenScore(3.0), GivenScore(2.0)), SettledScore(2.5))

    def test_what_is_scored_twice_waits_for_the_second(self) -> None:
        self.assertEqual(self.of(GivenScore(3.0), double=True).waits, "second")
        self.assertEqual(self.of(GivenScore(0.0, "blank"), double=True).waits, "second")
        self.assertEqual(self.of(GivenScore(3.0), GivenScore(3.0), double=True), SettledScore(3.0))

    def test_further_apart_than_the_limit_waits_for_adjudication(self) -> None:
        self.assertEqual(self.of(GivenScore(3.0), GivenScore(2.0), apart=1.0), SettledScore(2.5), "as far as allowed")
        self.assertEqual(self.of(GivenScore(3.0), GivenScore(1.0), apart=1.0).waits, "adjudication")
        self.assertEqual(self.of(GivenScore(3.0), GivenScore(2.5), apart=0.0).waits, "adjudication")

    def test_who_settles_has_the_last_word(self) -> None:
        given = GivenScore(3.0), GivenScore(0.0), GivenScore(1.0, final=True)
        self.assertEqual(self.of(*given, apart=1.0, double=True), SettledScore(1.0))
        self.assertEqual(self.of(*given, GivenScore(2.0, final=True)), SettledScore(2.0), "the latest of them")
        coded = GivenScore(0.0, "not_legible", final=True)
        self.assertEqual(self.of(GivenScore(3.0), coded), SettledScore(0.0), "goes to nobody any more")

    def test_every_condition_code_by_its_rule(self) -> None:
        for code in CONDITIONS:
            one = GivenScore(0.0, code)
            self.assertEqual(self.of(one, **{code: "zero"}), SettledScore(0.0))
            self.assertEqual(self.of(one, **{code: "missing"}), SettledScore(None, missing=True))
            self.assertEqual(self.of(one, **{code: "second"}).waits, "second")
            self.assertEqual(self.of(one, one, **{code: "second"}), SettledScore(0.0), "agreed")
        self.assertEqual(len({KEYS[c] for c in CONDITIONS}), len(CONDITIONS), "each has a key of its own")
        self.assertEqual(set(WORDS), set(CONDITIONS))

    def test_a_code_against_points_or_another_code_is_settled_by_a_third(self) -> None:
        for other in (GivenScore(2.0), GivenScore(0.0, "too_short")):
            self.assertEqual(self.of(GivenScore(0.0, "off_topic"), other).waits, "adjudication")

    def test_the_order_in_which_two_score_changes_nothing(self) -> None:
        some: list[GivenScore] = [GivenScore(0.0), GivenScore(2.0), GivenScore(0.0, "blank"), GivenScore(0.0, "copied")]
        for one, other in itertools.product(some, some):
            self.assertEqual(self.of(one, other, apart=1.0), self.of(other, one, apart=1.0))


class Whole(unittest.TestCase):
    def test_rules_and_persons_add_up(self) -> None:
        self.assertEqual(whole_response(2.0, True, SettledScore(1.5)), SettledScore(3.5))
        self.assertEqual(whole_response(2.0, False, None), SettledScore(2.0), "nothing for a person to score")
        self.assertEqual(whole_response(2.0, True, None), SettledScore(None, "score"))
        for waits in (SettledScore(None, "second"), SettledScore(None, missing=True)):
            self.assertEqual(whole_response(2.0, True, waits), waits)


class Drawing(unittest.TestCase):
    def test_lots_lie_evenly_and_do_not_go_by_the_order_of_attempts(self) -> None:
        lots = np.array([lot(3, 8, sitting) for sitting in range(4000)])
        self.assertTrue(((lots >= 0) & (lots < 1)).all())
        self.assertLess(abs(lots.mean() - 0.5), 4 * np.sqrt(1 / 12 / 4000))
        self.assertLess(abs(np.corrcoef(lots, np.arange(4000))[0, 1]), 4 / np.sqrt(4000))
        self.assertEqual(lots.tolist(), [lot(3, 8, sitting) for sitting in range(4000)], "the same each time")
        self.assertNotEqual(lots.tolist()[:5], [lot(4, 8, sitting) for sitting in range(5)])

    def test_the_share_is_kept_and_a_larger_one_takes_in_the_smaller(self) -> None:
        drawn = {share: {s for s in range(4000) if scored_twice(1, 5, s, share)} for share in (0.0, 0.2, 0.5, 1.0)}
        self.assertEqual((len(drawn[0.0]), len(drawn[1.0])), (0, 4000))
        self.assertLess(abs(len(drawn[0.2]) - 800), 4 * np.sqrt(4000 * 0.2 * 0.8))
        self.assertLessEqual(drawn[0.2], drawn[0.5])

    def test_who_is_scored_twice_says_nothing_of_the_place_in_the_queue(self) -> None:
        lots = np.array([lot(1, 5, s) for s in range(4000)])
        twice = np.array([scored_twice(1, 5, s, 0.5) for s in range(4000)])
        self.assertLess(abs(lots[twice].mean() - lots[~twice].mean()), 4 * np.sqrt(2 / 12 / 2000))


if __name__ == "__main__":
    unittest.main()
