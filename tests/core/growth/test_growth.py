"""Growth against closed forms and an independent library."""

from __future__ import annotations

import unittest
import warnings

import numpy as np
from scipy import optimize, stats
from statsmodels.regression.quantile_regression import QuantReg

from bildung.core.errors import Refused
from bildung.core.growth.cohort import growth
from bildung.core.growth.expected import expected_from_table, expected_locally
from bildung.core.growth.gains import gains
from bildung.core.growth.matched import MatchedCohort
from bildung.core.growth.percentiles import TAUS, basis, growth_percentiles, knots_of
from bildung.core.growth.projection import expected_number, project
from bildung.core.growth.quantile import check_loss, quantile_path, quantile_regression
from bildung.core.scales.levels import Levels, level_probabilities
from bildung.core.scales.norms import Correlations, Moments, NormTable, Points, standing_in_table

KEY = ("m", "6")


def cohort(n: int, seed: int = 1, whole: bool = False) -> tuple[np.ndarray, np.ndarray]:  # type: ignore[type-arg]
    rng = np.random.default_rng(seed)
    z = rng.standard_normal(n)
    start, end = 200 + 15 * z, 205 + 15 * (0.8 * z + 0.6 * rng.standard_normal(n))
    return (np.rint(start), np.rint(end)) if whole else (start, end)


class Path(unittest.TestCase):
    """Many quantiles of a large cohort, solved near each other, are those solved alone."""

    def test_each_is_as_good_as_the_one_that_is_solved_with_all_points(self) -> None:
        for n, spread in ((1600, 0.0), (4000, 0.03)):
            rng = np.random.default_rng(n)
            start = rng.normal(200, 14, n)
            end = 0.9 * start + rng.normal(0, 9.6, n) * (1 + spread * np.abs(start - 200))
            weights = rng.integers(1, 4, n).astype(float)
            x, y = basis(start, knots_of(start)), (end - end.mean()) / end.std(ddof=1)
            taus = np.array([0.005, 0.015, 0.1, 0.5, 0.9, 0.985, 0.995])
            for tau, beta in zip(taus, quantile_path(x, y, weights, taus), strict=True):
                alone = check_loss(x, y, weights, tau, quantile_regression(x, y, weights, float(tau)))
                self.assertLessEqual(check_loss(x, y, weights, tau, beta), alone * (1 + 1e-9))

    def test_an_outcome_with_many_ties_and_a_few_far_off(self) -> None:
        rng = np.random.default_rng(4)
        start = rng.normal(0, 1, 3000)
        end = np.round(start + rng.normal(0, 0.3, 3000))
        end[:5] = 400.0
        x = basis(start, knots_of(start))
        taus = np.linspace(0.05, 0.95, 7)
        for tau, beta in zip(taus, quantile_path(x, end, np.ones(3000), taus), strict=True):
            alone = check_loss(x, end, np.ones(3000), tau, quantile_regression(x, end, np.ones(3000), float(tau)))
            self.assertLessEqual(check_loss(x, end, np.ones(3000), tau, beta), alone * (1 + 1e-9) + 1e-9)


class Gains(unittest.TestCase):
    def test_reliable_change_by_hand(self) -> None:
        found = gains(np.array([10.0, 10, 10]), np.array([18.0, 12, 3]), np.full(3, 3.0), np.array([4.0, 4.0, np.nan]))
        self.assertEqual(found.error.tolist()[:2], [5.0, 5.0])
        self.assertTrue(np.isnan(found.error[2]) and found.verdict[2] == 0)
        self.assertEqual(found.change.tolist(), [1.6, 0.4, 0.0])
        self.assertEqual(found.verdict.tolist(), [0, 0, 0])
        self.assertEqual(
            gains(np.zeros(2), np.array([9.0, -9.0]), np.full(2, 3.0), np.full(2, 4.0)).verdict.tolist(), [1, -1]
        )

    def test_one_in_ten_unchanged_students_passes(self) -> None:
        rng = np.random.default_rng(2)
        found = gains(rng.normal(0, 3, 40_000), rng.normal(0, 4, 40_000), np.full(40_000, 3.0), np.full(40_000, 4.0))
        self.assertAlmostEqual(float((found.verdict != 0).mean()), 0.10, delta=0.006)


