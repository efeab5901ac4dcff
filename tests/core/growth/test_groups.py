"""Groups against hand-worked cases, and the rate at which they are called wrongly."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from scipy import integrate, stats

from bildung.core.growth.cohort import growth
from bildung.core.growth.groups import GroupGrowth, group_growth, t_interval
from bildung.core.growth.matched import MatchedCohort
from bildung.core.growth.others import Sums
from bildung.core.growth.shrinkage import shrink, shrink_means
from bildung.core.scales.norms import Correlations, Moments, NormTable

WEEKS = np.array([4.0, 20.0])


def matched(start: Any, end: Any, error: float = np.nan, grade: Any = "6") -> MatchedCohort:
    n = start.size
    grades = [grade] * n if isinstance(grade, str) else list(grade)
    return MatchedCohort(
        start_grade=grades,
        end_grade=grades,
        start=start,
        end=end,
        start_week=np.full(n, 4.0),
        end_week=np.full(n, 20.0),
        start_error=np.full(n, error),
        end_error=np.full(n, error),
    )


def table(rho: float = 0.8) -> NormTable:
    moments = Moments(WEEKS, np.array([200.0, 208.0]), np.array([14.0, 16.0]))
    r = Correlations(np.array([4.0]), np.array([20.0]), np.array([[rho]]))
    return NormTable({("", "6"): moments}, {}, {("", "6"): r})


def grown(m: MatchedCohort, labels: list[str], norms: NormTable | None = None, **more: Any) -> dict[str, GroupGrowth]:
    first = {g: m.start[np.array(m.start_grade) == g] for g in set(m.start_grade)}
    last = {g: m.end[np.array(m.end_grade) == g] for g in set(m.end_grade)}
    return group_growth(labels, m, growth("", m, norms, first, last), **more)


class ByTable(unittest.TestCase):
    def test_figures_by_hand(self) -> None:
        start = np.linspace(190, 217, 10)
        end = 208 + 0.8 * 16 / 14 * (start - 200) + 9.6 * np.array([1.0, -1, 0.5, 0.5, 0, 0, 2, -1, 1, 1])
        g = grown(matched(start, end), ["a"] * 10, table(), missing={"a": 5})["a"]
        self.assertEqual((g.n, g.judged, g.expectation, g.missing), (10, 10, "table", 5))
        self.assertAlmostEqual(g.mean_residual_gain, 0.4)
        self.assertAlmostEqual(g.tipping_point, -10 * 0.4 / 5)
        self.assertAlmostEqual(g.median_like_start_percentile, 100 * stats.norm.cdf(0.5))
        self.assertEqual(g.share_met_expected, 0.8)
        np.testing.assert_allclose(g.residual_gain_ci95, t_interval((end - 208 - 12.8 / 14 * (start - 200)) / 9.6))
        self.assertIsNone(g.mean_residual_gain_adjusted)
        self.assertIn("groups that start high look better", g.reasons["mean_residual_gain_adjusted"])
        self.assertEqual(g.told, g.mean_residual_gain)

    def test_the_allowance_by_hand(self) -> None:
        start = np.full(12, 210.0) + np.arange(12)
        end = 208 + 12.8 / 14 * (start - 200)
        g = grown(matched(start, end, error=5.0), ["a"] * 12, table())["a"]
        r = 1 - 25 / 14**2
        allowance = (12.8 / 14) * (1 / r - 1) * (start.mean() - 200) / 9.6
        self.assertAlmostEqual(g.allowance, allowance)
        self.assertAlmostEqual(g.mean_residual_gain_adjusted, -allowance)
        self.assertEqual(g.share_met_expected, 0.0)
        self.assertAlmostEqual(g.median_like_start_percentile, 100 * stats.norm.cdf(-allowance))

    def test_under_ten_there_is_no_judgement_and_its_reason_is_said(self) -> None:
        start = np.linspace(190, 217, 9)
        g = grown(matched(start, start + 8), ["a"] * 9, table())["a"]
        self.assertEqual((g.n, g.mean_gain, g.mean_residual_gain, g.expectation), (9, 8.0, None, None))
        self.assertEqual(g.reasons["mean_residual_gain"], "9 students; a group is judged from 10 on")

    def test_a_class_that_starts_high_is_called_no_oftener_than_another(self) -> None:
        rng = np.random.default_rng(8)
        off = {"plain": 0, "adjusted": 0}
        for _ in range(400):
            # two populations on one scale: the high class is no sample that was picked by its score
            true = np.concatenate([rng.normal(200, 13, 160), rng.normal(212, 8, 30)])
            later = 208 + 0.82 * (true - 200) * 16 / 14 + rng.normal(0, 7.5, 190)
            start, end = true + rng.normal(0, 5, 190), later + rng.normal(0, 5, 190)
            spread = float(np.var(true[:160]) + 25) ** 0.5
            moments = Moments(WEEKS, np.array([200.0, 208.0]), np.array([spread, 16.0]))
            rho = float(np.corrcoef(start[:160], end[:160])[0, 1])
            norms = NormTable(
                {("", "6"): Moments(WEEKS, moments.means, np.array([spread, float(end[:160].std())]))},
                {},
                {("", "6"): Correlations(np.array([4.0]), np.array([20.0]), np.array([[rho]]))},
            )
            g = grown(matched(start, end, error=5.0), ["low"] * 160 + ["high"] * 30, norms)["high"]
            off["plain"] += g.residual_gain_ci95[0] > 0
            off["adjusted"] += g.adjusted_ci95[0] > 0
        self.assertLess(off["adjusted"] / 400, 0.06)
        self.assertGreater(off["plain"], off["adjusted"])


class ByTheOthers(unittest.TestCase):
    def test_the_line_without_a_part_is_that_of_the_rest(self) -> None:
        rng = np.random.default_rng(3)
        start = rng.normal(1e5, 12, 90)
        end = 0.7 * start + rng.normal(0, 5, 90)
        part = np.arange(20, 45)
        rest = np.setdiff1d(np.arange(90), part)
        line, fit = Sums(start, end).without(part), stats.linregress(start[rest], end[rest])
        assert line is not None
        left = end[rest] - fit.intercept - fit.slope * start[rest]
        np.testing.assert_allclose(
            (line.n, line.slope, line.sd, line.start_mean, line.start_sd),
            (65, fit.slope, (left @ left / 63) ** 0.5, start[rest].mean(), start[rest].std(ddof=1)),
            rtol=1e-8,
        )
        self.assertIsNone(Sums(start, end).without(np.arange(61)))

    def test_a_class_is_judged_by_the_others_and_the_whole_not_at_all(self) -> None:
        rng = np.random.default_rng(4)
        start = rng.normal(200, 14, 120)
        end = 0.8 * start + 50 + rng.normal(0, 6, 120)
        end[:24] += 6.0
        m, labels = matched(start, end), ["a"] * 24 + ["b"] * 96
        found = grown(m, labels)
        fit = stats.linregress(start[24:], end[24:])
        left = end[24:] - fit.intercept - fit.slope * start[24:]
        expected = (end[:24] - fit.intercept - fit.slope * start[:24]) / (left @ left / 94) ** 0.5
        self.assertEqual(found["a"].expectation, "others")
        self.assertAlmostEqual(found["a"].mean_residual_gain, float(expected.mean()))
        self.assertGreater(found["a"].mean_residual_gain, 0.6)
        whole = grown(m, ["all"] * 120)["all"]
        self.assertEqual((whole.expectation, whole.mean_residual_gain), (None, None))
        self.assertIn("says nothing about them", whole.reasons["mean_residual_gain"])
        self.assertIsNotNone(whole.gain_ci95)
        self.assertEqual(found["b"].expectation, None, "only 24 others are left")

    def test_table_and_others_are_never_mixed_in_one_group(self) -> None:
        rng = np.random.default_rng(5)
        start = rng.normal(200, 14, 120)
        m = matched(start, start + rng.normal(8, 5, 120), grade=["6"] * 60 + ["7"] * 60)
        labels = (["a"] * 15 + ["b"] * 45) * 2
        moments = table().moments | {("", "7"): table().moments["", "6"]}
        found = grown(m, labels, NormTable(moments, {}, table().correlations))
        self.assertIn("never mixed", found["a"].reasons["expectation"])

    def test_classes_alike_are_called_in_one_of_twenty(self) -> None:
        rng = np.random.default_rng(6)
        called = n = 0
        for _ in range(150):
            start = rng.normal(200, 14, 125)
            end = 0.8 * start + 50 + rng.normal(0, 7, 125)
            labels = [f"class {at % 5}" for at in range(125)]
            for g in grown(matched(start, end), labels).values():
                low, high = g.residual_gain_ci95
                called += low > 0 or high < 0
                n += 1
        self.assertLess(called / n, 0.10)
        self.assertGreater(called / n, 0.02)


class Shrinkage(unittest.TestCase):
    def test_it_is_the_posterior_by_numerical_integration(self) -> None:
        rng = np.random.default_rng(7)
        means, errors = rng.normal(0, 0.4, 6), rng.uniform(0.01, 0.08, 6)
        reach = 3 * max(means.std(ddof=1), errors.mean() ** 0.5)

        def weight(tau: float) -> float:
            w = 1 / (tau**2 + errors)
            mu = w @ means / w.sum()
            return float(w.sum() ** -0.5 * np.prod(w**0.5) * np.exp(-0.5 * (w @ (means - mu) ** 2)))

        def theta(tau: float, at: int) -> float:
            w = 1 / (tau**2 + errors)
            mu = w @ means / w.sum()
            return float(mu + tau**2 * w[at] * (means[at] - mu))

        total = integrate.quad(weight, 0, reach)[0]
        found = shrink_means(means, errors)
        for at in range(6):
            exact = integrate.quad(lambda t, at=at: weight(t) * theta(t, at), 0, reach)[0] / total
            self.assertAlmostEqual(found.means[at], exact, places=4)
        self.assertAlmostEqual(found.tau, integrate.quad(lambda t: t * weight(t), 0, reach)[0] / total, places=4)

    def test_no_draw_of_five_alike_classes_gives_all_the_same_value(self) -> None:
        rng = np.random.default_rng(9)
        member = np.repeat(np.arange(5), 24)
        for _ in range(200):
            found = shrink(rng.normal(0, 1, 120), member, 5)
            assert found is not None
            self.assertGreater(np.ptp(found.means), 1e-4)

    def test_intervals_hold_the_true_means(self) -> None:
        rng = np.random.default_rng(10)
        held = n = 0
        for _ in range(200):
            true = rng.normal(0, 0.25, 8)
            member = np.repeat(np.arange(8), 22)
            found = shrink(true[member] + rng.normal(0, 1, member.size), member, 8)
            assert found is not None
            held += int((np.abs(found.means - true) <= 1.96 * found.errors).sum())
            n += 8
        self.assertGreater(
            held / n, 0.91, "what is believed is no normal curve with eight groups: 93% where 95% is meant"
        )

    def test_few_groups_or_nothing_within_them(self) -> None:
        self.assertIsNone(shrink(np.ones(8), np.repeat(np.arange(4), 2), 4))
        self.assertIsNone(shrink(np.repeat(np.arange(5.0), 3), np.repeat(np.arange(5), 3), 5))


if __name__ == "__main__":
    unittest.main()
