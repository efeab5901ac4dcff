"""Reliability against printed figures, closed forms and independent libraries."""

from __future__ import annotations

import unittest
import warnings

import numpy as np
from scipy import stats
from statsmodels.multivariate.factor import Factor

from bildung.core.classical.analysis import analyse
from bildung.core.classical.covariances import Covariances, covariances
from bildung.core.classical.factor import one_factor
from bildung.core.classical.reliability import feldt_interval, reliability, spearman_brown
from bildung.core.classical.scores import score
from bildung.core.data.responses import ItemColumn, table_from_cells
from tests.core.published import SECTION_6, SECTION_7, table


def points_table(points: np.ndarray, maximum: float = 1.0, parts: str = ""):  # type: ignore[no-untyped-def,type-arg]
    items = [
        ItemColumn(name=f"i{j}", kind="points", points=maximum, part=parts[j : j + 1]) for j in range(points.shape[1])
    ]
    return table_from_cells(items, [""] * len(items), [[f"{x:g}" for x in row] for row in points.tolist()])


class Printed(unittest.TestCase):
    def test_section_7_total_and_alpha(self) -> None:
        analysis = analyse(table(SECTION_7))
        self.assertEqual(round(analysis.distribution.mean or 0, 3), 3.707)
        self.assertEqual(round(analysis.distribution.sd or 0, 3), 1.199)
        self.assertEqual(round(analysis.reliability.alpha or 0, 3), 0.453)
        self.assertEqual(round(analysis.sem or 0, 3), 0.886)

    def test_section_6_alpha(self) -> None:
        self.assertEqual(round(analyse(table(SECTION_6)).reliability.alpha or 0, 3), 0.295)


