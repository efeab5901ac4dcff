"""Severity of scorers: against least squares written otherwise, and how often blameless scorers are called."""

from __future__ import annotations

import unittest

import numpy as np
from scipy import stats

from bildung.core.agreement.severity import (
    Severity,
    against_truth,
    dealt_severity,
    judge_scorers,
    off_the_truth,
    severity,
)
from bildung.core.errors import Refused


def dealt(rng: np.random.Generator, n: int, effects: list[float], twice: float, noise: float = 0.5):  # type: ignore[no-untyped-def]
    """n responses dealt by chance, a share of them scored by a second scorer; (response, scorer, score), firsts in front."""
    true = rng.normal(2.0, 0.8, n)
    first = rng.integers(0, len(effects), n)
    both = np.flatnonzero(rng.random(n) < twice)
    second = (first[both] + rng.integers(1, len(effects), both.size)) % len(effects)
    response = np.concatenate([np.arange(n), both])
    scorer = np.concatenate([first, second])
    return response, scorer, true[response] + np.array(effects)[scorer] + rng.normal(0, noise, response.size)


class Within(unittest.TestCase):
    def test_it_is_least_squares_on_dummies(self) -> None:
        rng = np.random.default_rng(4)
        response, scorer, scores = dealt(rng, 60, [0.4, 0.0, -0.6, 0.1], 1.0)
        found = severity(response, scorer, scores)
        design = np.zeros((scores.size, 60 + 4))
        design[np.arange(scores.size), response] = 1
        design[np.arange(scores.size), 60 + scorer] = 1
        theta, _, rank, _ = np.linalg.lstsq(design, scores, rcond=None)
        plain = theta[60:] - theta[60:].mean()
        np.testing.assert_allclose(found.effects, plain, atol=1e-10)
        left = scores - design @ theta
        self.assertEqual(found.df, scores.size - rank)
        variance = left @ left / found.df
        self.assertAlmostEqual(found.residual_sd**2, variance)
        center = np.zeros((4, 64))
        center[:, 60:] = np.eye(4) - 0.25
        covariance = variance * center @ np.linalg.pinv(design.T @ design) @ center.T
        np.testing.assert_allclose(found.errors, np.sqrt(np.diag(covariance)), atol=1e-10)

    def test_scorers_without_a_response_in_common_are_refused(self) -> None:
        with self.assertRaisesRegex(Refused, "not linked"):
            severity(np.array([0, 0, 1, 1]), np.array([0, 1, 2, 3]), np.arange(4.0))


class Dealt(unittest.TestCase):
    def test_it_is_generalized_least_squares_with_the_whole_covariance_written_down(self) -> None:
        rng = np.random.default_rng(9)
        response, scorer, scores = dealt(rng, 80, [0.5, 0.0, -0.5], 0.4)
        found = dealt_severity(response, scorer, scores)
        twice = np.isin(response, [r for r in range(80) if (response == r).sum() > 1])
        noise = severity(response[twice], scorer[twice], scores[twice]).residual_sd ** 2
        firsts = slice(0, 80)
        groups = [scores[firsts][scorer[firsts] == s] for s in range(3)]
        pooled = sum(((g - g.mean()) ** 2).sum() for g in groups) / sum(g.size - 1 for g in groups)
        between = max(0.0, pooled - noise)
        covariance = noise * np.eye(scores.size) + between * (response[:, None] == response[None, :])
        design = (scorer[:, None] == np.arange(3)).astype(float)
        inverse = np.linalg.inv(covariance)
        normal = np.linalg.inv(design.T @ inverse @ design)
        theta = normal @ design.T @ inverse @ scores
        center = np.eye(3) - 1 / 3
        np.testing.assert_allclose(found.effects, center @ theta, atol=1e-9)
        np.testing.assert_allclose(found.errors, np.sqrt(np.diag(center @ normal @ center.T)), atol=1e-9)
        self.assertAlmostEqual(found.effects.sum(), 0.0)

    def test_it_is_surer_than_the_double_scores_alone(self) -> None:
        response, scorer, scores = dealt(np.random.default_rng(2), 300, [0.3, 0.0, -0.3], 0.2)
        twice = np.isin(response, [r for r in range(300) if (response == r).sum() > 1])
        within = severity(response[twice], scorer[twice], scores[twice])
        self.assertTrue(np.all(dealt_severity(response, scorer, scores).errors < within.errors))

    def test_without_a_double_score_nothing_is_said(self) -> None:
        with self.assertRaisesRegex(Refused, "scored twice"):
            dealt_severity(np.arange(4), np.array([0, 1, 0, 1]), np.arange(4.0))

    def test_scorers_who_agree_wholly_have_no_error(self) -> None:
        response = np.repeat(np.arange(10), 2)
        found = dealt_severity(response, np.tile([0, 1], 10), np.repeat(np.arange(10.0) % 4, 2))
        np.testing.assert_allclose(found.effects, 0.0, atol=1e-9)


