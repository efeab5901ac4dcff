"""Items between administrations, forms on one scale: simulated with known truth, and closed forms."""

from __future__ import annotations

import math
import unittest

import numpy as np
from scipy import stats

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.comparison.compare import newcombe
from bildung.core.comparison.drift import drift
from bildung.core.comparison.linking import mean_sigma
from bildung.core.data.responses import ItemColumn, table_from_cells
from bildung.core.errors import Refused

EASE = np.linspace(-1.4, 1.2, 14)


def administration(seed: int, mean: float, harder: dict[int, float], names: list[str], n: int = 700) -> TestAnalysis:
    rng = np.random.default_rng(seed)
    shift = np.array([harder.get(j, 0.0) for j in range(EASE.size)])
    odds = 1.4 * (rng.normal(mean, 1, (n, 1)) - EASE[None, :]) - shift
    right = (rng.random(odds.shape) < 1 / (1 + np.exp(-odds))).astype(int).astype(str)
    return analyse(
        table_from_cells([ItemColumn(name=name, kind="points") for name in names], [""] * EASE.size, right.tolist())
    )


class Drifting(unittest.TestCase):
    def setUp(self) -> None:
        self.earlier = administration(1, 0.0, {}, [f"i{j}" for j in range(14)])
        self.later = administration(2, 0.6, {5: 1.3}, [f"i{j}" for j in range(12)] + ["new1", "new2"])
        self.found = {d.item: d for d in drift(self.earlier, self.later)}

    def test_only_common_items_are_there(self) -> None:
        self.assertEqual(sorted(self.found), sorted(f"i{j}" for j in range(12)))

    def test_an_item_that_leaked_or_aged_stands_out_though_everybody_grew(self) -> None:
        sizes = {name: d.matched.d_dif or 0 for name, d in self.found.items()}
        self.assertEqual(min(sizes, key=lambda name: sizes[name]), "i5")
        self.assertLess(sizes["i5"], -2)
        self.assertTrue(all(abs(v) < 1.2 for name, v in sizes.items() if name != "i5"))
        self.assertGreater(self.found["i3"].p_change or 0, 0.03, "a stronger group: p rises without drift")

    def test_changes_are_plain_differences_with_newcombes_interval(self) -> None:
        a, b, d = self.earlier.item("i3").figures, self.later.item("i3").figures, self.found["i3"]
        assert a.p is not None and b.p is not None and d.r_change_ci95 is not None
        self.assertAlmostEqual(d.p_change or 0, b.p - a.p)
        np.testing.assert_allclose(d.p_change_ci95, newcombe(b.p * b.n, b.n, a.p * a.n, a.n))  # type: ignore[arg-type]
        self.assertAlmostEqual(d.r_change or 0, (b.r_rest or 0) - (a.r_rest or 0))
        half = 1.96 * math.sqrt(2 / 697)
        self.assertLess(d.r_change_ci95[1] - d.r_change_ci95[0], 2 * half * 1.01)

    def test_one_common_item_is_refused(self) -> None:
        other = administration(3, 0, {}, ["i0"] + [f"x{j}" for j in range(13)])
        with self.assertRaisesRegex(Refused, "1 items in common"):
            drift(self.earlier, other)


class Linking(unittest.TestCase):
    def test_a_shift_and_a_stretch_of_ability_are_found_exactly(self) -> None:
        """Items at b, groups N(0, 1) and N(0.5, 1.25): deviates of p are linear in b, so the link is exact."""
        b = np.linspace(-1, 1, 8)
        onto, source = stats.norm.cdf(-b), stats.norm.cdf((0.5 - b) / 1.25)
        link = mean_sigma(source, onto)
        self.assertAlmostEqual(link.slope, 1.25)
        self.assertAlmostEqual(link.intercept, 0.5)
        self.assertAlmostEqual(link.error, 0.0)
        np.testing.assert_allclose(link.apply(np.array([0.0, 1.0])), [0.5, 1.75])

    def test_there_and_back_is_where_one_started(self) -> None:
        rng = np.random.default_rng(4)
        p, q = rng.uniform(0.2, 0.9, 10), rng.uniform(0.2, 0.9, 10)
        z = np.linspace(-2, 2, 9)
        np.testing.assert_allclose(mean_sigma(q, p).apply(mean_sigma(p, q).apply(z)), z)
        self.assertGreater(mean_sigma(p, q).error, 0)

    def test_what_makes_no_link_is_refused(self) -> None:
        for p, q, said in (
            ([0.5, 0.6], [0.5, 0.6], "3 or more"),
            ([0.5, 0.6, 1.0], [0.4, 0.5, 0.9], "all or no students"),
            ([0.5, 0.5, 0.5], [0.4, 0.5, 0.6], "equally hard"),
        ):
            with self.assertRaisesRegex(Refused, said):
                mean_sigma(np.array(p), np.array(q))
