"""What the workbench rests on: pooled administrations, sub-scores, what would move, the response grid."""

from __future__ import annotations

import unittest

import numpy as np

from bildung.core.classical.analysis import analyse
from bildung.core.classical.grid import item_sentence, response_grid, student_sentence
from bildung.core.classical.whatif import what_if
from bildung.core.data.pooling import restricted, stacked
from bildung.core.data.responses import ItemColumn, ResponseTable, Status, table_from_cells
from bildung.core.data.simulate import ItemParameters, simulate_choices
from bildung.core.errors import Refused
from bildung.core.precision.subscores import sub_scores

ITEM = ItemParameters(discrimination=1.3, difficulty=0.0, guessing=0.15, right=0, pull=(1.0, 1.0, 1.0, 1.0))


def choices(names: str, parts: str = "") -> list[ItemColumn]:
    return [
        ItemColumn(
            name=name, kind="choice", points=1.0, options=tuple("ABCD"), keys=("A",), part=parts[at] if parts else ""
        )
        for at, name in enumerate(names)
    ]


def simulated(n: int, k: int, seed: int = 1, shift: float = 0.0) -> list[list[str]]:
    rng = np.random.default_rng(seed)
    drawn = [
        ItemParameters(discrimination=1.3, difficulty=b, guessing=0.15, right=0, pull=(1.0,) * 4)
        for b in np.linspace(-1.5, 1.5, k)
    ]
    picked = simulate_choices(rng.standard_normal(n) + shift, drawn, rng)
    return [["ABCD"[picked[at][row]] for at in range(k)] for row in range(n)]


def table(cells: list[list[str]], names: str = "", keys: str = "") -> ResponseTable:
    letters = names or "abcdefghijklmnopqrstuvwxyz"[: len(cells[0])]
    return table_from_cells(choices(letters), keys or "A" * len(letters), cells)


class Pooling(unittest.TestCase):
    def test_what_was_not_reached_on_the_form_stays_so_when_items_are_left_out(self) -> None:
        whole = table([["A", "", "B", "", ""], ["A", "B", "C", "D", "A"]])
        cut = restricted(whole, [0, 3, 4])
        codes = [a.codes[0] for a in cut.answers]
        self.assertEqual(codes[1:], [0, 1], "the first blank after the last answer is omitted, the next not reached")
        # by itself, the same row would have another end
        alone = table([["A", "", ""], ["A", "D", "A"]])
        self.assertEqual([a.codes[0] for a in alone.answers], codes)
        tail = restricted(whole, [4])
        self.assertEqual(
            tail.answers[0].codes[0], 1, "not reached, though it would be the first blank of a test of its own"
        )

    def test_waiting_is_a_matter_of_the_items_that_are_left_and_blank_of_the_form(self) -> None:
        whole = table([["A", "B", "!wait"], ["", "", ""], ["A", "!wait", "B"]])
        self.assertEqual(list(whole.status), [Status.WAITING, Status.BLANK, Status.WAITING])
        self.assertEqual(list(restricted(whole, [0, 1]).status), [Status.SAT, Status.BLANK, Status.WAITING])

    def test_two_administrations_below_each_other_are_one_file(self) -> None:
        first, second = simulated(80, 6, 1), simulated(50, 6, 2)
        one = analyse(stacked([table(first), table(second)]))
        other = analyse(table([*first, *second]))
        self.assertEqual(one.reliability, other.reliability)
        self.assertEqual([i.figures for i in one.items], [i.figures for i in other.items])
        self.assertEqual([i.options for i in one.items], [i.options for i in other.items])

    def test_written_answers_meet_by_what_they_say(self) -> None:
        item = ItemColumn(name="n", kind="numeric")
        one, two = (table_from_cells([item], ["7"], [[c] for c in cells]) for cells in ("789", "9a7"))
        together = analyse(stacked([one, two]))
        self.assertEqual(
            {row.option: row.n for row in together.items[0].options}, {"7": 2, "9": 2, "8": 1, "a": 1, "": 0}
        )
        self.assertEqual(together.items[0].figures.p, 2 / 6)

    def test_different_items_are_refused(self) -> None:
        with self.assertRaisesRegex(Refused, "different items"):
            stacked([table([["A", "B"]], "ab"), table([["A", "B"]], "ac")])
        with self.assertRaisesRegex(Refused, "at least one item"):
            restricted(table([["A"]], "a"), [])
        with self.assertRaisesRegex(Refused, "nothing to stack"):
            stacked([])