class ClosedForms(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(8)
        self.ability = rng.standard_normal(300)
        self.points = (self.ability[:, None] + rng.logistic(0, 0.6, (300, 10)) > np.linspace(-1, 1, 10)).astype(float)

    def test_alpha_is_kr20_and_equals_kr21_when_all_p_are_equal(self) -> None:
        rows = np.array([[1, 1, 0, 0], [1, 0, 1, 0], [1, 1, 1, 1], [0, 0, 0, 1], [0, 1, 0, 1], [1, 1, 1, 1]] * 3, float)
        equal = np.vstack([np.roll(rows, shift, axis=1) for shift in range(4)])
        found = analyse(points_table(equal)).reliability
        self.assertAlmostEqual(found.kr21 or 0, found.alpha or 0, places=12)

    def test_parallel_items_reach_the_spearman_brown_reliability(self) -> None:
        """Items that correlate r each: alpha of k of them is the stepped-up r."""
        base = (np.arange(400) % 2).astype(float)
        twin = base.copy()
        twin[::10], twin[1::10] = 1, 0  # as many up as down: the variances stay equal
        r = float(np.corrcoef(base, twin)[0, 1])
        self.assertAlmostEqual(
            analyse(points_table(np.column_stack([base, twin]))).reliability.alpha or 0, 2 * r / (1 + r)
        )
        self.assertAlmostEqual(spearman_brown(spearman_brown(0.6, 3), 1 / 3), 0.6)

    def test_feldt_interval_holds_the_probability_it_states(self) -> None:
        low, high = feldt_interval(0.8, 40, 20)
        for bound, tail in ((low, 0.975), (high, 0.025)):
            self.assertAlmostEqual(stats.f.cdf((1 - bound) / (1 - 0.8), 39, 39 * 19), tail, places=10)

    def test_the_distribution_free_interval_covers_as_often_as_it_says(self) -> None:
        """True alpha of a large population against intervals of 300 samples of 200."""
        rng = np.random.default_rng(4)
        ability = rng.standard_normal(60_000)
        population = (ability[:, None] + rng.logistic(0, 0.7, (60_000, 8)) > np.linspace(-1.2, 1.2, 8)).astype(float)
        truth = analyse(points_table(population)).reliability.alpha or 0
        hits = 0
        for _ in range(300):
            sample = population[rng.integers(0, 60_000, 200)]
            found = analyse(points_table(sample)).reliability
            assert found.alpha_ci95 is not None
            self.assertIn("distribution-free", found.alpha_ci_method or "")
            hits += found.alpha_ci95[0] <= truth <= found.alpha_ci95[1]
        self.assertGreaterEqual(hits, 300 * 0.91)
        self.assertLessEqual(hits, 300 * 0.99)

    def test_lambda2_and_split_half_by_their_definitions(self) -> None:
        found = analyse(points_table(self.points)).reliability
        c = np.cov(self.points.T)
        off = c - np.diag(np.diag(c))
        self.assertAlmostEqual(found.lambda2 or 0, (off.sum() + np.sqrt(10 / 9 * (off**2).sum())) / c.sum())
        odd, even = self.points[:, ::2].sum(axis=1), self.points[:, 1::2].sum(axis=1)
        r = np.corrcoef(odd, even)[0, 1]
        self.assertAlmostEqual(found.split_half or 0, 2 * r / (1 + r))
        self.assertGreaterEqual(found.lambda2 or 0, found.alpha or 0)

    def test_stratified_alpha_by_its_definition(self) -> None:
        found = analyse(points_table(self.points, parts="1111122222")).reliability
        lost = 0.0
        for part in (self.points[:, :5], self.points[:, 5:]):
            c = np.cov(part.T)
            lost += c.sum() * (1 - 5 / 4 * (1 - np.trace(c) / c.sum()))
        self.assertAlmostEqual(found.stratified_alpha or 0, 1 - lost / np.cov(self.points.T).sum())
        alone = analyse(points_table(self.points)).reliability
        self.assertEqual(alone.why["stratified_alpha"], "the test has one section")

    def test_the_one_factor_solution_is_that_of_an_independent_library(self) -> None:
        r = np.corrcoef(self.points.T)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            theirs = Factor(corr=r, n_factor=1, method="ml", nobs=300).fit()
        mine = one_factor(r)
        assert mine is not None
        np.testing.assert_allclose(np.abs(mine[0]), np.abs(theirs.loadings[:, 0]), atol=2e-4)
        np.testing.assert_allclose(mine[1], theirs.uniqueness, atol=4e-4)

    def test_omega_equals_alpha_for_items_of_equal_loading(self) -> None:
        """A matrix with equal variances and covariances: omega and alpha are one."""
        loadings, unique = one_factor(np.full((6, 6), 0.4) + 0.6 * np.eye(6)) or (None, None)
        np.testing.assert_allclose(loadings, np.sqrt(0.4))  # type: ignore[arg-type]
        np.testing.assert_allclose(unique, 0.6)  # type: ignore[arg-type]

    def test_moments_are_those_of_scipy(self) -> None:
        total = self.points.sum(axis=1)
        found = analyse(points_table(self.points)).distribution
        self.assertAlmostEqual(found.skewness or 0, float(stats.skew(total, bias=False)))
        self.assertAlmostEqual(found.kurtosis or 0, float(stats.kurtosis(total, bias=False)))
        self.assertAlmostEqual(found.sd or 0, float(total.std(ddof=1)))

    def test_no_spread_at_all_is_undefined_with_a_reason(self) -> None:
        found = analyse(points_table(np.ones((8, 4)))).reliability
        self.assertIsNone(found.alpha)
        self.assertEqual(found.why["alpha"], "all students have the same total")


class LargeNumbers(unittest.TestCase):
    """Points that vary little around a large number, and totals that do not vary at all."""

    def table(self, points: np.ndarray) -> Covariances:
        items = [
            ItemColumn(name=f"i{at}", kind="points", points=float(points.max()) + 1) for at in range(points.shape[1])
        ]
        cells = [[f"{value:.10f}" for value in row] for row in points]
        table = table_from_cells(items, [""] * points.shape[1], cells)
        return covariances(table, score(table))

    def test_points_near_9000_have_the_alpha_of_the_same_points_near_0(self) -> None:
        rng = np.random.default_rng(3)
        ability = rng.normal(0, 0.04, 200)
        small = np.abs(ability[:, None] + rng.normal(0, 0.03, (200, 6)) + 1).round(6)
        near, far = (
            reliability(
                self.table(small + shift), [ItemColumn(name=f"i{n}", kind="points", points=9000.0) for n in range(6)]
            )
            for shift in (0, 9000)
        )
        assert near.alpha is not None and far.alpha is not None and far.alpha_ci95 and near.alpha_ci95
        self.assertAlmostEqual(near.alpha, far.alpha, 6)
        self.assertAlmostEqual(near.alpha_ci95[0], far.alpha_ci95[0], 6)
        theirs = np.cov(small.T)
        self.assertAlmostEqual(near.alpha, 6 / 5 * (1 - np.trace(theirs) / theirs.sum()), 9)

    def test_the_test_without_an_item_has_an_alpha_where_it_varies_though_the_whole_does_not(self) -> None:
        first = np.array([0, 1, 0, 1, 1, 0, 1, 0] * 4, dtype=float)
        points = np.column_stack([first, first, 2 - 2 * first])
        found = reliability(self.table(points), [ItemColumn(name=n, kind="points", points=2.0) for n in "abc"])
        self.assertIsNone(found.alpha)
        self.assertEqual(found.why["alpha"], "all students have the same total")
        assert found.alpha_without[2] is not None
        self.assertAlmostEqual(found.alpha_without[2], 1.0)
