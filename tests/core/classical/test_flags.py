"""Flags, curves, the finding and the workings on simulated tests with known truth."""

from __future__ import annotations

import unittest

import numpy as np

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.classical.curves import option_curves
from bildung.core.classical.finding import test_finding as finding_of
from bildung.core.classical.settings import Settings
from bildung.core.data.responses import ItemColumn, Status, table_from_cells
from bildung.core.data.simulate import ItemParameters, simulate_choices
from bildung.core.errors import Refused
from bildung.core.explain.figures import FIGURES
from bildung.core.explain.workings import ITEM_FIGURES, TEST_FIGURES, explain


def simulated(n: int, seed: int = 1, wrong_key: int | None = None, settings: Settings | None = None) -> TestAnalysis:
    """Twenty sound items, A right in all; `wrong_key` is keyed to B instead. One student absent, one blank."""
    rng = np.random.default_rng(seed)
    parameters = [
        ItemParameters(discrimination=1.4, difficulty=b, guessing=0.1, right=0, pull=(0, 1, 1, 1))
        for b in np.linspace(-1.2, 1.0, 20)
    ]
    chosen = simulate_choices(rng.standard_normal(n), parameters, rng, 0.01)
    keys = ["B" if j == wrong_key else "A" for j in range(20)]
    items = [
        ItemColumn(name=f"i{j + 1}", kind="choice", points=1.0, options=tuple("ABCD"), keys=(keys[j],))
        for j in range(20)
    ]
    cells: list[list[str]] = [["" if c[i] < 0 else "ABCD"[c[i]] for c in chosen] for i in range(n)]
    cells += [["A"] * 20, [""] * 20]
    status = [Status.SAT] * n + [Status.ABSENT, Status.SAT]
    return analyse(table_from_cells(items, keys, cells, status), settings or Settings())


class Flags(unittest.TestCase):
    def names(self, analysis: TestAnalysis, at: int) -> set[str]:
        return {flag.flag for flag in analysis.items[at].flags}

    def test_a_wrong_key_is_a_problem_and_the_first_thing_said(self) -> None:
        analysis = simulated(200, wrong_key=7)
        self.assertIn("possible_wrong_key", self.names(analysis, 7))
        flag = analysis.items[7].flags[0]
        self.assertEqual((flag.weight, flag.option), ("problem", "A"))
        self.assertIs(analysis.items[7].sound, False)
        said = "".join(piece.text for piece in finding_of(analysis))
        self.assertTrue(
            said.startswith("Item 8 probably carries a wrong key: A, not B, goes with doing well elsewhere.")
        )
        self.assertTrue(said.endswith("200 took the 20 items, 1 absent, 1 without any answer."))

    def test_a_sound_test_has_no_problem(self) -> None:
        analysis = simulated(400)
        self.assertFalse([f for item in analysis.items for f in item.flags if f.weight == "problem"])

    def test_below_25_students_nothing_is_called_sound(self) -> None:
        analysis = simulated(20)
        self.assertFalse(any(item.sound is True for item in analysis.items))
        self.assertIn("cannot be examined", "".join(p.text for p in finding_of(analysis)))

    def test_a_small_sample_is_named(self) -> None:
        why = [flag.why for item in simulated(30).items for flag in item.flags]
        self.assertTrue(why and all("The sample is small." in text for text in why))

    def test_the_watch_line_is_a_setting(self) -> None:
        strict = simulated(200, settings=Settings(watch_line=0.99))
        self.assertIn("below_the_watch_line", self.names(strict, 0))
        self.assertNotIn("below_the_watch_line", self.names(simulated(200), 0))

    def test_a_distractor_that_nobody_takes_is_idle(self) -> None:
        rows = [["A", "A"]] * 60 + [["B", "A"]] * 40 + [["A", "B"]] * 30
        items = [
            ItemColumn(name=f"i{j}", kind="choice", points=1.0, options=tuple("ABC"), keys=("A",)) for j in range(2)
        ]
        found = analyse(table_from_cells(items, ["A", "A"], rows))
        idle = [flag.option for flag in found.items[0].flags if flag.flag == "idle_distractor"]
        self.assertEqual(idle, ["C"])

    def test_a_second_right_answer_needs_both_to_go_with_the_score(self) -> None:
        rng = np.random.default_rng(2)
        ability = rng.standard_normal(600)
        rest = (ability[:, None] + rng.logistic(0, 0.5, (600, 12)) > np.linspace(-1, 1, 12)).astype(int)
        able = rng.random(600) < 1 / (1 + np.exp(-2 * ability))
        both = np.where(able, np.where(rng.random(600) < 0.5, "A", "B"), rng.choice(["C", "D"], 600))
        items = [ItemColumn(name="x", kind="choice", points=1.0, options=tuple("ABCD"), keys=("A",))] + [
            ItemColumn(name=f"r{j}", kind="points") for j in range(12)
        ]
        cells = [[str(both[i]), *map(str, rest[i])] for i in range(600)]
        found = analyse(table_from_cells(items, ["A", *[""] * 12], cells)).items[0]
        self.assertIn(("possible_second_right_answer", "B"), [(f.flag, f.option) for f in found.flags])
        self.assertNotIn("attracts_the_strong", [f.flag for f in found.flags])


