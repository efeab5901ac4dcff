"""`./bildung growth` as a person runs it."""

from __future__ import annotations

import json
import random
from pathlib import Path
from typing import Any

from scipy import stats

from tests.cli.test_analyse import CommandCase

HEAD = "student,subject,grade,window,week,score,se,class\n"
NORMS = "subject,grade,week,mean,sd\nm,6,4,200,14\nm,6,20,208,16\n"
R = "subject,grade,from_week,to_week,r\nm,6,4,20,0.8\n"


def scores(n: int = 60, seed: int = 1) -> str:
    rng = random.Random(seed)
    lines = []
    for at in range(n):
        start = rng.gauss(200, 14)
        end = 208 + 0.8 * 16 / 14 * (start - 200) + rng.gauss(0, 9.6)
        lines.append(f"s{at},m,6,Autumn,4,{start:.2f},3,c{at % 6}\ns{at},m,6,Winter,20,{end:.2f},4,c{at % 6}\n")
    return "".join(lines)


class Growth(CommandCase):
    def growth(self, data: str, *more: str) -> dict[str, Any]:
        out = str(self.folder / "out.json")
        status, _, error = self.call(
            "growth", self.write("s.csv", data), "--from", "Autumn", "--to", "Winter", "--json", out, *more
        )
        self.assertEqual(status, 0, error)
        found: dict[str, Any] = json.loads(Path(out).read_text())
        return found

    def refused(self, data: str, *more: str, start: str = "Autumn", end: str = "Winter") -> str:
        status, _, error = self.call("growth", self.write("s.csv", data), "--from", start, "--to", end, *more)
        self.assertEqual((status, error.count("\n")), (2, 1), error)
        return error

    def test_with_a_table_every_figure_is_its_closed_form(self) -> None:
        tables = ("--norms", self.write("n.csv", NORMS), "--correlations", self.write("r.csv", R), "--by", "class")
        found = self.growth(HEAD + scores(), *tables)
        self.assertEqual((found["matched"], found["source"]), (60, {"status": "table", "correlation": "table"}))
        for s in found["students"]:
            expected = 208 + 0.8 * 16 / 14 * (s["start"] - 200)
            self.assertAlmostEqual(s["expected"], expected)
            self.assertAlmostEqual(s["residual_gain"], (s["end"] - expected) / 9.6)
            self.assertAlmostEqual(s["like_start_percentile"], 100 * stats.norm.cdf(s["residual_gain"]))
            self.assertAlmostEqual(s["start_pr"], 100 * stats.norm.cdf((s["start"] - 200) / 14))
            self.assertAlmostEqual(s["gain_se"], 5.0)
        self.assertEqual(len(found["groups"]), 6)
        self.assertIsNotNone(found["groups"][0]["mean_residual_gain_shrunken"])
        mine = [s for at, s in enumerate(found["students"]) if at % 6 == 0]
        self.assertAlmostEqual(found["groups"][0]["effect_size"], sum(s["gain"] for s in mine) / len(mine) / 14)
        self.assertIn("need 200", mine[0]["why"]["sgp"])

    def test_without_tables_it_is_local_and_says_so(self) -> None:
        found = self.growth(HEAD + scores())
        self.assertEqual(found["source"], {"status": "local", "correlation": "local"})
        line = stats.linregress([s["start"] for s in found["students"]], [s["end"] for s in found["students"]])
        self.assertAlmostEqual(
            found["students"][0]["expected"], line.intercept + line.slope * found["students"][0]["start"]
        )

    def test_a_grade_without_a_correlation_falls_back_to_the_local_line_and_says_so(self) -> None:
        found = self.growth(
            HEAD + scores(),
            "--norms",
            self.write("n.csv", NORMS),
            "--correlations",
            self.write("r.csv", R.replace(",6,", ",7,")),
        )
        self.assertEqual(found["source"], {"status": "table", "correlation": "local"})
        self.assertIn("no correlation in the table; expected gains are local", found["notes"][0])

    def test_who_has_one_score_is_listed_with_the_reason(self) -> None:
        found = self.growth(HEAD + scores(35) + "only,m,6,Autumn,4,190,,c1\n")
        self.assertEqual(found["unmatched"], [{"student": "only", "subject": "m", "why": "no score in Winter"}])

    def test_several_subjects_are_separate_and_every_row_names_its_own(self) -> None:
        found = self.growth(HEAD + scores(40) + scores(40, 2).replace(",m,", ",r,"))
        self.assertEqual({s["subject"] for s in found["students"]}, {"m", "r"})
        self.assertEqual(found["matched"], 80)

    def test_growth_percentiles_from_200(self) -> None:
        found = self.growth(HEAD + scores(220))
        values = [s["sgp"] for s in found["students"]]
        self.assertTrue(all(1 <= v <= 99 for v in values))
        self.assertIn("rough", found["notes"][0])

    def test_what_cannot_be_done_is_one_line(self) -> None:
        good = HEAD + scores(3)
        norms = self.write("n.csv", NORMS)
        for error, said in (
            (self.refused(good, end="Spring"), "no window Spring; there are Autumn, Winter"),
            (self.refused(good, end="Autumn"), "Autumn twice; two different windows"),
            (self.refused(good + "s0,m,6,Autumn,4,1,,c\n"), "line 8, column student: s0 again (first in line 2)"),
            (self.refused(good + "x,m,6,Autumn,4,high,,c\n"), "line 8, column score: 'high'; a plain number"),
            (self.refused(good + "x,m,6,Autumn,99,1,,c\n"), "column week: '99'; a plain number within 0..60"),
            (
                self.refused(good, "--by", "team"),
                "no column team; columns to group by are subject, grade, window, class",
            ),
            (self.refused(HEAD), "no rows"),
            (
                self.refused(good.replace(",4,", ",2,"), "--norms", norms),
                "has no week 2; the nearest allowed is week 4",
            ),
            (
                self.refused(good.replace(",m,6,", ",m,8,"), "--norms", norms),
                "grade 8, is missing; there are m grade 6",
            ),
            (self.refused(good, "--correlations", self.write("r.csv", R)), "--norms beside --correlations"),
            (
                self.refused(good, "--norms", self.write("x.csv", "subject,grade,week\nm,6,4\n")),
                "neither kind of norm table",
            ),
            (self.refused(good, "--norms", self.write("y.csv", NORMS + "m,6,4,1,1\n")), "4 again; each week once"),
        ):
            self.assertIn(said, error)
