"""Matched comparison and differential functioning: worked examples, an independent library, invariances."""

from __future__ import annotations

import math
import random
import unittest

import numpy as np
from statsmodels.stats.contingency_tables import StratifiedTable
from statsmodels.stats.multitest import multipletests

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.comparison.compare import compare, newcombe
from bildung.core.comparison.differential import differential, size_class
from bildung.core.comparison.matched import Matched, adjust, mantel, mantel_haenszel
from bildung.core.data.responses import ItemColumn, table_from_cells
from bildung.core.errors import Refused

# right and all by stratum, reference then focal group
RIGHT_R, ALL_R = np.array([12.0, 30, 61, 40]), np.array([40.0, 55, 80, 45])
RIGHT_F, ALL_F = np.array([9.0, 22, 30, 11]), np.array([50.0, 60, 50, 13])


def tables() -> list[np.ndarray]:  # type: ignore[type-arg]
    return [np.array([[a, n - a], [c, m - c]]) for a, n, c, m in zip(RIGHT_R, ALL_R, RIGHT_F, ALL_F, strict=True)]


class TwoGroups(unittest.TestCase):
    def test_odds_ratio_chi_square_and_error_are_those_of_an_independent_library(self) -> None:
        mine, theirs = mantel_haenszel(RIGHT_R, ALL_R, RIGHT_F, ALL_F), StratifiedTable(tables())
        self.assertAlmostEqual(mine.odds_ratio or 0, float(theirs.oddsratio_pooled))
        test = theirs.test_null_odds(correction=True)
        self.assertAlmostEqual(mine.chi2 or 0, float(test.statistic))
        self.assertAlmostEqual(mine.p_value or 0, float(test.pvalue))
        self.assertAlmostEqual(mine.d_dif_se or 0, 2.35 * float(theirs.logodds_pooled_se))
        self.assertAlmostEqual(mine.d_dif or 0, -2.35 * math.log(theirs.oddsratio_pooled))

    def test_the_printed_admissions_example(self) -> None:
        """Graduate admissions at six departments (Bickel, Hammel & O'Connell 1975; Agresti, table 2.10 of the 2nd
        edition): the common odds ratio of men over women is 0.905 and the test does not reject."""
        men = [(512, 825), (353, 560), (120, 325), (138, 417), (53, 191), (22, 373)]
        women = [(89, 108), (17, 25), (202, 593), (131, 375), (94, 393), (24, 341)]
        columns = [np.array(column, float) for column in (*zip(*men, strict=True), *zip(*women, strict=True))]
        found = mantel_haenszel(*columns)
        self.assertEqual(round(found.odds_ratio or 0, 3), 0.905)
        self.assertGreater(found.p_value or 0, 0.2)

    def test_swapping_the_groups_turns_the_sign_and_nothing_else(self) -> None:
        one, other = mantel_haenszel(RIGHT_R, ALL_R, RIGHT_F, ALL_F), mantel_haenszel(RIGHT_F, ALL_F, RIGHT_R, ALL_R)
        self.assertAlmostEqual((one.d_dif or 0) + (other.d_dif or 0), 0)
        self.assertAlmostEqual(one.chi2 or 0, other.chi2 or 0)
        self.assertAlmostEqual(one.d_dif_se or 0, other.d_dif_se or 0)

    def test_strata_without_both_groups_or_outcomes_are_dropped_and_counted(self) -> None:
        extra = [
            np.append(a, b)
            for a, b in zip((RIGHT_R, ALL_R, RIGHT_F, ALL_F), ([5, 7], [9, 7], [0, 3], [0, 3]), strict=True)
        ]
        found, plain = mantel_haenszel(*extra), mantel_haenszel(RIGHT_R, ALL_R, RIGHT_F, ALL_F)
        self.assertEqual((found.strata_used, found.strata_dropped), (4, 2))
        self.assertEqual(found.odds_ratio, plain.odds_ratio)

    def test_standardized_difference_by_hand(self) -> None:
        by_hand = (
            sum(m * (c / m - a / n) for a, n, c, m in zip(RIGHT_R, ALL_R, RIGHT_F, ALL_F, strict=True)) / ALL_F.sum()
        )
        self.assertAlmostEqual(mantel_haenszel(RIGHT_R, ALL_R, RIGHT_F, ALL_F).std_p_difference or 0, by_hand)

    def test_an_infinite_odds_ratio_is_undefined_and_says_why(self) -> None:
        found = mantel_haenszel(np.array([5.0]), np.array([5.0]), np.array([2.0]), np.array([5.0]))
        self.assertIsNone(found.odds_ratio)
        self.assertIn("infinite", found.why or "")
        nobody = mantel_haenszel(np.array([5.0, 0]), np.array([5.0, 0]), np.array([0.0, 2]), np.array([0.0, 5]))
        self.assertIn("no score was reached by both groups", nobody.why or "")

    def test_partial_credit_of_two_points_is_the_0_1_case_without_correction(self) -> None:
        reference = np.array([ALL_R - RIGHT_R, RIGHT_R]).astype(int)
        focal = np.array([ALL_F - RIGHT_F, RIGHT_F]).astype(int)
        found = mantel(reference, focal, np.array([0.0, 1.0]))
        theirs = StratifiedTable(tables()).test_null_odds(correction=False)
        self.assertAlmostEqual(found.chi2 or 0, float(theirs.statistic))
        self.assertIsNone(found.d_dif)

    def test_adjusted_p_values_are_those_of_an_independent_library(self) -> None:
        p = [random.Random(n).random() ** 3 for n in range(40)]
        np.testing.assert_allclose(adjust(p), multipletests(p, method="fdr_bh")[1])

    def test_newcombe_of_a_printed_example(self) -> None:
        """Newcombe (1998), method 10: 56/70 against 48/80 is 0.0524 to 0.3339."""
        low, high = newcombe(56, 70, 48, 80)
        self.assertEqual((round(low, 4), round(high, 4)), (0.0524, 0.3339))

    def test_size_classes(self) -> None:
        def of(d: float, se: float, p: float) -> str | None:
            return size_class(
                Matched(
                    odds_ratio=1.0,
                    chi2=1.0,
                    p_value=p,
                    d_dif=d,
                    d_dif_se=se,
                    std_p_difference=0.0,
                    smd=0.0,
                    strata_used=1,
                    strata_dropped=0,
                )
            )

        self.assertEqual(
            [of(2, 0.3, 0.2), of(0.9, 0.1, 0.001), of(-1.6, 0.3, 0.001), of(1.6, 0.5, 0.01), of(1.2, 0.1, 0.001)],
            ["A", "A", "C", "B", "B"],
        )


