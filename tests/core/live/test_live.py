"""Answers of a class to one question, before and after talk, and the question that comes next."""

from __future__ import annotations

import unittest

from bildung.core.live.following import Candidate, following
from bildung.core.live.tally import advice, moved, strongest_wrong, tally


class Tally(unittest.TestCase):
    def test_options_stand_in_their_order_and_shares_are_of_those_who_answered(self) -> None:
        bars = tally(["B", "A", "B", "D"], ["A", "B", "C", "D"], ["B"])
        self.assertEqual(
            [(b.answer, b.n, b.share, b.right) for b in bars][:2], [("A", 1, 0.25, False), ("B", 2, 0.5, True)]
        )
        self.assertEqual([b.n for b in bars], [1, 2, 0, 1])

    def test_open_answers_come_by_how_many_gave_them(self) -> None:
        bars = tally(["12", "7", "12", "x"], [], ["12"])
        self.assertEqual([(b.answer, b.right) for b in bars], [("12", True), ("7", False), ("x", False)])

    def test_nobody_has_answered(self) -> None:
        self.assertEqual([b.share for b in tally([], ["A", "B"])], [0.0, 0.0])
        self.assertEqual(advice(0, 0), "")

    def test_the_strongest_wrong_answer_is_known_only_where_something_is_right(self) -> None:
        self.assertEqual(strongest_wrong(tally(["A", "C", "C", "B"], ["A", "B", "C"], ["B"])), "C")
        self.assertEqual(strongest_wrong(tally(["A", "A"], ["A", "B"])), "")
        self.assertEqual(strongest_wrong(tally(["B"], ["A", "B"], ["B"])), "")

    def test_only_who_answered_twice_moved(self) -> None:
        found = moved({1: False, 2: True, 3: True, 4: False, 5: True}, {1: True, 2: True, 3: False, 4: False, 6: True})
        self.assertEqual((found.both, found.to_right, found.from_right, found.right, found.wrong), (4, 1, 1, 1, 1))

    def test_talk_helps_where_the_class_is_divided(self) -> None:
        self.assertEqual([advice(n, 10) for n in (2, 3, 7, 8)], ["explain", "talk", "talk", "go_on"])


class Following(unittest.TestCase):
    def test_the_smallest_step_comes_first_and_flagged_items_never(self) -> None:
        items = [
            Candidate(item=1, p=0.30),
            Candidate(item=2, p=0.55),
            Candidate(item=3, p=0.58),
            Candidate(item=4, p=0.80),
            Candidate(item=5, p=0.50, sound=False),
        ]
        self.assertEqual(following(items, 0.60, harder=True), [2, 1])
        self.assertEqual(following(items, 0.60, harder=False), [4])


if __name__ == "__main__":
    unittest.main()