class Verdicts(unittest.TestCase):
    def called(self, effects: list[float], rounds: int, seed: int) -> float:
        """Share of rounds in which any scorer is called severe or lenient. Scores are whole points of 4."""
        rng, found = np.random.default_rng(seed), 0
        for _ in range(rounds):
            response, scorer, scores = dealt(rng, 240, effects, 0.35)
            scores = np.clip(np.rint(scores), 0, 4)
            pairs = np.bincount(scorer[np.isin(response, response[240:])], minlength=len(effects))
            verdicts = judge_scorers(dealt_severity(response, scorer, scores), pairs, 4.0)
            found += any(v.rescore for v in verdicts)
        return found / rounds

    def test_of_blameless_scorers_one_in_twenty_rounds_calls_any(self) -> None:
        self.assertLessEqual(self.called([0.0] * 5, 300, 1), 0.05 + 3 * np.sqrt(0.05 * 0.95 / 300))

    def test_a_severe_scorer_is_found(self) -> None:
        self.assertGreater(self.called([0.15, 0.15, 0.15, 0.15, -0.6], 40, 2), 0.9)

    def test_small_numbers_say_how_many_are_needed(self) -> None:
        found = Severity(np.array([0.4, -0.4]), np.array([0.1, 0.1]), 0.5, 30)
        few = judge_scorers(found, np.array([12, 12]), 4.0)
        needed = int(np.ceil((1.96 * np.sqrt(2) * 0.5 / 0.2) ** 2))
        self.assertEqual([(v.verdict, v.needed, v.rescore) for v in few], [("too few to tell", needed - 12, False)] * 2)
        enough = judge_scorers(found, np.array([60, 60]), 4.0)
        self.assertEqual([v.verdict for v in enough], ["lenient", "severe"])
        self.assertTrue(all(v.rescore for v in enough))

    def test_what_is_proved_but_worth_nothing_is_let_be(self) -> None:
        found = Severity(np.array([0.1, -0.1]), np.array([0.01, 0.01]), 0.1, 500)
        self.assertEqual([v.verdict for v in judge_scorers(found, np.array([400, 400]), 4.0)], ["as the others"] * 2)


class Truth(unittest.TestCase):
    def test_against_what_had_been_settled(self) -> None:
        found = against_truth(np.array([1.0, 2.0, 2.0, 4.0]), np.array([2.0, 2.0, 3.0, 4.0]))
        self.assertEqual((found.n, found.difference, found.exact), (4, -0.5, 0.5))
        assert found.error is not None
        self.assertAlmostEqual(found.error, np.std([-1, 0, -1, 0], ddof=1) / 2)
        self.assertIsNone(against_truth(np.array([1.0]), np.array([1.0])).error)
        with self.assertRaises(Refused):
            against_truth(np.array([]), np.array([]))


class OffTheTruth(unittest.TestCase):
    def test_the_interval_is_that_of_a_paired_t_test(self) -> None:
        rng = np.random.default_rng(4)
        truth = rng.integers(0, 5, 24).astype(float)
        theirs = truth - 0.5 + rng.normal(0, 0.8, 24)
        found = against_truth(theirs, truth)
        low, high = stats.ttest_rel(theirs, truth).confidence_interval(0.95)
        self.assertAlmostEqual(found.difference - (found.reach or 0), low, 10)
        self.assertAlmostEqual(found.difference + (found.reach or 0), high, 10)

    def test_who_is_off_by_a_little_or_on_few_is_not_called(self) -> None:
        rng = np.random.default_rng(5)
        truth = rng.integers(0, 5, 30).astype(float)
        severe = against_truth(truth - 1 + rng.normal(0, 0.5, 30), truth)
        few = against_truth(truth[:8] - 1, truth[:8])
        little = against_truth(truth - 0.1 + rng.normal(0, 0.01, 30), truth)
        exact = against_truth(truth, truth)
        self.assertEqual(off_the_truth([severe, few, little, exact, None], 4), [True, False, False, False, False])

    def test_of_scorers_who_err_by_chance_one_in_twenty_families_is_called(self) -> None:
        rng = np.random.default_rng(6)
        called = 0
        for _ in range(600):
            noise = rng.normal(0, 1.2, (3, 25))
            called += any(off_the_truth([against_truth(row, np.zeros(25)) for row in noise], 4))
        self.assertLess(called / 600, 0.05 + 3 * (0.05 * 0.95 / 600) ** 0.5)


if __name__ == "__main__":
    unittest.main()
