"""The table of docs/methods.md is what the simulation gives, and the page is what the texts give."""

from __future__ import annotations

import unittest

from bildung.core.explain.figures import FIGURES
from tests.core.precision.trust import run
from tests.methods_page import DOCS, page


def printed(row: str, column: int) -> float:
    line = next(line for line in (DOCS / "trust.md").read_text("utf-8").splitlines() if line.startswith(f"| {row}"))
    return float(line.split("|")[2 + column].strip().removesuffix("%").strip())


class Trust(unittest.TestCase):
    def test_a_fresh_run_agrees_with_the_printed_table(self) -> None:
        """Other seeds, fewer forms: within four standard errors of what is printed."""
        for column, (n, forms) in enumerate(((25, 80), (60, 60), (250, 25))):
            found = run(n, forms, seed=99)
            for flag, row in (
                ("possible_wrong_key", "a wrong key"),
                ("weak_discrimination", "an item that measures"),
                ("large_but_unproven", "the same, at least"),
            ):
                share = printed(row, column) / 100
                error = max((share * (1 - share) / forms) ** 0.5, 0.03)
                self.assertAlmostEqual(found.hits[flag] / forms, share, delta=4 * error, msg=f"{flag} at n = {n}")
            unsound = printed("not sound", column)
            self.assertAlmostEqual(found.unsound / forms, unsound, delta=4 * (unsound / forms) ** 0.5 + 0.3)

    def test_with_250_students_a_planted_wrong_key_is_found_and_a_sound_one_is_not(self) -> None:
        found = run(250, 20, seed=5)
        self.assertEqual(found.hits["possible_wrong_key"], 20)
        self.assertEqual(found.false["possible_wrong_key"], 0)
        self.assertLessEqual(found.findings, 6)

    def test_the_page_is_current(self) -> None:
        """Otherwise: python -m tests.methods_page."""
        self.assertEqual((DOCS / "methods.md").read_text("utf-8"), page((DOCS / "trust.md").read_text("utf-8")))

    def test_every_figure_says_what_it_is_and_how_it_is_made(self) -> None:
        for figure in FIGURES.values():
            self.assertTrue(figure.plain.endswith(".") and figure.formula, figure.name)
            self.assertLessEqual(figure.plain.count(". ") + 1, 2, f"{figure.name}: two sentences at most")
