"""Precision, parts, dimensions, persons, variants, marking agreement."""

from __future__ import annotations

import unittest

import numpy as np
from scipy import stats
from statsmodels.stats.inter_rater import cohens_kappa

from bildung.core.agreement.agreement import agreement, generalizability
from bildung.core.agreement.severity import severity
from bildung.core.classical.persons import person_fit
from bildung.core.comparison.variants import template_statistics
from bildung.core.errors import Refused
from bildung.core.precision.dimensions import dimensions
from bildung.core.precision.precision import classification, conditional_error, part_scores


class Precision(unittest.TestCase):
    def test_conditional_error_averages_to_the_squared_error_of_the_test(self) -> None:
        """With α = KR-21 it is Lord's binomial error; at 0 and k it is not stated."""
        self.assertAlmostEqual(conditional_error(20, 40, 0.8, 0.8) or 0, (20 * 20 / 39) ** 0.5)
        self.assertAlmostEqual(conditional_error(10, 40, 0.9, 0.8) or 0, (10 * 30 / 39 * 0.5) ** 0.5)
        self.assertIsNone(conditional_error(0, 40, 0.8, 0.7))
        self.assertIsNone(conditional_error(40, 40, 0.8, 0.7))

    def test_classification_follows_a_simulation_with_known_truth(self) -> None:
        rng = np.random.default_rng(3)
        true = rng.beta(6, 4, 200_000)
        first, second = rng.binomial(40, true), rng.binomial(40, true)
        reliability = float(np.corrcoef(first, second)[0, 1])
        found = classification(first[:20_000].astype(float), 40.0, reliability, 26.0)
        self.assertAlmostEqual(found.accuracy, float(((first >= 26) == (true >= 26 / 40)).mean()), delta=0.012)
        self.assertAlmostEqual(found.consistency, float(((first >= 26) == (second >= 26)).mean()), delta=0.012)
        self.assertLess(found.consistency, found.accuracy)

    def test_impossible_cuts_and_coefficients_are_refused(self) -> None:
        for reliability, cut, said in ((1.0, 5, "between 0 and 1"), (0.8, 0, "cuts above 0"), (0.8, 11, "at most 10")):
            with self.assertRaisesRegex(Refused, said):
                classification(np.arange(10.0), 10.0, reliability, cut)

    def test_a_part_that_measures_something_else_is_worth_reporting(self) -> None:
        """Two parts of 8 items each: unrelated ones say more of themselves, one trait's do not (Haberman 2008)."""
        rng = np.random.default_rng(5)

        def matrix(related: float) -> np.ndarray:  # type: ignore[type-arg]
            a = rng.standard_normal(4000)
            b = related * a + np.sqrt(1 - related**2) * rng.standard_normal(4000)
            items = np.column_stack([t + rng.standard_normal(4000) for t in [a] * 8 + [b] * 8])
            return np.cov(items.T)

        parts = {"x": list(range(8)), "y": list(range(8, 16))}
        self.assertTrue(all(p.worth_reporting for p in part_scores(matrix(0.1), parts)))
        self.assertFalse(any(p.worth_reporting for p in part_scores(matrix(1.0), parts)))
        # parallel halves of one trait in closed form: from itself α of the half, from the total α of the whole
        found = part_scores(np.full((16, 16), 1.0) + np.eye(16), parts)[0]
        self.assertAlmostEqual(found.from_part, 8 / 9)
        self.assertAlmostEqual(found.from_total, 16 / 17)

    def test_the_total_says_no_more_of_a_part_than_of_itself(self) -> None:
        # by chance x goes better with y than with itself
        covariances = np.full((4, 4), 0.4) + 0.6 * np.eye(4)
        covariances[0, 1] = covariances[1, 0] = 0.1
        x, y = part_scores(covariances, {"x": [0, 1], "y": [2, 3]})
        reliability = 1 - (2.2 * (1 - x.from_part) + 2.8 * (1 - y.from_part)) / covariances.sum()
        self.assertGreater((0.2 * 2.2 / 2.2 + 1.6) ** 2 / (0.2 * covariances.sum()), 1.0)
        self.assertAlmostEqual(x.from_total, reliability)

    def test_dimensions_of_one_and_two_traits(self) -> None:
        rng = np.random.default_rng(6)
        a, b = rng.standard_normal((2, 500))
        noise = rng.standard_normal((500, 12)) * 0.8
        one, two = a[:, None] + noise, np.column_stack([a[:, None] + noise[:, :6], b[:, None] + noise[:, 6:]])
        self.assertEqual([dimensions(x, np.random.default_rng(1)).count for x in (one, two)], [1, 2])
        self.assertEqual(dimensions(one, np.random.default_rng(1)), dimensions(one, np.random.default_rng(1)))
        self.assertAlmostEqual(sum(dimensions(one, rng).eigenvalues), 12)
        with self.assertRaises(Refused):
            dimensions(np.ones((50, 5)), rng)


