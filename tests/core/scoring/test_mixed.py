"""What guessing earns, and when answers fit another form, by hand and by simulated guessers."""

from __future__ import annotations

import unittest

import numpy as np

from bildung.core.scoring.mixed import guessing, mixed_up


class Mixed(unittest.TestCase):
    FOUR = guessing([(1.0, 4)] * 32)

    def test_guessing_by_hand(self) -> None:
        self.assertEqual(self.FOUR.mean, 8.0)
        self.assertAlmostEqual(self.FOUR.sd, (32 * 0.25 * 0.75) ** 0.5)
        some = guessing([(2.0, 4), (1.0, 2), (5.0, 0)])
        self.assertAlmostEqual(some.mean, 1.0)
        self.assertAlmostEqual(some.sd, (4 * 0.1875 + 0.25) ** 0.5)
        self.assertEqual(guessing([(3.0, 0)]).sd, 0.0)

    def test_no_better_than_guessing_here_and_well_above_it_there(self) -> None:
        self.assertTrue(mixed_up(9.0, self.FOUR, 25.0, self.FOUR))
        self.assertFalse(mixed_up(16.0, self.FOUR, 25.0, self.FOUR))
        self.assertFalse(mixed_up(9.0, self.FOUR, 12.0, self.FOUR))

    def test_of_those_who_guess_on_both_forms_hardly_any_is_called(self) -> None:
        rng = np.random.default_rng(5)
        own, other = rng.binomial(32, 0.25, 40_000), rng.binomial(32, 0.25, 40_000)
        called = sum(mixed_up(float(a), self.FOUR, float(b), self.FOUR) for a, b in zip(own, other, strict=True))
        self.assertLess(called / 40_000, 0.004)

    def test_of_those_who_know_half_nearly_all_mixed_up_are_found(self) -> None:
        rng = np.random.default_rng(6)
        own, other = rng.binomial(32, 0.25, 2_000), rng.binomial(32, 0.62, 2_000)
        found = sum(mixed_up(float(a), self.FOUR, float(b), self.FOUR) for a, b in zip(own, other, strict=True))
        self.assertGreater(found / 2_000, 0.75)


if __name__ == "__main__":
    unittest.main()
