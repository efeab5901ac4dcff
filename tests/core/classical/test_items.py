"""Item statistics against printed results, the slow way, and what must not matter."""

from __future__ import annotations

import random
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.classical.intervals import fisher_interval, wilson
from bildung.core.classical.ranks import mid_ranks, slices
from bildung.core.data.responses import ItemColumn, Status, table_from_cells
from tests.core import by_hand
from tests.core.classical.test_settling import choice_table
from tests.core.published import SECTION_6, SECTION_7, table


class Printed(unittest.TestCase):
    """Section 7: p, item-total and item-rest correlations as in published item analyses of these data."""

    def setUp(self) -> None:
        self.six, self.seven = analyse(table(SECTION_6)), analyse(table(SECTION_7))

    def figures(self, analysis: TestAnalysis, name: str) -> list[float]:
        return [round(getattr(item.figures, name), 3) for item in analysis.items]

    def test_p_of_section_6(self) -> None:
        self.assertEqual(self.figures(self.six, "p"), [0.924, 0.709, 0.553, 0.763, 0.870])

    def test_p_and_sd_of_section_7(self) -> None:
        self.assertEqual(self.figures(self.seven, "p"), [0.828, 0.658, 0.772, 0.606, 0.843])
        self.assertEqual(self.figures(self.seven, "sd"), [0.378, 0.475, 0.420, 0.489, 0.364])

    def test_correlations_of_section_7(self) -> None:
        self.assertEqual(self.figures(self.seven, "r_total"), [0.530, 0.600, 0.611, 0.592, 0.461])
        self.assertEqual(self.figures(self.seven, "r_rest"), [0.246, 0.247, 0.313, 0.223, 0.175])

    def test_alpha_without_each_item_of_section_7(self) -> None:
        without = [round(item.alpha_without or 0, 3) for item in self.seven.items]
        self.assertEqual(without, [0.396, 0.394, 0.345, 0.415, 0.438])


class ByHand(unittest.TestCase):
    """Every figure of a messy table, student by student."""

    def setUp(self) -> None:
        rng = random.Random(11)
        self.rows = []
        for _ in range(61):
            strength = rng.random()
            reach = rng.choice((6, 8, 8, 8))
            self.rows.append(
                "".join(
                    "." if j >= reach or rng.random() < 0.08 else "A" if rng.random() < strength else rng.choice("BCD")
                    for j in range(8)
                )
            )
        items = [
            ItemColumn(name=f"i{j}", kind="choice", points=1.0, options=tuple("ABCD"), keys=("A",)) for j in range(8)
        ]
        cells = [["" if c == "." else c for c in row] for row in self.rows]
        self.table = table_from_cells(items, ["A"] * 8, cells)
        self.analysis = analyse(self.table)
        self.counted = [row for row in self.rows if row.strip(".")]
        self.points = [[float(c == "A") for c in row] for row in self.counted]
        self.totals = [sum(row) for row in self.points]

    def reached(self, row: str, j: int) -> bool:
        """By the rule as written: an answer at or after j, or the first blank after the last answer."""
        last = max((at for at, c in enumerate(row) if c != "."), default=-1)
        return j <= last + 1

    def test_p_r_rest_and_d27_by_hand(self) -> None:
        for j, item in enumerate(self.analysis.items):
            mine = [i for i, row in enumerate(self.counted) if self.reached(row, j)]
            x = [self.points[i][j] for i in mine]
            self.assertEqual(item.figures.n, len(mine))
            self.assertAlmostEqual(item.figures.p or 0, sum(x) / len(x), places=12)
            rest = [self.totals[i] - self.points[i][j] for i in mine]
            self.assertAlmostEqual(item.figures.r_rest or 0, by_hand.correlation(x, rest) or 0, places=12)
            ranked = [(self.totals[i], self.points[i][j]) for i in mine]
            high, size = by_hand.fractional_share(ranked, 0.73, 1.0)
            low, _ = by_hand.fractional_share(ranked, 0.0, 0.27)
            self.assertAlmostEqual(size, 0.27 * len(mine), places=9)
            self.assertAlmostEqual(item.figures.d27 or 0, (high - low) / size, places=12)

    def test_option_rows_by_hand(self) -> None:
        for j, item in enumerate(self.analysis.items):
            mine = [i for i, row in enumerate(self.counted) if self.reached(row, j)]
            for row in item.options:
                took = [float(self.counted[i][j] == (row.option or ".")) for i in mine]
                self.assertEqual(row.n, sum(took))
                if sum(took) == 0:
                    self.assertIsNone(row.mean_total)
                    continue
                totals = [self.totals[i] for i in mine]
                rest = [self.totals[i] - self.points[i][j] for i in mine]
                self.assertAlmostEqual(
                    row.mean_total or 0, sum(t * a for t, a in zip(totals, took, strict=True)) / sum(took)
                )
                self.assertAlmostEqual(row.r_rest or 0, by_hand.correlation(took, rest) or 0, places=12)
                for fifth, share in enumerate(row.fifths):
                    ranked = list(zip(totals, took, strict=True))
                    held, size = by_hand.fractional_share(ranked, fifth / 5, (fifth + 1) / 5)
                    self.assertAlmostEqual(share or 0, held / size, places=9)

    def test_alpha_by_hand(self) -> None:
        self.assertAlmostEqual(self.analysis.reliability.alpha or 0, by_hand.alpha(self.points), places=12)

    def test_option_shares_add_to_one_and_fifths_to_one(self) -> None:
        for item in self.analysis.items:
            self.assertAlmostEqual(sum(row.share or 0 for row in item.options), 1)
            for fifth in range(5):
                self.assertAlmostEqual(sum(row.fifths[fifth] or 0 for row in item.options), 1)

    def test_row_order_does_not_matter(self) -> None:
        order = np.random.default_rng(3).permutation(self.table.n)
        self.assertEqual(figures_of(analyse(self.table.take(order))), figures_of(self.analysis))

    def test_absent_students_leave_every_figure_unchanged(self) -> None:
        cells = [["" if c == "." else c for c in row] for row in self.rows] + [["A"] * 8] * 9
        status = [Status.SAT] * len(self.rows) + [Status.ABSENT] * 5 + [Status.EXEMPT] * 2 + [Status.VOID] * 2
        items = [a.item for a in self.analysis.items]
        more = analyse(table_from_cells(items, ["A"] * 8, cells, status))
        self.assertEqual(figures_of(more), figures_of(self.analysis))
        self.assertEqual((more.counts["absent"], more.counts["exempt"], more.counts["void"]), (5, 2, 2))

    def test_relabelled_options_keep_their_figures(self) -> None:
        names = dict(zip("ABCD.", "WXYZ.", strict=True))
        items = [
            ItemColumn(name=f"i{j}", kind="choice", points=1.0, options=tuple("WXYZ"), keys=("W",)) for j in range(8)
        ]
        cells = [["" if c == "." else names[c] for c in row] for row in self.rows]
        renamed = analyse(table_from_cells(items, ["W"] * 8, cells))
        self.assertEqual(figures_of(renamed), figures_of(self.analysis))