class Persons(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(7)
        odds = 1.2 * (rng.standard_normal((400, 1)) - np.linspace(-2, 2, 30)[None, :])
        self.right = rng.random(odds.shape) < 1 / (1 + np.exp(-odds))
        self.reached = np.ones_like(self.right)

    def test_a_reversed_student_stands_out(self) -> None:
        self.right[0] = np.arange(30) >= 15  # the hard ones right, the easy ones wrong
        found = person_fit(self.right, self.reached)
        self.assertEqual(int(found.fit.argmin()), 0)
        self.assertLess(found.fit[0], -4)
        self.assertGreater(int(found.surprising[0].sum()), 8)
        self.assertAlmostEqual(float(found.residuals[1:].mean()), 0, delta=0.05)


class Variants(unittest.TestCase):
    def test_draws_that_differ_are_a_look_and_chi_square_is_that_of_scipy(self) -> None:
        draws = {"a": (40, 60), "b": (20, 60), "c": (35, 60), "few": (1, 5)}
        found = template_statistics(draws)
        used = np.array([[r, n - r] for r, n in list(draws.values())[:3]])
        chi2, p, df, _ = stats.chi2_contingency(used, correction=False)
        self.assertAlmostEqual(found.chi2 or 0, chi2)
        self.assertAlmostEqual(found.p_value or 0, p)
        self.assertEqual((found.df, found.draws_used, found.n), (df, 3, 185))
        self.assertEqual(found.flag and (found.flag.flag, found.flag.weight), ("draws_differ", "look"))
        self.assertIsNone(template_statistics({"a": (40, 60), "b": (38, 60)}).flag)
        self.assertIsNone(template_statistics({"a": (60, 60), "b": (60, 60)}).chi2)


class Marking(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(8)
        self.first = rng.integers(0, 5, 300)
        self.second = np.clip(self.first + rng.choice([-1, 0, 0, 0, 1, 1], 300), 0, 4)

    def test_kappas_and_errors_are_those_of_an_independent_library(self) -> None:
        table = np.zeros((5, 5))
        np.add.at(table, (self.first, self.second), 1)
        found = agreement(self.first, self.second, 5)
        for mine, se, weights in (
            (found.kappa, found.kappa_se, None),
            (found.weighted_kappa, found.weighted_kappa_se, "fc"),
        ):
            theirs = cohens_kappa(table, wt=weights)
            self.assertAlmostEqual(mine or 0, theirs.kappa)
            self.assertAlmostEqual(se or 0, theirs.std_kappa, places=6)
        self.assertAlmostEqual(found.exact, float((self.first == self.second).mean()))
        self.assertAlmostEqual(found.difference, float((self.second - self.first).mean()))

    def test_all_marks_in_one_category_have_no_kappa(self) -> None:
        self.assertIsNone(agreement(np.ones(5, int), np.ones(5, int), 3).kappa)
        with self.assertRaisesRegex(Refused, "outside 0..2"):
            agreement(np.array([3]), np.array([0]), 3)

    def test_severity_is_the_least_squares_solution_with_its_errors(self) -> None:
        rng = np.random.default_rng(9)
        response, marker = np.repeat(np.arange(60), 2), np.concatenate([rng.permutation(4)[:2] for _ in range(60)])
        marks = rng.standard_normal(60)[response] + np.array([0.6, 0.0, -0.2, -0.4])[marker] + rng.normal(0, 0.3, 120)
        found = severity(response, marker, marks)
        design = np.zeros((120, 63))
        design[np.arange(120), response] = 1
        for m in range(3):
            design[:, 60 + m] = (marker == m).astype(float) - (marker == 3)
        beta, rss, _, _ = np.linalg.lstsq(design, marks, rcond=None)
        np.testing.assert_allclose(found.effects[:3], beta[60:], atol=1e-9)
        variance = rss[0] / (120 - 63)
        np.testing.assert_allclose(
            found.errors[:3], np.sqrt(variance * np.diag(np.linalg.inv(design.T @ design))[60:]), atol=1e-9
        )
        self.assertAlmostEqual(found.residual_sd, variance**0.5)
        with self.assertRaisesRegex(Refused, "not linked"):
            severity(np.array([0, 0, 1, 1]), np.array([0, 1, 2, 3]), np.arange(4.0))

    def test_generalizability_by_its_components(self) -> None:
        rng = np.random.default_rng(10)
        marks = rng.normal(0, 1, (4000, 1)) + rng.normal(0, 0.5, (1, 6)) + rng.normal(0, 0.7, (4000, 6))
        found = generalizability(marks)
        self.assertAlmostEqual(found.response, 1.0, delta=0.06)
        self.assertAlmostEqual(found.residual, 0.49, delta=0.02)
        self.assertAlmostEqual(found.two, found.response / (found.response + found.residual / 2))
        self.assertAlmostEqual(found.two, 2 * found.one / (1 + found.one))  # Spearman–Brown