class Expectation(unittest.TestCase):
    def table(self, rho: float) -> NormTable:
        weeks = np.array([4.0, 20.0])
        moments = Moments(weeks, np.array([200.0, 208.0]), np.array([14.0, 16.0]))
        return NormTable({KEY: moments}, {}, {KEY: Correlations(np.array([4.0]), np.array([20.0]), np.array([[rho]]))})

    def both(self, table: NormTable, start: np.ndarray, end: np.ndarray):  # type: ignore[no-untyped-def,type-arg]
        first, last = np.full(start.size, 4.0), np.full(start.size, 20.0)
        a, b = standing_in_table(table, KEY, start, first), standing_in_table(table, KEY, end, last)
        return expected_from_table(table, KEY, KEY, start, end, first, last, a, b)

    def test_by_moments_in_closed_form(self) -> None:
        found = self.both(self.table(0.8), np.array([200.0, 214.0]), np.array([208.0, 230.4]))
        np.testing.assert_allclose(found.score, [208.0, 208 + 0.8 * 16])
        np.testing.assert_allclose(found.residual, [0.0, (230.4 - 220.8) / (16 * 0.6)])
        np.testing.assert_allclose(found.like_start_percentile, [50.0, 100 * stats.norm.cdf(1.0)])

    def test_points_that_are_exactly_normal_give_the_same_residuals(self) -> None:
        percentiles = np.arange(1.0, 100.0)
        z = stats.norm.ppf(percentiles / 100)
        moments = self.table(0.8)
        points = NormTable(
            {},
            {KEY: Points(np.array([4.0, 20.0]), percentiles, np.stack([200 + 14 * z, 208 + 16 * z]))},
            moments.correlations,
        )
        start, end = np.array([190.0, 205.0, 218.0]), np.array([205.0, 203.0, 225.0])
        a, b = self.both(moments, start, end), self.both(points, start, end)
        np.testing.assert_allclose(a.residual, b.residual, atol=0.01)
        np.testing.assert_allclose(a.score, b.score, atol=0.1)

    def test_the_local_line_is_that_of_scipy(self) -> None:
        start, end = cohort(60)
        found, line = expected_locally(start, end), stats.linregress(start, end)
        np.testing.assert_allclose(found.score, line.intercept + line.slope * start)
        np.testing.assert_allclose(found.residual.std(ddof=2), 1.0)
        with self.assertRaisesRegex(Refused, "29 students of this grade"):
            expected_locally(start[:29], end[:29])
        with self.assertRaisesRegex(Refused, "all start scores are equal"):
            expected_locally(np.ones(40), end[:40])


class QuantileRegression(unittest.TestCase):
    def test_the_loss_is_never_above_that_of_an_independent_library(self) -> None:
        start, end = cohort(900)
        x = basis(start, knots_of(start))
        for tau in (0.005, 0.25, 0.5, 0.985):
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                theirs = np.asarray(QuantReg(end, x).fit(q=tau, max_iter=3000, p_tol=1e-8).params)
            mine = quantile_regression(x, end, np.ones(900), tau)
            w = np.ones(900)
            self.assertLessEqual(check_loss(x, end, w, tau, mine), check_loss(x, end, w, tau, theirs) + 1e-6)
            np.testing.assert_allclose(x @ mine, x @ theirs, atol=1e-3)
            self.assertGreaterEqual(
                int((np.abs(end - x @ mine) < 1e-8).sum()), x.shape[1], "it passes through p points"
            )

    def test_it_is_the_solution_of_the_linear_program(self) -> None:
        rng = np.random.default_rng(5)
        x, y = np.column_stack([np.ones(60), rng.standard_normal((60, 2))]), rng.standard_normal(60)
        w = rng.integers(1, 5, 60).astype(float)
        for tau in (0.1, 0.5, 0.8):
            cost = np.concatenate([np.zeros(3), tau * w, (1 - tau) * w])
            lp = optimize.linprog(
                cost,
                A_eq=np.hstack([x, np.eye(60), -np.eye(60)]),
                b_eq=y,
                bounds=[(None, None)] * 3 + [(0, None)] * 120,
            )
            self.assertAlmostEqual(check_loss(x, y, w, tau, quantile_regression(x, y, w, tau)), lp.fun, places=8)

    def test_a_weight_is_as_many_rows(self) -> None:
        rng = np.random.default_rng(6)
        x, y, w = (
            np.column_stack([np.ones(50), rng.standard_normal(50)]),
            rng.standard_normal(50),
            rng.integers(1, 4, 50),
        )
        once = quantile_regression(x, y, w.astype(float), 0.3)
        often = quantile_regression(np.repeat(x, w, axis=0), np.repeat(y, w), np.ones(int(w.sum())), 0.3)
        np.testing.assert_allclose(once, often, atol=1e-7)


