"""Grades as they are written, and their order."""

from __future__ import annotations

import unittest

from bildung.core.grades import grade_before, grade_code, grade_place, in_grade_order


class Grades(unittest.TestCase):
    def test_one_way_to_write_a_grade(self) -> None:
        self.assertEqual(
            [grade_code(t) for t in ("07", "kg", " 0", "00", "12", "", "UG")], ["7", "K", "K", "K", "12", "", "UG"]
        )
        self.assertEqual([grade_before(c) for c in ("7", "1", "K", "UG", "0")], ["6", "K", "", "", ""])

    def test_the_youngest_first_and_what_is_no_grade_of_a_year_last(self) -> None:
        self.assertEqual(
            [grade_place(c) for c in ("K", "1", "12", "UG", "", "3, other scale")], [0, 1, 12, None, None, None]
        )
        self.assertEqual(in_grade_order(["10", "UG", "2", "K", "", "9"]), ["K", "2", "9", "10", "", "UG"])


if __name__ == "__main__":
    unittest.main()
