"""A little of `./bildung bench load`: everybody is served, and nothing goes wrong while staff work beside the students."""

from __future__ import annotations

import unittest

from bildung.load.bench import Load, at, one


class Loaded(unittest.TestCase):
    def test_students_answer_while_staff_open_pages_and_a_roster_comes_in(self) -> None:
        load = Load(says="two classes", students=60, seconds=4, every=0.5, staff=3, import_rows=200)
        measured, commit, stopped = one(load)
        self.assertEqual(measured.errors, {})
        self.assertEqual((len(measured.joins), len(measured.submits), measured.reconnects), (60, 60, 0))
        self.assertGreater(len(measured.saves), 200)
        self.assertGreater(measured.imported, 0)
        self.assertGreater(commit, 0)
        self.assertLess(stopped, 10)

    def test_a_percentile_of_nothing_and_of_one(self) -> None:
        self.assertEqual((at([], 0.95), at([3.0], 0.95), at([float(n) for n in range(100)], 0.95)), (0.0, 3.0, 95.0))
