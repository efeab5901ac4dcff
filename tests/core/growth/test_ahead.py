"""Projections, transitions, skills, direction, groups picked by their start."""

from __future__ import annotations

import math
import unittest

import numpy as np
from scipy import stats

from bildung.core.errors import Refused
from bildung.core.growth.ahead import Ahead, ahead_by_earlier, ahead_by_table, kept, tracks
from bildung.core.growth.cohort import growth
from bildung.core.growth.direction import wrong_way
from bildung.core.growth.groups import group_growth, off_among, was_picked
from bildung.core.growth.matched import MatchedCohort
from bildung.core.growth.projection import project
from bildung.core.growth.skills import skills_found
from bildung.core.growth.transitions import transitions
from bildung.core.scales.norms import Correlations, Moments, NormTable, Points

KEY = ("Reading", "7")
WEEKS = np.array([0.0, 36.0])


def table(rho: float = 0.9, points: bool = False) -> NormTable:
    related = {KEY: Correlations(np.array([0.0, 20.0]), np.array([20.0, 36.0]), np.array([[rho, rho], [np.nan, rho]]))}
    if points:
        z = np.linspace(-2.5, 2.5, 41)
        rows = np.array([200 + 14 * z, 210 + 14 * z])
        return NormTable({}, {KEY: Points(WEEKS, 100 * stats.norm.cdf(z), rows)}, related)
    return NormTable({KEY: Moments(WEEKS, np.array([200.0, 210.0]), np.array([14.0, 14.0]))}, {}, related)


class ByTable(unittest.TestCase):
    def test_the_same_as_a_student_by_hand(self) -> None:
        scores, weeks = np.array([190.0, 214.0]), np.array([20.0, 20.0])
        found = ahead_by_table(table(), KEY, KEY, scores, weeks, 36.0, 4.0)
        for at, score in enumerate(scores):
            one = project(score, 200 + 10 * 20 / 36, 14, 210, 14, 0.9, 4.0)
            self.assertAlmostEqual(found.expected[at], one.expected)
            cut = np.array([208.0, 208.0])
            self.assertAlmostEqual(found.will_score(cut)[at], one.will_score(208))
            self.assertAlmostEqual(found.will_truly_be(cut)[at], one.will_truly_be(208))
            self.assertAlmostEqual(found.target(cut, 0.8)[at], one.target(208, 0.8))

    def test_percentile_points_say_nearly_the_same_as_the_moments_that_they_are_of(self) -> None:
        scores, weeks = np.array([195.0, 205.0, 215.0]), np.full(3, 20.0)
        by_moments = ahead_by_table(table(), KEY, KEY, scores, weeks, 36.0, math.nan)
        by_points = ahead_by_table(table(points=True), KEY, KEY, scores, weeks, 36.0, math.nan)
        np.testing.assert_allclose(by_points.expected, by_moments.expected, atol=0.3)
        np.testing.assert_allclose(by_points.observed_sd, by_moments.observed_sd, rtol=0.1)
        np.testing.assert_array_equal(by_points.true_sd, by_points.observed_sd)

    def test_what_nothing_can_be_expected_of(self) -> None:
        bare = NormTable(table().moments, {}, {})
        one = np.array([200.0])
        with self.assertRaisesRegex(Refused, "no correlations"):
            ahead_by_table(bare, KEY, KEY, one, np.array([20.0]), 36.0, 4.0)
        with self.assertRaisesRegex(Refused, "leaves nothing"):
            ahead_by_table(table(), KEY, KEY, one, np.array([20.0]), 36.0, 9.0)
        some = np.array([20.0, 205.0])
        far = ahead_by_table(table(points=True), KEY, KEY, some, np.full(2, 20.0), 36.0, 4.0)
        self.assertEqual(np.isnan(far.expected).tolist(), [True, False], "beyond the outermost percentile")
        self.assertEqual(tracks(far.will_score(np.full(2, 100.0))), ["cannot be told", "on track"])


class ByEarlier(unittest.TestCase):
    def test_probabilities_hold_for_new_students(self) -> None:
        rng = np.random.default_rng(5)
        hits, said = [], []
        for _ in range(300):
            start = rng.normal(0, 1, 40)
            end = 0.8 * start + rng.normal(0, 0.6, 40)
            new = rng.normal(0, 1, 20)
            came = 0.8 * new + rng.normal(0, 0.6, 20)
            found = ahead_by_earlier(new, start, end, math.nan)
            p = found.will_score(np.full(20, 0.5))
            hits += (came >= 0.5).tolist()
            said += p.tolist()
        told, came_of = np.array(said), np.array(hits)
        for low, high in ((0.1, 0.3), (0.4, 0.6), (0.7, 0.9)):
            mine = (told >= low) & (told < high)
            self.assertAlmostEqual(came_of[mine].mean(), told[mine].mean(), delta=0.04)

    def test_too_few(self) -> None:
        with self.assertRaisesRegex(Refused, "needs 30"):
            ahead_by_earlier(np.zeros(2), np.arange(20.0), np.arange(20.0), math.nan)


class Told(unittest.TestCase):
    def test_tracks(self) -> None:
        p = np.array([0.80, 0.79, 0.2, 0.21, np.nan])
        self.assertEqual(tracks(p), ["on track", "uncertain", "off track", "uncertain", "cannot be told"])

    def test_projections_held_against_what_came(self) -> None:
        rng = np.random.default_rng(1)
        called = 0
        for _ in range(400):
            p = rng.uniform(0.05, 0.95, 80)
            called += kept(p, (rng.random(80) < p).astype(np.int64)).p < 0.05
        self.assertLess(called / 400, 0.08)
        found = kept(np.full(100, 0.5), np.ones(100, dtype=np.int64))
        self.assertEqual((found.n, found.reached, found.expected), (100, 100, 50.0))
        self.assertLess(found.p, 1e-9)
        with self.assertRaises(Refused):
            kept(np.zeros(0), np.zeros(0, dtype=np.int64))

    def test_a_later_score_without_error_is_told_by_what_is_observed(self) -> None:
        one = Ahead(np.array([10.0]), np.array([2.0]), np.array([2.0]), "table")
        self.assertAlmostEqual(one.will_score(np.array([10.0]))[0], 0.5)


