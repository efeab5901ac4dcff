"""Omitted or not reached, blank or sat: methods.md, section 1."""

from __future__ import annotations

import unittest

import numpy as np

from bildung.core.data.responses import (
    AWAITING,
    FIRST,
    NOT_PRESENTED,
    NOT_REACHED,
    OMITTED,
    Answers,
    ItemColumn,
    ResponseTable,
    Status,
    settle,
    table_from_cells,
)
from bildung.core.errors import Refused


def choice_table(rows: list[str], parts: str = "", status: list[Status] | None = None) -> ResponseTable:
    """Rows such as "AB.A-": a dot is blank, a minus not presented, "?" awaits a score."""
    cells = [["" if c == "." else "!np" if c == "-" else "!wait" if c == "?" else c for c in row] for row in rows]
    k = len(rows[0])
    items = [
        ItemColumn(name=f"i{j}", kind="choice", points=1.0, options=("A", "B"), keys=("A",), part=parts[j : j + 1])
        for j in range(k)
    ]
    return table_from_cells(items, ["A"] * k, cells, status)


def states(table: ResponseTable, row: int = 0) -> str:
    letters = {OMITTED: "o", NOT_REACHED: "n", NOT_PRESENTED: "-", AWAITING: "?"}
    return "".join(letters.get(int(a.codes[row]), "x") for a in table.answers)


class Settling(unittest.TestCase):
    def test_a_blank_before_a_later_answer_is_omitted(self) -> None:
        self.assertEqual(states(choice_table(["A..B"])), "xoox")

    def test_the_first_blank_after_the_last_answer_is_omitted_and_the_rest_not_reached(self) -> None:
        self.assertEqual(states(choice_table(["AB..."])), "xxonn")

    def test_a_part_without_an_answer_has_its_first_item_omitted(self) -> None:
        self.assertEqual(states(choice_table(["AB...", "....A"], parts="11222")), "xxonn")
        self.assertEqual(states(choice_table(["AB...", "....A"], parts="11222"), 1), "onoox")

    def test_parts_are_settled_apart(self) -> None:
        self.assertEqual(states(choice_table(["A..B."], parts="11222")), "xooxo")

    def test_not_presented_items_are_skipped(self) -> None:
        self.assertEqual(states(choice_table(["A-.-.."])), "x-o-nn")
        self.assertEqual(states(choice_table(["A.-.B"])), "xo-ox")

    def test_an_awaited_response_counts_as_an_answer(self) -> None:
        table = choice_table(["A.?.."])
        self.assertEqual(states(table), "xo?on")
        self.assertEqual(table.count(Status.WAITING), 1)

    def test_a_sitting_without_any_answer_is_blank_and_not_sat(self) -> None:
        table = choice_table(["...", "A..", "-.-"])
        self.assertEqual([table.count(s) for s in (Status.SAT, Status.BLANK)], [1, 2])
        self.assertEqual(table.counted.tolist(), [False, True, False])

    def test_absent_students_are_never_counted_even_with_answers(self) -> None:
        table = choice_table(["AB", "AB"], status=[Status.ABSENT, Status.SAT])
        self.assertEqual(table.counted.tolist(), [False, True])

    def test_an_unknown_option_is_refused_by_name(self) -> None:
        with self.assertRaisesRegex(Refused, "'C' is not one of the options A, B"):
            choice_table(["C"])

    def test_a_ragged_row_is_refused(self) -> None:
        with self.assertRaisesRegex(Refused, "1 cells for 2 items"):
            table_from_cells(
                [ItemColumn(name="a", kind="points"), ItemColumn(name="b", kind="points")], ["", ""], [["1"]]
            )

    def test_labels_of_a_choice_item_are_all_its_options_in_order(self) -> None:
        table = choice_table(["B"])
        self.assertEqual(table.answers[0].labels, ("A", "B"))
        self.assertEqual(int(table.answers[0].codes[0]), FIRST + 1)

    def test_what_was_looked_at_overrides_the_rule_for_those_who_have_a_log(self) -> None:
        table = choice_table(["A....", ".A...", "A....", "....."])
        raw = [Answers(np.where(a.codes == NOT_REACHED, OMITTED, a.codes), a.labels, a.points) for a in table.answers]
        opened = np.array(
            [
                [1, 1, 0, 0, 1],  # leapt to the end and looked at it
                [0, 1, 1, 1, 0],  # never saw the first
                [0, 0, 0, 0, 0],  # without a log
                [1, 0, 0, 0, 0],  # looked and left
            ],
            dtype=np.bool_,
        )
        settled = settle(table.items, raw, table.status, opened)
        self.assertEqual([states(settled, row) for row in range(4)], ["xonno", "nxoon", "xonnn", "onnnn"])
        self.assertEqual(settled.counted.tolist(), [True, True, True, False])