def grouped(
    n: int, groups: int, seed: int, worse: dict[int, float] | None = None, items: int = 20
) -> tuple[TestAnalysis, list[str]]:
    """n students a group; in group "g1" items are harder by worse[item] on the log-odds scale."""
    rng = np.random.default_rng(seed)
    ability = rng.standard_normal(n * groups)
    labels = [f"g{at // n}" for at in range(n * groups)]
    shift = np.zeros((n * groups, items))
    for item, more in (worse or {}).items():
        shift[[label == "g1" for label in labels], item] = more
    odds = 1.5 * (ability[:, None] - np.linspace(-1.5, 1.2, items)) - shift
    right = rng.random(odds.shape) < 1 / (1 + np.exp(-odds))
    table = table_from_cells(
        [ItemColumn(name=f"i{j}", kind="points") for j in range(items)],
        [""] * items,
        right.astype(int).astype(str).tolist(),
    )
    return analyse(table), labels


class ManyGroups(unittest.TestCase):
    def test_an_item_taught_differently_in_one_class_is_called_there(self) -> None:
        analysis, labels = grouped(60, 5, 3, {7: 2.5})
        found = compare(analysis, labels, np.ones(300, bool))
        self.assertIn(("i7", "g1", "low_in_one"), [(f.item, f.group, f.finding) for f in found.findings])
        self.assertEqual([g.n for g in found.groups], [60] * 5)

    def test_low_everywhere_is_one_row_without_a_group(self) -> None:
        analysis, labels = grouped(80, 3, 4, None)
        found = compare(analysis, labels, np.ones(240, bool))
        rows = [f for f in found.findings if f.finding == "low_everywhere"]
        self.assertTrue(rows and all(f.group is None and f.difference is None for f in rows))
        self.assertTrue(all(a.items[19].p is not None and a.items[19].p < 0.5 for a in found.groups))
        self.assertFalse({f.item for f in rows} & {f.item for f in found.findings if f.finding == "large_but_unproven"})

    def test_what_is_called_out_in_one_group_is_said_beside_low_everywhere(self) -> None:
        analysis, labels = grouped(150, 4, 6, {15: 2.5})
        found = compare(analysis, labels, np.ones(600, bool))
        here = {(f.group, f.finding) for f in found.findings if f.item == "i15"}
        self.assertIn((None, "low_everywhere"), here)
        self.assertIn(("g1", "low_in_one"), here)

    def test_group_shares_are_plain_shares(self) -> None:
        analysis, labels = grouped(30, 2, 5)
        found = compare(analysis, labels, np.ones(60, bool))
        points = analysis.table.answers[3].code_points[analysis.table.answers[3].codes]
        self.assertAlmostEqual(found.groups[1].items[3].p or 0, float(points[30:].mean()))

    def test_one_group_is_refused(self) -> None:
        analysis, _ = grouped(30, 1, 5)
        with self.assertRaisesRegex(Refused, "at least two"):
            compare(analysis, ["g0"] * 30, np.ones(30, bool))

    def test_the_name_of_a_group_does_not_matter(self) -> None:
        analysis, labels = grouped(60, 4, 6, {3: 2.0})
        renamed = [{"g0": "z", "g1": "y", "g2": "x", "g3": "w"}[label] for label in labels]
        one = {
            (f.item, f.finding, round(f.p_value or 0, 12))
            for f in compare(analysis, labels, np.ones(240, bool)).findings
        }
        other = {
            (f.item, f.finding, round(f.p_value or 0, 12))
            for f in compare(analysis, renamed, np.ones(240, bool)).findings
        }
        self.assertEqual(one, other)


