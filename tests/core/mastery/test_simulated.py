"""What docs/methods.md says of how often mastery is right."""

from __future__ import annotations

import unittest

import numpy as np

from bildung.services.mastery.grid import FALSE_ARROW
from tests.core.mastery.simulated import OUT, judged, steady, table, turning


class Rates(unittest.TestCase):
    def test_the_printed_table_is_what_the_code_does(self) -> None:
        self.assertEqual(OUT.read_text("utf-8"), table())

    def test_few_weak_students_are_called_mastered_and_most_strong_ones_in_the_end(self) -> None:
        rng = np.random.default_rng(1)
        self.assertLess(steady(rng, 0.6, 40)[0], 0.02)
        self.assertLess(steady(rng, 0.7, 20)[0], 0.12)
        self.assertGreater(steady(rng, 0.95, 20)[0], 0.75)
        self.assertLess(steady(rng, 0.7, 40)[3], 2 * FALSE_ARROW + 0.005)

    def test_a_run_that_begins_anew_is_seen_within_two_days(self) -> None:
        rng = np.random.default_rng(2)
        up, down = turning(rng, 0.3, 0.95, 16), turning(rng, 0.95, 0.4, 16)
        self.assertGreater(up[2], 0.5)
        self.assertLess(down[1], 0.1)

    def test_harder_items_do_not_make_a_false_arrow(self) -> None:
        rng = np.random.default_rng(3)
        p = np.r_[np.full(20, 0.8), np.full(8, 0.5)]
        right = rng.random((3000, 28)) < p
        self.assertLess((judged(right, p)[2] != 0).mean(), 2 * FALSE_ARROW)


if __name__ == "__main__":
    unittest.main()
