"""What moves between two analyses, and answers whose points somebody decided, by hand."""

from __future__ import annotations

import unittest

import numpy as np

from bildung.core.classical.analysis import analyse
from bildung.core.classical.moves import moves
from bildung.core.data.corrected import given_to_all, with_scores
from bildung.core.data.responses import (
    AWAITING,
    FIRST,
    NOT_PRESENTED,
    NOT_REACHED,
    OMITTED,
    Answers,
    ItemColumn,
    table_from_cells,
)


def answers(*codes: int) -> Answers:
    return Answers(np.array(codes, dtype=np.uint8), ("A", "B"), np.array([0.0, 2.0]))


class Decided(unittest.TestCase):
    def test_full_points_to_everybody_or_to_whoever_reached_it(self) -> None:
        codes = (FIRST, FIRST + 1, OMITTED, NOT_REACHED, NOT_PRESENTED, AWAITING)
        for unreached, expected in ((False, [2, 2, 2, 0, 0, 2]), (True, [2, 2, 2, 2, 0, 2])):
            found = given_to_all(answers(*codes), 2.0, unreached)
            self.assertEqual(found.code_points[found.codes].tolist(), expected)
            self.assertEqual(found.labels, ("A", "B", ""))
        self.assertEqual(given_to_all(answers(FIRST), 2.0, True).labels, ("A", "B"))

    def test_single_scores_are_answers_of_their_own(self) -> None:
        found = with_scores(answers(FIRST, FIRST + 1, OMITTED, FIRST, NOT_PRESENTED), {0: 1.0, 1: 2.0, 2: 0.5, 4: 1.0})
        self.assertEqual(found.code_points[found.codes].tolist(), [1.0, 2.0, 0.5, 0.0, 0.0])
        self.assertEqual(found.labels, ("A", "B", "A, scored 1", "no answer, scored 0.5"))

    def test_more_labels_than_a_byte_counts(self) -> None:
        many = Answers(np.arange(FIRST, FIRST + 252).astype(np.uint8), tuple(str(n) for n in range(252)), np.zeros(252))
        found = with_scores(many, {0: 1.0, 251: 1.0})
        self.assertEqual((found.code_points[found.codes][0], found.code_points[found.codes][251]), (1.0, 1.0))


class Moving(unittest.TestCase):
    ITEMS = tuple(ItemColumn(name=n, kind="choice", options=("A", "B"), keys=("A",)) for n in "abc")
    CELLS = (("A", "A", "A"), ("A", "B", "B"), ("B", "B", "B"), ("A", "A", "B"))

    def test_up_down_and_over_the_line_by_hand(self) -> None:
        before = analyse(table_from_cells(self.ITEMS, ["A"] * 3, self.CELLS))
        after = analyse(table_from_cells(self.ITEMS, ["A", "A", "B"], self.CELLS))
        found = moves(before, after, 0.6)
        # totals 3 1 0 2 become 2 2 1 3
        self.assertEqual((found.n, found.up, found.down, found.most), (4, 3, 1, 1.0))
        self.assertEqual((found.over, found.under), (1, 0))  # 1 of 3 to 2 of 3; 3 to 2 stays over
        self.assertEqual((found.mean.before, found.mean.after), (1.5, 2.0))
        self.assertEqual((found.level_up, found.level_down), (0, 0))
        by_level = moves(before, after, 0.6, (0.3, 0.7))  # levels 2 1 0 1 become 1 1 1 2
        self.assertEqual((by_level.level_up, by_level.level_down), (2, 1))
        self.assertEqual(found.changed.tolist(), [True] * 4)

    def test_of_tests_worth_other_points_shares_are_compared(self) -> None:
        before = analyse(table_from_cells(self.ITEMS, ["A"] * 3, self.CELLS))
        after = analyse(table_from_cells(self.ITEMS[:2], ["A"] * 2, [row[:2] for row in self.CELLS]))
        found = moves(before, after, 0.6)
        # shares 1, 1/3, 0, 2/3 become 1, 1/2, 0, 1
        self.assertEqual((found.up, found.down, round(found.most, 6)), (2, 0, round(1 / 3, 6)))
        self.assertEqual((found.points.before, found.points.after), (3.0, 2.0))

    def test_nothing_moves_where_nothing_changed(self) -> None:
        before = analyse(table_from_cells(self.ITEMS, ["A"] * 3, self.CELLS))
        found = moves(before, before)
        self.assertEqual(
            (found.up, found.down, found.most, found.flags, bool(found.changed.any())), (0, 0, 0.0, (), False)
        )

    def test_who_waits_for_a_score_is_counted_apart(self) -> None:
        cells = (("A", "A", "!wait"), ("A", "A", "A"))
        before = analyse(table_from_cells(self.ITEMS, ["A"] * 3, cells))
        after = analyse(table_from_cells(self.ITEMS, ["A"] * 3, (("A", "A", "A"), ("A", "A", "A"))))
        there, back = moves(before, after), moves(after, before)
        self.assertEqual((there.n, there.settled, there.unsettled), (1, 1, 0))
        self.assertEqual((back.settled, back.unsettled), (0, 1))
        self.assertEqual(there.changed.tolist(), [True, False])


if __name__ == "__main__":
    unittest.main()