def figures_of(analysis: TestAnalysis) -> list[object]:
    """All figures, rounded to where summation order stops mattering."""

    def rounded(value: object) -> object:
        if isinstance(value, float):
            return round(value, 10) + 0.0
        return tuple(rounded(v) for v in value) if isinstance(value, tuple) else value

    out: list[object] = [rounded(analysis.reliability.alpha), rounded(analysis.sem)]
    for item in analysis.items:
        f = item.figures
        out += [f.n, rounded(f.p), rounded(f.r_rest), rounded(f.d27), rounded(f.biserial), [x.flag for x in item.flags]]
        out += [(row.n, rounded(row.r_rest), rounded(row.fifths)) for row in item.options]
    return out


class Edges(unittest.TestCase):
    def test_an_item_without_variance_has_no_correlation_and_says_why(self) -> None:
        figures = analyse(choice_table(["AA", "AB", "AA", "AB", "AA"])).items[0].figures
        self.assertIsNone(figures.r_rest)
        self.assertIn("all students scored the same", figures.why["r_rest"])
        self.assertEqual(figures.p, 1.0)

    def test_three_students_are_too_few_for_a_correlation(self) -> None:
        figures = analyse(choice_table(["AB", "BA", "AA"])).items[0].figures
        self.assertIsNone(figures.r_rest)
        self.assertIn("4 are needed", figures.why["r_rest"])

    def test_nobody_at_all_gives_reasons_and_no_figures(self) -> None:
        analysis = analyse(choice_table(["..", ".."]))
        self.assertEqual(analysis.counts["blank"], 2)
        self.assertIsNone(analysis.distribution.mean)
        self.assertIsNone(analysis.items[0].figures.p)
        self.assertTrue(analysis.items[0].figures.why["p"])
        self.assertIsNone(analysis.reliability.alpha)

    def test_not_reached_leave_p_and_stay_in_p_all(self) -> None:
        analysis = analyse(choice_table(["AAA", "AAA", "A..", "AB."]))
        last = analysis.items[2].figures
        self.assertEqual((last.n, last.n_not_reached, last.n_omitted), (3, 1, 1))
        self.assertAlmostEqual(last.p or 0, 2 / 3)
        self.assertAlmostEqual(last.p_all or 0, 2 / 4)

    def test_a_waiting_sitting_is_in_p_but_has_no_total(self) -> None:
        analysis = analyse(choice_table(["AA", "AB", "BA", "BB", "A?"]))
        self.assertEqual((analysis.items[0].figures.n, analysis.items[0].figures.n_r), (5, 4))
        self.assertEqual(analysis.distribution.n, 4)
        self.assertEqual(analysis.items[1].figures.n, 4)

    def test_different_forms_are_compared_by_share(self) -> None:
        """Two forms that share item 0: the rest is the share of the other points, worked by hand."""
        rows = ["AA-", "AB-", "BA-", "BB-", "A-A", "B-B", "A-A", "B-A"]
        figures = analyse(choice_table(rows)).items[0].figures
        x = [float(r[0] == "A") for r in rows]
        rest = [float((r[1] if r[1] != "-" else r[2]) == "A") for r in rows]
        self.assertAlmostEqual(figures.r_rest or 0, by_hand.correlation(x, rest) or 0)
        alone = analyse(choice_table(rows)).items[1].figures
        self.assertEqual((alone.n, alone.n_not_presented), (4, 4))

    def test_written_answers_beyond_the_most_frequent_are_one_row_other(self) -> None:
        cells = [[str(n % 16), "1"] for n in range(64)]
        items = [ItemColumn(name="n", kind="numeric", points=1.0), ItemColumn(name="m", kind="numeric", points=1.0)]
        found = analyse(table_from_cells(items, ["3", "1"], cells)).items[0]
        names = [row.option for row in found.options]
        self.assertEqual((len(names), names[-2:]), (12, ["other", ""]))
        self.assertEqual(sum(row.n for row in found.options), 64)
        self.assertAlmostEqual(found.figures.p or 0, 4 / 64)

    def test_multiple_response_has_combinations_and_single_options(self) -> None:
        cells = [["A+C", "1"], ["C+A", "1"], ["A", "0"], ["B+C", "0"]]
        items = [
            ItemColumn(name="m", kind="multiple", points=1.0, options=tuple("ABC"), keys=("A", "C")),
            ItemColumn(name="p", kind="points", points=1.0),
        ]
        rows = analyse(table_from_cells(items, ["A+C", ""], cells)).items[0].options
        self.assertEqual(
            [(r.option, r.n) for r in rows if r.kind == "answer"], [("A+C", 2), ("A", 1), ("B+C", 1), ("", 0)]
        )
        self.assertEqual(
            [(r.option, r.n, r.is_key) for r in rows if r.kind == "option"],
            [("A", 3, True), ("B", 1, False), ("C", 3, True)],
        )


