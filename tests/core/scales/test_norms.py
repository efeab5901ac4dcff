"""Norm scores: printed tables, a table that is exactly normal, what is refused."""

from __future__ import annotations

import unittest

import numpy as np
from scipy import stats

from bildung.core.errors import Refused
from bildung.core.scales.levels import Levels, level_of, level_probabilities, near_the_line
from bildung.core.scales.norms import (
    Correlations,
    Moments,
    NormTable,
    Points,
    displayed_ranks,
    local_standing,
    normal_curve_equivalents,
    normal_scores,
    percentile_ranks,
    standing_in_table,
    stanines,
    t_scores,
)

KEY = ("mathematics", "6")


class Scales(unittest.TestCase):
    def test_stanines_hold_4_7_12_17_20_17_12_7_4_percent(self) -> None:
        """The printed shares, over whole percentile ranks 1 to 99 and the two ends."""
        counts = np.bincount(stanines(np.arange(1, 100, dtype=float)).astype(int), minlength=10)[1:]
        self.assertEqual(counts.tolist(), [3, 7, 12, 17, 20, 17, 12, 7, 4])

    def test_nce_equals_the_percentile_rank_at_1_50_and_99_and_the_printed_points_between(self) -> None:
        ranks = np.array([1.0, 5, 10, 25, 50, 75, 90, 95, 99])
        printed = [1.0, 15.4, 23.0, 35.8, 50.0, 64.2, 77.0, 84.6, 99.0]
        self.assertEqual(np.round(normal_curve_equivalents(normal_scores(ranks)), 1).tolist(), printed)

    def test_t_scores_and_held_ranks(self) -> None:
        np.testing.assert_allclose(t_scores(normal_scores(np.array([50.0, 84.1344746]))), [50, 60], atol=1e-6)
        np.testing.assert_allclose(
            normal_scores(np.array([0.0, 100.0])), [stats.norm.ppf(0.005), stats.norm.ppf(0.995)]
        )

    def test_percentile_ranks_are_those_of_scipy(self) -> None:
        scores = np.random.default_rng(1).integers(0, 20, 200).astype(float)
        theirs = [stats.percentileofscore(scores, s, kind="mean") for s in scores]
        np.testing.assert_allclose(percentile_ranks(scores), theirs)

    def test_displayed_ranks_round_half_up_and_stay_within_1_and_99(self) -> None:
        self.assertEqual(displayed_ranks(np.array([0.1, 10.5, 11.49, 99.9])).tolist(), [1, 11, 11, 99])


class Tables(unittest.TestCase):
    def setUp(self) -> None:
        self.moments = Moments(
            np.array([4.0, 20.0, 36.0]), np.array([200.0, 208.0, 212.0]), np.array([14.0, 15.0, 16.0])
        )
        percentiles = np.arange(1.0, 100.0)
        z = stats.norm.ppf(percentiles / 100)
        rows = np.stack([200 + 14 * z, 208 + 15 * z, 212 + 16 * z])
        self.points = Points(self.moments.weeks, percentiles, rows)

    def test_a_table_of_points_that_is_exactly_normal_agrees_with_its_moments(self) -> None:
        scores, weeks = np.array([180.0, 200.0, 207.3, 230.0]), np.array([4.0, 4.0, 20.0, 20.0])
        a = standing_in_table(NormTable({KEY: self.moments}, {}, {}), KEY, scores, weeks)
        b = standing_in_table(NormTable({}, {KEY: self.points}, {}), KEY, scores, weeks)
        np.testing.assert_allclose(a.ranks, b.ranks, atol=0.05)

    def test_between_weeks_it_is_linear(self) -> None:
        self.assertEqual(self.moments.at(12, ""), (204.0, 14.5))
        np.testing.assert_allclose(self.points.row(28, "")[49], 210.0)

    def test_beyond_the_weeks_it_is_refused_with_the_nearest_allowed(self) -> None:
        for table in (self.moments.at, self.points.row):
            with self.assertRaisesRegex(Refused, "no week 40; the nearest allowed is week 36"):
                table(40, "the table")  # type: ignore[operator]

    def test_beyond_the_points_it_is_held_and_marked(self) -> None:
        found = standing_in_table(
            NormTable({}, {KEY: self.points}, {}), KEY, np.array([100.0, 208.0, 300.0]), np.full(3, 20.0)
        )
        np.testing.assert_allclose(found.ranks, [1, 50, 99], atol=1e-9)
        self.assertEqual(found.held.tolist(), [True, False, True])

    def test_several_percentiles_with_one_score_give_the_middle_of_them(self) -> None:
        flat = Points(np.array([1.0]), np.array([10.0, 20.0, 30.0, 40.0]), np.array([[5.0, 7.0, 7.0, 9.0]]))
        self.assertEqual(flat.ranks(np.array([7.0]), 1, "")[0].tolist(), [25.0])

    def test_correlations_are_linear_in_both_weeks(self) -> None:
        table = Correlations(np.array([4.0, 8.0]), np.array([20.0, 36.0]), np.array([[0.8, 0.7], [0.9, 0.8]]))
        self.assertAlmostEqual(table.at(6, 28, ""), 0.8)
        with self.assertRaisesRegex(Refused, "to_week"):
            table.at(6, 40, "r")

    def test_an_unknown_grade_is_refused_with_those_there_are(self) -> None:
        with self.assertRaisesRegex(Refused, "there are mathematics grade 6"):
            standing_in_table(
                NormTable({KEY: self.moments}, {}, {}), ("mathematics", "7"), np.array([1.0]), np.array([4.0])
            )

    def test_local_ranks_are_among_everybody(self) -> None:
        found = local_standing(np.array([1.0, 2, 2, 3]), np.array([2.0, 3.0]))
        np.testing.assert_allclose(found.ranks, [50, 87.5])


class Cuts(unittest.TestCase):
    def test_levels_and_their_probabilities(self) -> None:
        levels = Levels(("starting", "building", "secure"), (10.0, 20.0))
        self.assertEqual(level_of(np.array([9.9, 10.0, 25.0]), levels).tolist(), [0, 1, 2])
        found = level_probabilities(np.array([10.0]), np.array([5.0]), levels)
        np.testing.assert_allclose(found[0], [0.5, stats.norm.cdf(2) - 0.5, stats.norm.sf(2)])
        self.assertEqual(
            near_the_line(np.array([10.0, 15.0]), np.array([4.0, 4.0]), levels.cuts).tolist(), [True, False]
        )
        with self.assertRaises(Refused):
            Levels(("a", "b"), (3.0, 2.0))
