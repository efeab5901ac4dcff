"""Claims about one student: hand-worked, and the rate at which they are wrong."""

from __future__ import annotations

import unittest

import numpy as np
from scipy import stats

from bildung.core.errors import Refused
from bildung.core.growth.claims import as_residual, beyond_expected, chance, claims, percentile_band, residual_errors


class Claims(unittest.TestCase):
    def test_the_error_of_a_residual_gain_by_hand(self) -> None:
        found = residual_errors(np.array([3.0, np.nan]), np.array([4.0, 4.0]), np.full(2, 0.5), np.full(2, 10.0))
        self.assertAlmostEqual(found[0], (16 + 0.25 * 9) ** 0.5 / 10)
        self.assertTrue(np.isnan(found[1]))

    def test_the_probability_is_that_of_the_true_residual(self) -> None:
        found = claims(np.array([1.0, -1.0, 0.2]), np.full(3, 0.5))
        np.testing.assert_allclose(found.probability[0], stats.norm.cdf((0.75 / 0.25) ** 0.5))
        self.assertEqual(found.claim.tolist(), [1, -1, 0])
        # the same by the posterior of the true residual: mean (1 - v) g, variance (1 - v) v
        posterior = stats.norm(0.75, (0.75 * 0.25) ** 0.5).sf(0)
        np.testing.assert_allclose(found.probability[0], posterior)

    def test_ends_no_error_an_unknown_one_and_one_that_does_not_fit(self) -> None:
        found = claims(np.array([0.1, 0.0, -0.1, 2.0, 2.0]), np.array([0.0, 0.0, 0.0, np.nan, 1.0]))
        self.assertEqual(found.claim.tolist(), [1, 0, -1, 0, 0])
        self.assertEqual(found.misfit.tolist(), [0, 0, 0, 0, 1])
        self.assertTrue(np.isnan(found.probability[3:]).all())

    def test_more_is_right_nine_times_in_ten_or_more(self) -> None:
        rng = np.random.default_rng(1)
        v = 0.4
        true = rng.normal(0, (1 - v) ** 0.5, 200_000)
        found = claims(true + rng.normal(0, v**0.5, true.size), np.full(true.size, v**0.5))
        for side in (1, -1):
            told = found.claim == side
            self.assertGreater(told.mean(), 0.05)
            self.assertGreater((np.sign(true[told]) == side).mean(), 0.90)

    def test_bands_by_hand(self) -> None:
        low, high = percentile_band(np.array([0.0]), np.array([1.0]))
        np.testing.assert_allclose([low[0], high[0]], 100 * stats.norm.cdf([-0.994457883, 0.994457883]), rtol=1e-8)
        np.testing.assert_allclose(as_residual(np.array([50.0, 84.134474])), [0.0, 1.0], atol=1e-6)

    def test_behind_and_ahead_are_by_the_error_of_both_scores(self) -> None:
        found = beyond_expected(np.array([1.0, -1.0, 0.5, -1.0, 0.1, 0.0]), np.array([0.5, 0.5, 0.5, np.nan, 0.0, 0.0]))
        self.assertEqual(found.tolist(), [1, -1, 0, 0, 1, 0])


class ByChance(unittest.TestCase):
    def test_of_341_unchanged_students_17_fall(self) -> None:
        found = chance(np.zeros(341, dtype=np.int64), np.ones(341))
        self.assertAlmostEqual(found.expected, 17.05)
        self.assertEqual(found.upper95, int(stats.binom.ppf(0.95, 341, 0.05)))
        self.assertFalse(found.falls_told)

    def test_only_those_with_both_errors_are_counted(self) -> None:
        verdict = np.array([1, 1, -1, 0])
        found = chance(verdict, np.array([1.0, np.nan, 1.0, 1.0]))
        self.assertEqual((found.n, found.rises, found.falls), (3, 1, 1))
        self.assertFalse(found.rises_told)
        self.assertTrue(chance(np.ones(40, dtype=np.int64), np.ones(40)).rises_told)
        with self.assertRaisesRegex(Refused, "no student has a standard error in both"):
            chance(verdict, np.full(4, np.nan))

    def test_lists_of_unchanged_students_name_nobody_in_95_of_100(self) -> None:
        rng = np.random.default_rng(2)
        named = 0
        for _ in range(2000):
            z = rng.standard_normal(300)
            verdict = np.where(z > 1.645, 1, np.where(z < -1.645, -1, 0))
            named += chance(verdict, np.ones(300)).falls_told
        self.assertLess(named / 2000, 0.05 + 3 * (0.05 * 0.95 / 2000) ** 0.5)


if __name__ == "__main__":
    unittest.main()
