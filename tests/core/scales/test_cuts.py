"""Cut scores: which hold for a grade and season, and what is no table of them."""

from __future__ import annotations

import unittest

import numpy as np

from bildung.core.errors import Refused
from bildung.core.scales.cuts import CutRow, CutTable, cut_table
from bildung.core.scales.levels import level_of
from bildung.core.scales.norms import Moments, NormTable, Points, standing_in_table, turned

NAMES = ("Low", "Middle", "High")


class Cuts(unittest.TestCase):
    def test_the_nearest_row_holds(self) -> None:
        rows = [
            CutRow("", "", (10, 20)),
            CutRow("", "Fall", (11, 21)),
            CutRow("5", "", (12, 22)),
            CutRow("5", "Fall", (13, 23)),
        ]
        table = cut_table(NAMES, rows, 2, 0, 100)
        for grade, season, cut in (("5", "Fall", 13), ("5", "Winter", 12), ("6", "Fall", 11), ("6", "Winter", 10)):
            with self.subTest(grade=grade, season=season):
                self.assertEqual(table.cut(grade, season), cut)
        only = CutTable(NAMES, (CutRow("5", "Fall", (13, 23)),), 3)
        self.assertIsNone(only.levels("5", "Winter"))
        self.assertEqual(only.cut("5", "Fall"), 23)

    def test_where_less_is_better_cuts_fall_and_levels_turn(self) -> None:
        table = cut_table(NAMES, [CutRow("", "", (20, 10))], 2, 0, 100, falling=True)
        levels = table.turned().levels("5", "Fall")
        assert levels is not None
        scores = np.array([25.0, 20.0, 15.0, 10.0, 5.0])
        self.assertEqual(
            [levels.names[at] for at in level_of(-scores, levels)], ["Low", "Middle", "Middle", "High", "High"]
        )
        with self.assertRaisesRegex(Refused, "below the one before"):
            cut_table(NAMES, [CutRow("", "", (10, 20))], 2, 0, 100, falling=True)

    def test_tables_that_are_none(self) -> None:
        good = [CutRow("5", "Fall", (10, 20))]
        for names, rows, goal, says in (
            (("One",), good, 2, "at least two levels"),
            (("a", "A", "b"), good, 2, "a name of its own"),
            (NAMES, good, 1, "from the second to the last"),
            (NAMES, [], 2, "at least one grade"),
            (NAMES, [*good, *good], 2, "grade 5 Fall stands twice"),
            (NAMES, [CutRow("5", "", (10,))], 2, "3 levels need 2"),
            (NAMES, [CutRow("5", "", (20, 10))], 2, "above the one before"),
            (NAMES, [CutRow("5", "", (20, 20))], 2, "above the one before"),
            (NAMES, [CutRow("", "Fall", (20, 120))], 2, "every grade Fall: a cut score is on the scale from 0 to 100"),
        ):
            with self.subTest(says), self.assertRaisesRegex(Refused, says):
                cut_table(names, rows, goal, 0, 100)


class Turned(unittest.TestCase):
    def test_ranks_of_a_measure_on_which_less_is_better(self) -> None:
        key = ("m", "5")
        moments = NormTable({key: Moments(np.array([0.0, 36.0]), np.array([30.0, 20.0]), np.array([5.0, 5.0]))}, {}, {})
        week = np.array([18.0])
        plain = standing_in_table(moments, key, np.array([20.0]), week).ranks[0]
        better = standing_in_table(turned(moments), key, np.array([-20.0]), week).ranks[0]
        self.assertAlmostEqual(plain + better, 100)
        points = NormTable(
            {}, {key: Points(np.array([0.0]), np.array([10.0, 50.0, 90.0]), np.array([[10.0, 20.0, 40.0]]))}, {}
        )
        zero = np.array([0.0])
        self.assertAlmostEqual(standing_in_table(points, key, np.array([10.0]), zero).ranks[0], 10)
        self.assertAlmostEqual(standing_in_table(turned(points), key, np.array([-10.0]), zero).ranks[0], 90)


if __name__ == "__main__":
    unittest.main()