class Curves(unittest.TestCase):
    def test_the_key_rises_the_others_fall_and_all_add_to_one(self) -> None:
        item = simulated(800).items[9]
        curves = option_curves(item.joint)
        assert curves is not None
        shares = dict(curves.curves)
        self.assertGreater(shares["A"][-1], shares["A"][0] + 0.4)
        self.assertLess(shares["B"][-1], shares["B"][0])
        np.testing.assert_allclose(np.sum([s for _, s in curves.curves], axis=0), 1, atol=0.02)
        self.assertEqual(len(curves.x), len(curves.behind))
        self.assertAlmostEqual(curves.bandwidth, 1.1 * item.figures.n_r ** (-0.2))

    def test_curves_stay_within_the_data_and_within_0_and_1(self) -> None:
        item = simulated(800).items[0]
        curves = option_curves(item.joint)
        assert curves is not None
        self.assertGreaterEqual(min(curves.x), -2)
        self.assertLessEqual(max(curves.x), 2)
        self.assertTrue(all(0 <= s <= 1 for _, share in curves.curves for s in share))

    def test_too_few_or_equal_students_have_no_curve(self) -> None:
        self.assertIsNone(option_curves(simulated(8).items[0].joint))
        items = [ItemColumn(name=f"i{j}", kind="choice", points=1.0, options=("A", "B"), keys=("A",)) for j in range(2)]
        equal = analyse(table_from_cells(items, ["A", "A"], [["A", "A"]] * 20))
        self.assertIsNone(option_curves(equal.items[0].joint))


class Calculated(unittest.TestCase):
    def test_every_figure_can_be_explained_with_its_text(self) -> None:
        analysis = simulated(100)
        for name in TEST_FIGURES:
            self.assertEqual(explain(analysis, name).figure, FIGURES[name])
        for name in ITEM_FIGURES:
            found = explain(analysis, name, "i5")
            self.assertEqual(found.figure, FIGURES[name])
            self.assertIn(("absent", 1), found.left_out)

    def test_the_numbers_in_the_formula_give_the_figure(self) -> None:
        analysis = simulated(150)
        numbers = dict(explain(analysis, "alpha").numbers)
        k, t, v = (
            float(numbers[n]) for n in ("items, k", "sum of the items' variances, T", "variance of the total, V")
        )
        self.assertAlmostEqual(k / (k - 1) * (1 - t / v), analysis.reliability.alpha or 0, places=2)

    def test_an_undefined_figure_says_why(self) -> None:
        found = explain(simulated(2), "r_rest", "i1")
        self.assertEqual(found.result, "–")
        self.assertIn("4 are needed", found.why_none or "")

    def test_an_unknown_figure_or_item_is_refused(self) -> None:
        for figure, item in (("beauty", None), ("beauty", "i1"), ("p", "i99")):
            with self.assertRaises(Refused):
                explain(simulated(30), figure, item)