class SubScores(unittest.TestCase):
    def setUp(self) -> None:
        self.cells = simulated(300, 12)
        self.whole = table(self.cells)
        self.analysis = analyse(self.whole)

    def test_a_group_is_a_test_of_its_own(self) -> None:
        places = [1, 4, 5, 9]
        found = sub_scores(self.analysis, {"some": places})[0]
        alone = analyse(restricted(self.whole, places))
        self.assertAlmostEqual(found.alpha or 0, alone.reliability.alpha or 9)
        self.assertAlmostEqual((found.mean or 0) * 4, alone.distribution.mean or 9)
        self.assertAlmostEqual((found.sd or 0) * 4, alone.distribution.sd or 9)
        self.assertAlmostEqual(found.sem or 0, alone.sem or 9)
        self.assertEqual((found.n, found.points), (300, 4.0))

    def test_of_one_trait_the_total_says_more_of_a_part_than_the_part_does(self) -> None:
        found = sub_scores(self.analysis, {"first": range(6), "whole": range(12), "one": [3]})
        self.assertIs(found[0].says_more, False)
        self.assertGreater(found[0].from_total or 0, found[0].from_part or 1)
        self.assertIn("whole test", found[1].why["says_more"])
        self.assertEqual((found[2].alpha, found[2].why["alpha"]), (None, "one item"))

    def test_a_part_of_another_trait_says_more_of_itself(self) -> None:
        other = simulated(300, 12, 7)
        cells = [mine + theirs for mine, theirs in zip(self.cells, other, strict=True)]
        found = sub_scores(analyse(table(cells)), {"one": range(12), "other": range(12, 24)})
        self.assertEqual([f.says_more for f in found], [True, True])

    def test_students_without_a_group_are_out_of_its_n(self) -> None:
        cells = [[*row] for row in self.cells[:30]]
        for row in cells[:10]:
            row[0] = row[1] = "!np"
        found = sub_scores(analyse(table(cells)), {"gone": [0, 1], "half": [1, 2]})
        self.assertEqual([f.n for f in found], [20, 30])
        right = (
            sum((row[2] == "A") for row in cells[:10])
            + sum((row[1] == "A") + (row[2] == "A") for row in cells[10:]) / 2
        )
        self.assertAlmostEqual(found[1].mean or 0, right / 30)
        nobody = analyse(table([["!np", "A"], ["!np", "B"]]))
        self.assertIn("no one", sub_scores(nobody, {"x": [0]})[0].why["mean"])


class WhatIf(unittest.TestCase):
    def setUp(self) -> None:
        self.cells = simulated(250, 10)
        for row in self.cells[::4]:
            row[3] = {"A": "C", "C": "A"}.get(row[3], row[3])
        self.cells[0][3] = ""
        self.now = analyse(table(self.cells, keys="AAAC" + "A" * 6))

    def test_another_key_is_the_analysis_with_that_key(self) -> None:
        found = what_if(self.now, "d", "key", "A")
        then = analyse(table(self.cells))
        self.assertEqual((found.alpha.after, found.mean.after), (then.reliability.alpha, then.distribution.mean))
        self.assertEqual((found.p.before, found.p.after), (self.now.items[3].figures.p, then.items[3].figures.p))
        self.assertEqual(
            (found.up, found.down), (sum(r[3] == "A" for r in self.cells), sum(r[3] == "C" for r in self.cells))
        )
        self.assertEqual(found.most, 1.0)
        self.assertLess(found.reordered or 1, 1)
        before, after = self.now.scores.earned / 10, then.scores.earned / 10
        self.assertEqual(found.over, int(((before < 0.6 - 1e-9) & (after >= 0.6 - 1e-9)).sum()))
        self.assertEqual(found.under, int(((before >= 0.6 - 1e-9) & (after < 0.6 - 1e-9)).sum()))

    def test_a_second_answer_and_points_for_everybody_only_lift(self) -> None:
        also = what_if(self.now, "d", "also", "A")
        self.assertEqual((also.down, also.up), (0, sum(r[3] == "A" for r in self.cells)))
        self.assertAlmostEqual(also.p.after or 0, sum(r[3] in "AC" and r[3] != "" for r in self.cells) / 250)
        everybody = what_if(self.now, "d", "everybody")
        self.assertEqual(everybody.up, sum(r[3] != "C" for r in self.cells), "an omission earns the point as well")
        self.assertEqual(everybody.p.after, 1.0)
        self.assertIsNone(everybody.r_rest.after)

    def test_dropping_compares_by_share(self) -> None:
        found = what_if(self.now, "d", "drop")
        then = analyse(restricted(self.now.table, [0, 1, 2, *range(4, 10)]))
        self.assertEqual((found.alpha.after, found.points.after), (then.reliability.alpha, 9.0))
        self.assertAlmostEqual(found.alpha.after or 0, self.now.items[3].alpha_without or 9)
        self.assertIsNone(found.p.after)
        change = then.scores.earned / 9 - self.now.scores.earned / 10
        self.assertEqual((found.up, found.down), (int((change > 1e-9).sum()), int((change < -1e-9).sum())))

    def test_what_cannot_be_tried_is_refused(self) -> None:
        for item, way, answer, said in (
            ("zz", "drop", "", "no item 'zz'"),
            ("d", "key", "E", "no one answered 'E'"),
        ):
            with self.assertRaisesRegex(Refused, said):
                what_if(self.now, item, way, answer)  # type: ignore[arg-type]
        with self.assertRaisesRegex(Refused, "only item"):
            what_if(analyse(table([["A"], ["B"]], "a")), "a", "drop")