class Percentiles(unittest.TestCase):
    def test_they_are_uniform_and_unrelated_to_the_start(self) -> None:
        start, end = cohort(3000)
        found = growth_percentiles(start, end)
        self.assertAlmostEqual(float(found.sgp.mean()), 50, delta=0.7)
        self.assertAlmostEqual(float(found.sgp.std()), 28.87, delta=0.5)
        self.assertLess(abs(float(np.corrcoef(start, found.sgp)[0, 1])), 0.02)
        self.assertFalse(found.rough)

    def test_on_normal_data_they_follow_the_closed_form(self) -> None:
        start, end = cohort(3000)
        truth = 100 * stats.norm.cdf((end - 205 - 0.8 * (start - 200)) / (15 * 0.6))
        inside = np.abs(start - 200) < 25
        self.assertLess(float(np.abs(growth_percentiles(start, end).sgp - truth)[inside].mean()), 2.0)

    def test_row_order_and_scale_do_not_matter(self) -> None:
        start, end = cohort(400, whole=True)
        order = np.random.default_rng(3).permutation(400)
        first = growth_percentiles(start, end).sgp
        np.testing.assert_array_equal(growth_percentiles(start[order], end[order]).sgp, first[order])
        # the exact solution need not be single where whole numbers tie: a few may move by one
        self.assertLessEqual(float(np.abs(growth_percentiles(start * 3 + 7, end * 2 - 5).sgp - first).mean()), 0.1)

    def test_drawn_quantiles_do_not_cross(self) -> None:
        start, end = cohort(300)
        found = growth_percentiles(start, end)
        self.assertTrue((np.diff(found.quantiles(np.linspace(start.min(), start.max(), 40)), axis=1) >= 0).all())
        self.assertEqual((found.rough, found.taus.tolist()), (True, TAUS.tolist()))

    def test_too_few_or_equal_starts_are_refused(self) -> None:
        with self.assertRaisesRegex(Refused, "199 students of this grade; growth percentiles need 200"):
            growth_percentiles(*(a[:199] for a in cohort(200)))
        with self.assertRaisesRegex(Refused, "all start scores are equal"):
            growth_percentiles(np.ones(250), np.arange(250.0))

    def test_few_distinct_starts_drop_coinciding_knots_and_still_work(self) -> None:
        start = np.repeat([10.0, 11.0, 12.0], 100)
        end = start + np.tile(np.arange(100.0), 3)
        found = growth_percentiles(start, end).sgp
        np.testing.assert_allclose(found[:100], found[100:200], atol=1)


class Sources(unittest.TestCase):
    def test_local_and_table_parts_are_never_mixed_and_the_source_is_named(self) -> None:
        start, end = cohort(80)
        m = MatchedCohort(
            start_grade=["6"] * 40 + ["7"] * 40,
            end_grade=["6"] * 40 + ["7"] * 40,
            start=start,
            end=end,
            start_week=np.full(80, 4.0),
            end_week=np.full(80, 20.0),
            start_error=np.zeros(80),
            end_error=np.zeros(80),
        )
        moments = Moments(np.array([4.0, 20.0]), np.array([200.0, 205.0]), np.array([15.0, 15.0]))
        table = NormTable(
            {("", "6"): moments, ("", "7"): moments},
            {},
            {("", "6"): Correlations(np.array([4.0]), np.array([20.0]), np.array([[0.8]]))},
        )
        scores = {"6": start[:40], "7": start[40:]}
        found = growth("", m, table, scores, scores)
        self.assertEqual(found.sources, {"6": "table", "7": "local"})
        np.testing.assert_allclose(found.expected[:40], 205 + 0.8 * (start[:40] - 200))
        np.testing.assert_allclose(found.expected[40:], expected_locally(start[40:], end[40:]).score)
        self.assertIn("growth percentiles need 200", found.why["6", "sgp"])