class Pieces(unittest.TestCase):
    def test_wilson_is_the_root_of_its_equation(self) -> None:
        for successes, n in ((0, 10), (3, 10), (10, 10), (81, 263)):
            for mine, theirs in zip(wilson(successes, n), by_hand.wilson(successes, n), strict=True):
                self.assertAlmostEqual(mine, theirs, places=12)

    def test_wilson_of_a_printed_example(self) -> None:
        """Newcombe (1998), method 3: 81 of 263 is 0.2553 to 0.3662."""
        low, high = wilson(81, 263)
        self.assertEqual((round(low, 4), round(high, 4)), (0.2553, 0.3662))

    def test_fisher_interval_of_a_perfect_correlation_has_no_width(self) -> None:
        self.assertEqual(fisher_interval(1.0, 20), (1.0, 1.0))
        self.assertIsNone(fisher_interval(0.5, 3))

    @given(
        st.lists(st.tuples(st.integers(1, 20), st.integers(-5, 5)), min_size=1, max_size=12), st.permutations(range(12))
    )
    @settings(max_examples=60)
    def test_slices_hold_equal_numbers_whatever_the_ties(self, levels: list[tuple[int, int]], order: list[int]) -> None:
        weights = np.array([float(w) for w, _ in levels])
        standing = np.array([float(s) for _, s in levels])
        bounds = np.linspace(0, 1, 6)
        held = slices(weights, standing, bounds) @ weights
        np.testing.assert_allclose(held, weights.sum() / 5)
        shuffled = [at for at in order if at < len(levels)]
        again = slices(weights[shuffled], standing[shuffled], bounds)
        np.testing.assert_allclose(again, slices(weights, standing, bounds)[:, shuffled], atol=1e-12)

    def test_mid_ranks_of_ties(self) -> None:
        np.testing.assert_allclose(mid_ranks(np.ones(4), np.array([1.0, 2, 2, 3])), [0.125, 0.5, 0.5, 0.875])