class Grid(unittest.TestCase):
    def setUp(self) -> None:
        self.cells = simulated(200, 20)
        self.cells[0] = ["B"] * 10 + ["A"] * 10  # the easy ones wrong, the hard ones right
        self.cells[1] = ["A"] * 10 + [""] * 10
        self.analysis = analyse(table(self.cells))
        self.grid = response_grid(self.analysis)
        self.numbers = [str(at) for at in range(1, 21)]

    def test_residuals_are_those_of_the_definition(self) -> None:
        right = np.array([[cell == "A" for cell in row] for row in self.cells])
        met = self.grid.met
        self.assertEqual(int((~met).sum()), 9, "the first blank of the tail was met")
        student = (right[5].sum() + 0.5) / 21
        p = np.array([(right[met[:, j], j].sum() + 0.5) / (met[:, j].sum() + 1) for j in range(20)])
        odds = np.log(student / (1 - student)) + np.log(p / (1 - p)) - np.log(p / (1 - p)).mean()
        chance = 1 / (1 + np.exp(-odds))
        np.testing.assert_allclose(self.grid.fit.residuals[5], (right[5] - chance) / np.sqrt(chance * (1 - chance)))
        log = np.where(right[5], np.log(chance), np.log(1 - chance)).sum()
        expected = (chance * np.log(chance) + (1 - chance) * np.log(1 - chance)).sum()
        spread = (chance * (1 - chance) * odds**2).sum()
        self.assertAlmostEqual(float(self.grid.fit.fit[5]), (log - expected) / np.sqrt(spread))

    def test_a_reversed_student_is_named_with_the_answers_that_surprise(self) -> None:
        self.assertEqual(int(self.grid.fit.fit.argmin()), 0)
        said = student_sentence(self.grid, 0, self.numbers)
        self.assertRegex(
            said, r"^An unusual pattern: missed what students of this score usually get \(\d+.*Ask how the test went"
        )
        usual = int(np.flatnonzero(~self.grid.fit.surprising.any(axis=1))[0])
        self.assertEqual(student_sentence(self.grid, usual, self.numbers), "Nothing unexpected.")

    def test_partial_credit_and_few_items_are_judged_with_care(self) -> None:
        items = [ItemColumn(name=f"p{at}", kind="points", points=4.0) for at in range(6)]
        rng = np.random.default_rng(3)
        cells = [[str(rng.integers(0, 5)) for _ in range(6)] for _ in range(40)]
        grid = response_grid(analyse(table_from_cells(items, [""] * 6, cells)))
        self.assertEqual(float(grid.share[0, 0]), int(cells[0][0]) / 4)
        self.assertTrue(student_sentence(grid, 0, self.numbers).endswith("6 items are few to judge by."))
        self.assertIn("too few", item_sentence(response_grid(analyse(table(self.cells[:10]))), 0))

    def test_an_item_answered_against_expectation_stands_out(self) -> None:
        for at, row in enumerate(self.cells):
            row[2] = "A" if at % 2 else "B"
        grid = response_grid(analyse(table(self.cells)))
        self.assertEqual(int(grid.fit.item_fit.argmin()), 2)
        self.assertLess(float(grid.fit.item_fit[2]), -4)
        self.assertTrue(item_sentence(grid, 2).startswith("The strong miss it and the weak get it"))
        self.assertTrue(item_sentence(grid, 7).startswith("Its answers are as"))

    def test_a_student_who_met_nothing_has_no_fit(self) -> None:
        grid = response_grid(analyse(table([["!np", "!wait"], ["A", "B"], ["B", "B"]])))
        self.assertEqual((float(grid.fit.fit[0]), bool(grid.met[0].any())), (0.0, False))