class Projections(unittest.TestCase):
    def test_even_odds_and_safe_targets(self) -> None:
        found = project(200, 200, 15, 212, 16, 0.8, later_error=4.0)
        self.assertEqual(found.expected, 212)
        self.assertAlmostEqual(found.observed_sd, 9.6)
        self.assertAlmostEqual(found.true_sd, (9.6**2 - 16) ** 0.5)
        self.assertAlmostEqual(found.will_truly_be(212), 0.5)
        self.assertEqual(found.target(220, 0.5), 220)
        self.assertAlmostEqual(project(200, 200, 15, found.target(220, 0.8), 16, 0.8, 4.0).will_truly_be(220), 0.8)
        self.assertAlmostEqual(found.will_score(220), stats.norm.cdf((212 - 220) / 9.6))
        with self.assertRaisesRegex(Refused, "leaves nothing of the spread"):
            project(200, 200, 15, 212, 16, 0.99, later_error=4.0)

    def test_the_number_of_a_class_without_common_deviation_is_poisson_binomial(self) -> None:
        expected, sd = np.array([210.0, 215, 220, 225]), np.full(4, 9.0)
        p = stats.norm.cdf((expected - 215) / 9)
        mass = np.array([1.0])
        for one in p:
            mass = np.convolve(mass, [1 - one, one])
        below = np.cumsum(mass)
        found = expected_number(expected, sd, 215, 0.0)
        self.assertAlmostEqual(found.mean, p.sum())
        self.assertEqual((found.low, found.high), (int((below < 0.1).sum()), int((below < 0.9).sum())))

    def test_the_interval_holds_four_of_five_classes_that_move_together(self) -> None:
        rng = np.random.default_rng(12)
        expected, sd, tau = rng.normal(212, 8, 24), np.full(24, 9.6), 0.3
        found = expected_number(expected, sd, 215, tau)
        u = rng.standard_normal((4000, 1))
        later = expected + sd * (tau * u + (1 - tau**2) ** 0.5 * rng.standard_normal((4000, 24)))
        count = (later >= 215).sum(axis=1)
        inside = ((count >= found.low) & (count <= found.high)).mean()
        self.assertGreater(inside, 0.80)
        self.assertLess(inside, 0.92)
        alone = expected_number(expected, sd, 215, 0.0)
        self.assertLess(alone.high - alone.low, found.high - found.low)
        large = expected_number(np.full(900, 215.0), np.full(900, 9.0), 215, 0.0)
        self.assertEqual((large.mean, large.low, large.high), (450.0, 431, 469))
        with self.assertRaises(Refused):
            expected_number(expected, sd, 215, 1.0)


class Levelled(unittest.TestCase):
    def test_probabilities_by_the_true_score(self) -> None:
        levels = Levels(("low", "middle", "high"), (195.0, 210.0))
        score, error = np.array([212.0]), np.array([4.0])
        r = 1 - 16 / 144
        true = stats.norm(200 + r * 12, 4 * r**0.5)
        found = level_probabilities(score, error, levels, 200.0, 12.0)[0]
        np.testing.assert_allclose(found, [true.cdf(195), true.cdf(210) - true.cdf(195), true.sf(210)], atol=1e-12)
        plain = level_probabilities(score, error, levels)[0]
        self.assertAlmostEqual(plain[2], stats.norm(212, 4).sf(210))
        np.testing.assert_allclose(level_probabilities(np.array([195.0]), np.zeros(1), levels)[0], [0, 1, 0])
        with self.assertRaisesRegex(Refused, "no smaller than the scores' spread"):
            level_probabilities(score, np.array([12.0]), levels, 200.0, 12.0)
