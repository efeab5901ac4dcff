"""Figures read the same in sentences, in workings and on the pages, ties included."""

from __future__ import annotations

import json
import shutil
import subprocess
import unittest
from pathlib import Path

from bildung.core.items.shown import coefficient, decimal, percent, signed

PAGES = Path(__file__).parents[3] / "ui" / "src" / "lib" / "words" / "show.ts"
VALUES = [
    0.0,
    0.125,
    0.375,
    0.005,
    0.115,
    0.285,
    0.995,
    1.0,
    -0.125,
    -0.004,
    0.5,
    22.25,
    21.35,
    6.75,
    -2.5,
    1.005,
    0.845,
    2.675,
]


class Shown(unittest.TestCase):
    def test_ties_go_away_from_zero(self) -> None:
        self.assertEqual([percent(v) for v in (0.125, 0.005, 0.004, 1.0, None)], ["13%", "1%", "0%", "100%", "–"])
        self.assertEqual([decimal(v, 1) for v in (22.25, -2.25, 0.04, None)], ["22.3", "−2.3", "0.0", "–"])
        self.assertEqual([coefficient(v) for v in (0.125, -0.125, -0.004, 1.0)], [".13", "−.13", ".00", "1.00"])
        self.assertEqual([signed(v) for v in (0.3, -0.3, 0.001, -0.001)], ["+0.30", "−0.30", "0.00", "0.00"])

    @unittest.skipUnless(shutil.which("node"), "needs Node.js")
    def test_the_pages_write_every_value_the_same(self) -> None:
        """The functions of the pages themselves, with their types taken off, against ours."""
        source = PAGES.read_text("utf-8")
        body = source[source.index("export function percent") : source.index("/** Tint")]
        for typed in (
            "value: number | null",
            "difference: number | null",
            "name: string, start: string",
            ", places = 2",
            ", places = 1",
            "): string",
        ):
            body = body.replace(
                typed,
                {
                    "value: number | null": "value",
                    "difference: number | null": "difference",
                    "name: string, start: string": "name, start",
                    "): string": ")",
                }.get(typed, typed),
            )
        script = body.replace("export ", "") + (
            f"console.log(JSON.stringify({json.dumps(VALUES)}.map(v => [percent(v), short(v), decimal(v, 1), decimal(v, 2)])))"
        )
        done = subprocess.run(["node", "-e", script], capture_output=True, text=True, check=True)
        theirs = json.loads(done.stdout)
        for value, (p, s, d1, d2) in zip(VALUES, theirs, strict=True):
            self.assertEqual(
                (percent(value), coefficient(value), decimal(value, 1), decimal(value, 2)), (p, s, d1, d2), value
            )
