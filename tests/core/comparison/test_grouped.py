"""Groups side by side: by hand, and never a figure from which a small group could be found."""

from __future__ import annotations

import unittest

import numpy as np
from scipy import stats

from bildung.core.comparison.grouped import UNKNOWN, group_scores
from bildung.core.errors import Refused


class Groups(unittest.TestCase):
    def test_means_and_intervals_are_those_of_a_t_test_by_another_hand(self) -> None:
        rng = np.random.default_rng(4)
        share, names = rng.uniform(0.2, 0.9, 60), ["a"] * 35 + ["b"] * 25
        grouped = group_scores(share, names)
        for found, mine in zip(grouped.groups, (share[:35], share[35:]), strict=True):
            low, high = stats.t.interval(0.95, mine.size - 1, mine.mean(), stats.sem(mine))
            assert found.ci95 is not None and found.mean is not None
            np.testing.assert_allclose((found.mean, *found.ci95), (mine.mean(), low, high), rtol=1e-12)
            self.assertEqual(found.n, mine.size)
        self.assertAlmostEqual(grouped.mean or 0, float(share.mean()))

    def test_a_hidden_group_tells_neither_its_size_nor_its_mean(self) -> None:
        share = np.linspace(0.1, 0.9, 40)
        names = ["big"] * 25 + ["middle"] * 12 + ["small"] * 3
        found = {g.group: g for g in group_scores(share, names).groups}
        self.assertEqual({name: g.hidden for name, g in found.items()}, {"big": False, "middle": True, "small": True})
        for name in ("middle", "small"):
            self.assertEqual((found[name].n, found[name].mean, found[name].ci95), (None, None, None))

    def test_who_has_no_value_is_a_group_of_its_own(self) -> None:
        found = group_scores(np.full(12, 0.5), ["a"] * 6 + [""] * 6)
        self.assertEqual([(g.group, g.n, g.ci95) for g in found.groups], [("a", 6, None), (UNKNOWN, 6, None)])
        self.assertEqual(group_scores(np.zeros(0), []).groups, ())
        with self.assertRaises(Refused):
            group_scores(np.zeros(3), ["a"])
