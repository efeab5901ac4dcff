"""Pairs of scorers: against published agreement, condition codes apart, whoever settles left out."""

from __future__ import annotations

import unittest
from collections.abc import Sequence

import numpy as np

from bildung.core.agreement.pairs import in_pairs
from bildung.core.scoring.settled import GivenScore

# Cohen's own table of 1968: how many of 200 both put into each of three categories
COHEN = np.array([[88, 10, 2], [14, 40, 6], [18, 10, 12]])


def scored(pairs: Sequence[tuple[float, float]]) -> list[dict[int, GivenScore]]:
    return [{7: GivenScore(a), 3: GivenScore(b)} for a, b in pairs]


class Pairs(unittest.TestCase):
    def test_cohens_table(self) -> None:
        both = [(float(a), float(b)) for a in range(3) for b in range(3) for _ in range(COHEN[a, b])]
        (pair,) = in_pairs(scored(both))
        assert pair.found is not None
        observed, rows, columns = COHEN.trace() / 200, COHEN.sum(axis=1) / 200, COHEN.sum(axis=0) / 200
        expected = float(rows @ columns)
        self.assertEqual((pair.first, pair.second, pair.n), (3, 7, 200))
        self.assertAlmostEqual(pair.found.exact, observed)
        self.assertAlmostEqual(pair.found.kappa or 0, (observed - expected) / (1 - expected))
        self.assertAlmostEqual(pair.found.kappa or 0, 0.492, places=3)
        self.assertAlmostEqual(pair.found.difference, np.mean([a - b for a, b in both]), msg="second minus first")

    def test_categories_that_nobody_used_change_nothing(self) -> None:
        both = [(0.0, 0.0), (1.0, 2.0), (2.0, 2.0), (0.0, 1.0)]
        plain = in_pairs(scored(both))[0].found
        with_nine = in_pairs(scored([*both, (9.0, 9.0)]))[0].found
        assert plain is not None and with_nine is not None
        self.assertGreater(with_nine.weighted_kappa or 0, plain.weighted_kappa or 0)
        self.assertEqual(plain.n, 4)

    def test_codes_are_counted_apart(self) -> None:
        given = [
            {1: GivenScore(2.0), 2: GivenScore(2.0)},
            {1: GivenScore(0.0, "blank"), 2: GivenScore(0.0, "blank")},
            {1: GivenScore(0.0, "blank"), 2: GivenScore(0.0)},
            {1: GivenScore(0.0, "blank"), 2: GivenScore(0.0, "too_short")},
        ]
        (pair,) = in_pairs(given)
        self.assertEqual((pair.n, pair.codes, pair.codes_alike), (1, 3, 1))
        (only,) = in_pairs(given[1:2])
        self.assertEqual((only.n, only.found), (0, None))

    def test_who_settles_is_in_no_pair(self) -> None:
        given = [{1: GivenScore(3.0), 2: GivenScore(0.0), 5: GivenScore(1.0, final=True)}]
        self.assertEqual([(p.first, p.second) for p in in_pairs(given)], [(1, 2)])

    def test_points_that_are_not_whole_have_no_kappa(self) -> None:
        (pair,) = in_pairs(scored([(0.5, 1.0), (1.0, 1.0)]))
        self.assertEqual((pair.n, pair.found), (2, None))

    def test_every_two_of_three_and_nobody_without_a_response_in_common(self) -> None:
        given = [
            {1: GivenScore(1.0), 2: GivenScore(1.0)},
            {2: GivenScore(0.0), 3: GivenScore(1.0)},
            {4: GivenScore(1.0)},
        ]
        self.assertEqual([(p.first, p.second) for p in in_pairs(given)], [(1, 2), (2, 3)])
        self.assertEqual(in_pairs([]), [])


if __name__ == "__main__":
    unittest.main()
