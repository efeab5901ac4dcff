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
        lines.append(f"s{at},m,6,Fall,4,{start:.2f},3,c{at % 6}\ns{at},m,6,Winter,20,{end:.2f},4,c{at % 6}\n")
    return "".join(lines)


class Growth(CommandCase):
    def growth(self, data: str, *more: str) -> dict[str, Any]:
        out = str(self.folder / "out.json")
        status, _, error = self.call(
            "growth", self.write("s.csv", data), "--from", "Fall", "--to", "Winter", "--json", out, *more
        )
        self.assertEqual(status, 0, error)
        found: dict[str, Any] = json.loads(Path(out).read_text())
        return found

    def refused(self, data: str, *more: str, start: str = "Fall", end: str = "Winter") -> str:
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

    def test_claims_chance_and_groups_by_the_table(self) -> None:
        tables = ("--norms", self.write("n.csv", NORMS), "--correlations", self.write("r.csv", R), "--by", "class")
        only = "x1,m,6,Fall,4,201,3,c0\nx2,m,6,Winter,20,209,4,c0\n"
        found = self.growth(HEAD + scores() + only, *tables)
        se = (16 + (0.8 * 16 / 14) ** 2 * 9) ** 0.5 / 9.6
        for s in found["students"]:
            self.assertAlmostEqual(s["residual_gain_se"], se)
            sure = stats.norm.cdf(((1 - se**2) / se**2) ** 0.5 * s["residual_gain"])
            self.assertEqual(s["claim"], "more" if sure >= 0.9 else "less" if sure <= 0.1 else "cannot be told")
            self.assertEqual(s["reliable"], "rise" if s["gain"] > 8.225 else "fall" if s["gain"] < -8.225 else None)
        rises = sum(s["reliable"] == "rise" for s in found["students"])
        falls = sum(s["reliable"] == "fall" for s in found["students"])
        self.assertEqual(
            found["chance"],
            {"rises": rises, "falls": falls, "expected": 3.0, "upper95": int(stats.binom.ppf(0.95, 60, 0.05))},
        )
        group = found["groups"][0]
        mine = [s for at, s in enumerate(found["students"]) if at % 6 == 0]
        plain = sum(s["residual_gain"] for s in mine) / 10
        r = 1 - 9 / 14**2
        allowance = (0.8 * 16 / 14) * (1 / r - 1) * (sum(s["start"] for s in mine) / 10 - 200) / 9.6
        self.assertEqual((group["group"], group["expectation"], group["missing"]), ("c0", "table", 2))
        self.assertAlmostEqual(group["mean_residual_gain"], plain)
        self.assertAlmostEqual(group["mean_residual_gain_adjusted"], plain - allowance)
        self.assertAlmostEqual(group["tipping_point"], -10 * (plain - allowance) / 2)
        self.assertEqual(found["groups"][1]["why"]["tipping_point"], "no one has a score in one window only")

    def test_without_errors_nothing_is_claimed_and_every_null_has_its_reason(self) -> None:
        bare = HEAD.replace(",se", "") + "".join(
            ",".join(cell for at, cell in enumerate(line.split(",")) if at != 6) + "\n"
            for line in scores().splitlines()
        )
        found = self.growth(bare, "--by", "class")
        for part in (found["chance"], *found["students"], *found["groups"]):
            for name, value in part.items():
                if value is None:
                    self.assertTrue(part["why"][name], name)
        self.assertEqual({s["claim"] for s in found["students"]}, {None})
        self.assertEqual({g["expectation"] for g in found["groups"]}, {"others"})

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
        found = self.growth(HEAD + scores(35) + "only,m,6,Fall,4,190,,c1\n")
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

    PUBLISHED = "subject,grade,from_week,to_week,r\nm,6,4,20,0.8\nm,6,4,34,0.7\nm,6,20,34,0.85\nm,7,4,20,0.8\n"

    def tables(self, correlations: str, norms: str = NORMS) -> tuple[str, ...]:
        return ("--norms", self.write("n.csv", norms), "--correlations", self.write("r.csv", correlations))

    def test_a_correlation_table_as_it_is_usually_published_is_enough(self) -> None:
        found = self.growth(HEAD + scores(), *self.tables(self.PUBLISHED))
        self.assertEqual(found["source"], {"status": "table", "correlation": "table"})
        self.assertAlmostEqual(
            found["students"][0]["expected"], 208 + 0.8 * 16 / 14 * (found["students"][0]["start"] - 200)
        )

    def test_weeks_between_unlisted_pairs_leave_out_their_grade_alone_with_the_nearest_weeks(self) -> None:
        norms = NORMS + "m,6,34,214,17\nm,7,4,210,14\nm,7,20,216,15\n"
        odd = scores(5).replace(",Fall,4,", ",Fall,10,").replace(",Winter,20,", ",Winter,25,")
        other = scores(5, 2).replace("s", "t").replace(",m,6,", ",m,7,")
        found = self.growth(HEAD + odd + other, *self.tables(self.PUBLISHED, norms))
        by_grade = {s["student"][0]: s for s in found["students"]}
        self.assertIsNone(by_grade["s"]["expected"])
        self.assertIn(
            "no pair from week 20 to week 20, which weeks 10 and 25 lie between; the nearest listed pair is from week 4 to week 20",
            by_grade["s"]["why"]["expected"],
        )
        self.assertEqual(
            set(by_grade["s"]["why"]) & {"residual_gain", "like_start_percentile"},
            {"residual_gain", "like_start_percentile"},
        )
        self.assertIsNotNone(by_grade["t"]["expected"])

    def test_a_pair_that_runs_backwards_is_refused_with_its_place(self) -> None:
        error = self.refused(HEAD + scores(3), *self.tables("subject,grade,from_week,to_week,r\nm,6,20,20,1\n"))
        self.assertIn("r.csv, line 2, column to_week: week 20 from week 20; a later week than from_week", error)

    def test_every_null_of_a_student_or_group_has_its_reason(self) -> None:
        found = self.growth(HEAD + scores(8) + "a,m,8,Fall,4,190,,z\na,m,8,Winter,20,191,,z\n", "--by", "class")
        for row in (*found["students"], *found["groups"]):
            missing = {name for name, value in row.items() if value is None}
            self.assertLessEqual(missing, set(row["why"]), row)
        self.assertTrue(any(row["why"] for row in found["groups"]))

    def test_a_standard_error_of_zero_is_a_number(self) -> None:
        data = (
            HEAD
            + "a,m,6,Fall,4,190,0,c\na,m,6,Winter,20,195,3,c\nb,m,6,Fall,4,190,0,c\nb,m,6,Winter,20,195,0,c\nc,m,6,Fall,4,190,,c\nc,m,6,Winter,20,195,3,c\n"
        )
        first, second, third = self.growth(data)["students"]
        self.assertEqual((first["gain_se"], second["gain_se"], third["gain_se"]), (3.0, 0.0, None))
        self.assertEqual(third["why"]["gain_se"], "the score in Fall has no standard error")

    def test_what_cannot_be_done_is_one_line(self) -> None:
        good = HEAD + scores(3)
        norms = self.write("n.csv", NORMS)
        for error, said in (
            (self.refused(good, end="Spring"), "no window Spring; there are Fall, Winter"),
            (self.refused(good, end="Fall"), "Fall twice; two different windows"),
            (self.refused(good + "s0,m,6,Fall,4,1,,c\n"), "line 8, column student: s0 again (first in line 2)"),
            (self.refused(good + "x,m,6,Fall,4,high,,c\n"), "line 8, column score: 'high'; a plain number"),
            (self.refused(good + "x,m,6,Fall,99,1,,c\n"), "column week: '99'; a plain number within 0..60"),
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