class Levels(unittest.TestCase):
    def test_movement_by_hand(self) -> None:
        found = transitions(np.array([0, 0, 1, 2, 2]), np.array([1, 0, 2, 2, 1]), 3)
        self.assertEqual(found.counts.tolist(), [[1, 1, 0], [0, 0, 1], [0, 1, 1]])
        self.assertEqual((found.up, found.same, found.down, found.n), (2, 2, 1, 5))
        self.assertAlmostEqual(found.p or 0, stats.binomtest(2, 3).pvalue)
        nobody = transitions(np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64), 3)
        self.assertEqual((nobody.n, nobody.up_ci95, nobody.p), (0, None, None))

    def test_the_sign_test_is_that_of_scipy(self) -> None:
        for up, down in ((9, 1), (5, 5), (30, 14)):
            start = np.zeros(up + down, dtype=np.int64) + 1
            end = np.array([2] * up + [0] * down)
            self.assertAlmostEqual(transitions(start, end, 3).p or 0, stats.binomtest(up, up + down).pvalue)


class Skills(unittest.TestCase):
    def test_who_is_ready_and_where_focus_is_needed(self) -> None:
        p = np.array([[0.9, 0.9, 0.3], [0.85, 0.4, 0.1], [0.95, np.nan, 0.2], [0.9, 0.2, np.nan], [0.81, 0.9, 0.85]])
        found = skills_found(p)
        self.assertEqual(found.known.tolist(), [5, 4, 4])
        self.assertEqual(found.ready.sum(axis=0).tolist(), [5, 2, 1])
        self.assertEqual(found.focus.tolist(), [2, 1, 2, 1, -1])
        self.assertEqual(found.group_focus, 1)
        self.assertEqual(skills_found(np.full((2, 2), np.nan)).group_focus, -1)


class Direction(unittest.TestCase):
    def test_a_measure_that_falls_while_all_others_rise(self) -> None:
        self.assertTrue(wrong_way((-4, -2), [(1, 3), (0.5, 2)]))
        self.assertFalse(wrong_way((-4, 1), [(1, 3)]), "it may as well stay")
        self.assertFalse(wrong_way((-4, -2), [(1, 3), (-1, 2)]), "another may fall as well")
        self.assertFalse(wrong_way((-4, -2), []), "there is nothing to hold it against")


def cohort(start: np.ndarray, end: np.ndarray, error: float = 4.0) -> MatchedCohort:  # type: ignore[type-arg]
    n = start.size
    se, grade = np.full(n, error), ["7"] * n
    return MatchedCohort(
        start_grade=grade,
        end_grade=grade,
        start=start,
        end=end,
        start_week=np.zeros(n),
        end_week=np.full(n, 20.0),
        start_error=se,
        end_error=se,
    )


class Picked(unittest.TestCase):
    """Regression to the mean: students picked by a low start, of a population in which nothing is to be found."""

    def test_a_group_picked_by_its_start_is_not_flattered(self) -> None:
        rng = np.random.default_rng(11)
        told_plain, told_as_others = [], []
        for _ in range(400):
            true = rng.normal(200, math.sqrt(14**2 - 16), 200)
            start = true + rng.normal(0, 4, 200)
            later = 205.56 + 0.9 * (start - 200) + rng.normal(0, 14 * math.sqrt(1 - 0.81), 200)
            low = start < 193
            m = cohort(start[low], later[low])
            everybody = {"7": start}
            out = growth("Reading", m, table(), everybody, {"7": later}, percentiles=False)
            labels = ["low"] * int(low.sum())
            without = {"low": start[~low]}
            missing = {"low": int((~low).sum())}
            found = group_growth(labels, m, out, missing, without)["low"]
            self.assertTrue(found.picked)
            told_plain.append(found.told or 0)
            told_as_others.append(group_growth(labels, m, out, missing)["low"].told or 0)
        self.assertAlmostEqual(float(np.mean(told_plain)), 0.0, delta=0.03)
        self.assertGreater(
            float(np.mean(told_as_others)), 0.15, "the allowance for a group that truly is low flatters it"
        )

    def test_those_who_are_missing_by_chance_pick_nothing(self) -> None:
        rng = np.random.default_rng(2)
        called = sum(was_picked(rng.normal(0, 1, 60), rng.normal(0, 1, 20), 1.0) for _ in range(2000))
        self.assertLess(called / 2000, 0.06)
        self.assertFalse(was_picked(np.zeros(60), np.full(5, 9.0), 1.0), "few are missing")


class Among(unittest.TestCase):
    def test_the_furthest_of_alike_groups_is_seldom_called(self) -> None:
        rng = np.random.default_rng(3)
        called = 0
        for _ in range(1000):
            means = rng.normal(0, 0.2, 40)
            called += any(off_among(m, (m - 0.392, m + 0.392), 10_000, 40) for m in means)
        self.assertLess(called / 1000, 0.08)
        self.assertEqual(off_among(0.5, (0.1, 0.9), 24, 1), 1)
        self.assertEqual(off_among(-0.5, (-0.9, -0.1), 24, 40), 0)
        self.assertEqual(off_among(None, None, 24, 3), 0)


if __name__ == "__main__":
    unittest.main()