class Differential(unittest.TestCase):
    def test_a_planted_item_is_of_class_c_and_purifying_cleans_the_others(self) -> None:
        analysis, labels = grouped(500, 2, 8, {4: 1.6, 11: 1.6})
        found = differential(analysis, labels, np.ones(1000, bool))
        sizes = {item.item: item.size for item in found.items}
        self.assertEqual((sizes["i4"], sizes["i11"]), ("C", "C"))
        self.assertFalse([name for name, size in sizes.items() if size == "C" and name not in ("i4", "i11")])
        self.assertLess(found.items[4].matched.d_dif or 0, 0)
        self.assertEqual((found.reference, found.focal, found.n_focal), ("g0", "g1", 500))

    def test_the_reference_can_be_named(self) -> None:
        analysis, labels = grouped(250, 2, 8, {4: 1.6})
        one, other = (differential(analysis, labels, np.ones(500, bool), r) for r in (None, "g1"))
        self.assertAlmostEqual((one.items[4].matched.d_dif or 0) + (other.items[4].matched.d_dif or 0), 0, places=9)

    def test_between_50_and_199_there_is_no_class_and_under_50_it_is_refused(self) -> None:
        analysis, labels = grouped(60, 2, 9)
        self.assertEqual({item.size for item in differential(analysis, labels, np.ones(120, bool)).items}, {None})
        analysis, labels = grouped(40, 2, 9)
        with self.assertRaisesRegex(Refused, "40 students in g0; at least 50"):
            differential(analysis, labels, np.ones(80, bool))
        with self.assertRaisesRegex(Refused, "exactly two"):
            differential(analysis, ["a"] * 80, np.ones(80, bool))
