"""Each claim's error rate, on a share of the runs that docs/methods.md prints."""

from __future__ import annotations

import unittest

from tests.core.growth.simulated import OUT, table

BOUNDS = ((0.88, 1.0), (0.0, 0.08), (0.02, 0.08), (0.0, 0.09), (0.76, 0.92), (0.80, 1.0), (0.72, 0.88))


class Rates(unittest.TestCase):
    def test_every_claim_is_as_often_wrong_as_it_says(self) -> None:
        printed = OUT.read_text("utf-8")
        for (what, rate, _), (low, high) in zip(table(0.25), BOUNDS, strict=True):
            with self.subTest(what):
                self.assertIn(what, printed)
                self.assertTrue(low <= rate <= high, f"{rate:.3f} outside {low} to {high}")


if __name__ == "__main__":
    unittest.main()
