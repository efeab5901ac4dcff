"""`./bildung analyse` as a person runs it: what is fine, what is refused, what it writes."""

from __future__ import annotations

import contextlib
import io
import json
import random
import shutil
import tempfile
import unittest
from pathlib import Path
from typing import Any

import openpyxl

from bildung.cli import main
from tests.core import by_hand

KEY = "item,type,key,points,options,standards,part\nq1,choice,A,1,ABC,S.1;S.2,p\nq2,numeric,14.6~0.1,1,,S.1,p\nq3,points,,4,,,p\nq4,multiple,A+C,1,ABC,,p\nq5,text,high tide|flood,1,,,p\n"
HEAD = "student,status,class,q1,q2,q3,q4,q5\n"


class CommandCase(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="bildung-cli-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)

    def write(self, name: str, data: str | bytes) -> str:
        path = self.folder / name
        path.write_bytes(data.encode() if isinstance(data, str) else data)
        return str(path)

    def call(self, *words: str) -> tuple[int, str, str]:
        out, error = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(error):
            try:
                status = main(list(words))
            except SystemExit as exit_:
                status = int(exit_.code or 0)
        return status, out.getvalue(), error.getvalue()


class AnalyseCase(CommandCase):
    def analyse(self, responses: str | bytes, key: str = KEY, *more: str) -> dict[str, Any]:
        out = str(self.folder / "out.json")
        status, _, error = self.call(
            "analyse", self.write("r.csv", responses), "--key", self.write("k.csv", key), "--json", out, *more
        )
        self.assertEqual(status, 0, error)
        found: dict[str, Any] = json.loads(Path(out).read_text())
        return found

    def refused(self, responses: str | bytes, key: str = KEY, *more: str) -> str:
        """One line on standard error, status 2, nothing written."""
        out = self.folder / "out.json"
        status, printed, error = self.call(
            "analyse", self.write("r.csv", responses), "--key", self.write("k.csv", key), "--json", str(out), *more
        )
        self.assertEqual((status, printed), (2, ""), error)
        self.assertEqual(error.count("\n"), 1, error)
        self.assertEqual(sorted(p.name for p in self.folder.iterdir()), ["k.csv", "r.csv"])
        return error


def rows(n: int = 40, seed: int = 4) -> str:
    rng = random.Random(seed)
    return "".join(
        f"s{at},,c{at % 2},{rng.choice('AABC')},{rng.choice(['14.6', '14.65', '29/2', '15', 'much'])},{rng.choice(['0', '1', '2.5', '4'])},"
        f"{rng.choice(['A+C', 'C+A', 'A', 'B+C'])},{rng.choice(['High Tide', 'flood ', 'ebb'])}\n"
        for at in range(n)
    )


class Figures(AnalyseCase):
    def test_every_answer_type_is_analysed(self) -> None:
        found = self.analyse(HEAD + rows())
        by_item = {item["item"]: item for item in found["items"]}
        self.assertEqual([o["option"] for o in by_item["q1"]["options"]], ["A", "B", "C", ""])
        numeric = {o["option"]: o["is_key"] for o in by_item["q2"]["options"]}
        self.assertEqual(
            {k: numeric[k] for k in ("14.6", "14.65", "14.5", "15", "much")},
            {"14.6": True, "14.65": True, "14.5": True, "15": False, "much": False},
        )
        self.assertEqual([o["option"] for o in by_item["q3"]["options"]], ["0", "1", "2.5", "4", ""])
        self.assertEqual({o["kind"] for o in by_item["q4"]["options"]}, {"answer", "option"})
        self.assertEqual({o["option"] for o in by_item["q5"]["options"]}, {"high tide", "flood", "ebb", ""})
        self.assertEqual(found["test"]["points"], 8.0)

    def test_figures_by_hand_from_the_file(self) -> None:
        text = rows(45, 9)
        found = self.analyse(HEAD + text)
        earned = []
        for line in text.splitlines():
            _, _, _, q1, q2, q3, q4, q5 = (
                line.split(",") if line.count(",") == 7 else line.replace("14,65", "14.65").split(",")
            )
            numeric = {"14.6": 1.0, "14.65": 1.0, "29/2": 1.0}.get(q2, 0.0)
            earned.append(
                [
                    float(q1 == "A"),
                    numeric,
                    float(q3),
                    float(set(q4.split("+")) == {"A", "C"}),
                    float(q5.strip().lower() in ("high tide", "flood")),
                ]
            )
        self.assertAlmostEqual(found["test"]["alpha"], by_hand.alpha(earned))
        for j, item in enumerate(found["items"]):
            x, rest = [row[j] for row in earned], [sum(row) - row[j] for row in earned]
            self.assertAlmostEqual(item["p"], sum(x) / len(x) / item["points"])
            self.assertAlmostEqual(item["r_rest"], by_hand.correlation(x, rest))
        total = [sum(row) for row in earned]
        ranks = [100 * (sum(o < t for o in total) + sum(o == t for o in total) / 2) / len(total) for t in total]
        for student, rank, points in zip(found["students"], ranks, total, strict=True):
            self.assertAlmostEqual(student["percentile_rank"], rank)
            self.assertEqual((student["earned"], student["possible"]), (points, 8.0))

    def test_status_blank_waiting_and_not_presented_are_counted_apart(self) -> None:
        text = (
            HEAD
            + rows(30)
            + "a1,absent,c0,,,,,\na2,exempt,c0,A,,,,\nb1,,c0,,,,,\nw1,sat,c0,A,14.6,!wait,A,ebb\nn1,,c0,A,!np,4,A,ebb\nv1,void,c1,A,1,1,A,x\n"
        )
        found = self.analyse(text)
        self.assertEqual(
            found["counts"], {"rows": 36, "sat": 31, "waiting": 1, "blank": 1, "absent": 1, "exempt": 1, "void": 1}
        )
        by_item = {item["item"]: item for item in found["items"]}
        self.assertEqual((by_item["q1"]["n"], by_item["q2"]["n"], by_item["q3"]["n"]), (32, 31, 31))
        self.assertEqual(by_item["q2"]["n_not_presented"], 1)
        waiting = next(s for s in found["students"] if s["student"] == "w1")
        self.assertEqual((waiting["earned"], waiting["why"]["earned"]), (None, "an answer awaits its score"))
        self.assertEqual(set(waiting["why"]), {"earned", "share", "percentile_rank"})
        self.assertGreater(waiting["possible"], 0, "what was presented is known")

    def test_undefined_figures_are_null_with_a_reason(self) -> None:
        found = self.analyse("student,q\na,A\nb,A\n", "item,type,key\nq,choice,A\n")
        self.assertIsNone(found["test"]["alpha"])
        self.assertEqual(found["test"]["why"]["alpha"], "the test has one item")
        self.assertIn("4 are needed", found["items"][0]["why"]["r_rest"])
        self.assertIsNone(found["items"][0]["sound"])

    def test_ways_to_write_the_same_file_give_the_same_figures(self) -> None:
        plain = HEAD.replace(",status", "") + "".join(
            line.replace(",,c", ",c", 1).replace("14,65", "14.65") + "\n" for line in rows().splitlines()
        )
        want = self.analyse(plain)
        ways = (
            b"\xef\xbb\xbf" + plain.encode(),
            plain.replace("\n", "\r\n").encode(),
            plain.replace(",", ";").encode(),
            plain.rstrip("\n").encode(),
            ("\n".join(plain.splitlines()[:5]) + "\n\n" + "\n".join(plain.splitlines()[5:]) + "\n \n").encode(),
            plain.replace("s3,", '"s3",').encode(),
            plain.replace(",A,", ", A ,").encode(),
            plain.replace(",c1,", ',"c\n1",').encode(),
        )
        for data in ways:
            self.assertEqual(self.analyse(data), want, data[:60])

    def test_column_order_and_extra_columns_do_not_matter(self) -> None:
        plain = "student,x,q1\n" + "".join(f"s{at},=cmd(),{'ABC'[at % 3]}\n" for at in range(9))
        key = "item,type,key,options\nq1,choice,A,ABC\n"
        turned = "q1,student\n" + "".join(f"{'ABC'[at % 3]},s{at}\n" for at in range(9))
        self.assertEqual(self.analyse(plain, key), self.analyse(turned, key))

    def test_compare_and_dif_stand_in_the_document(self) -> None:
        rng = random.Random(2)
        text = "student,class,home,q1,q2\n" + "".join(
            f"s{at},c{at % 3},{'xy'[at % 2]},{rng.choice('AB')},{rng.choice('AB')}\n" for at in range(150)
        )
        found = self.analyse(
            text, "item,type,key,options\nq1,choice,A,AB\nq2,choice,B,AB\n", "--compare", "class", "--dif", "home"
        )
        self.assertEqual(
            [(g["group"], g["n"]) for g in found["compare"]["groups"]], [("c0", 50), ("c1", 50), ("c2", 50)]
        )
        self.assertEqual((found["dif"]["reference"], found["dif"]["focal"], found["dif"]["n_focal"]), ("x", "y", 75))
        self.assertEqual({"item", "odds_ratio", "class", "strata_used"} - set(found["dif"]["items"][0]), set())


class Refusals(AnalyseCase):
    def test_each_names_file_line_column_and_what_is_allowed(self) -> None:
        good = rows(3)
        for data, said in (
            (HEAD + good + "x,,c0,D,1,1,A,ebb\n", "r.csv, line 5, column q1: 'D'; allowed is: one of A, B, C"),
            (HEAD + good + "x,,c0,a,1,1,A,ebb\n", "line 5, column q1: 'a'"),
            (HEAD + good + "x,,c0,A,1,5,A,ebb\n", "line 5, column q3: '5'; allowed is: a plain number within 0..4"),
            (HEAD + good + "x,,c0,A,1,nan,A,ebb\n", "line 5, column q3: 'nan'"),
            (HEAD + good + 'x,,c0,A,1,"2,5",A,ebb\n', "line 5, column q3: '2,5'"),
            (HEAD + good + "x,,c0,A,1,1,A+D,ebb\n", "column q4: 'A+D'"),
            (HEAD + good + "s1,,c0,A,1,1,A,ebb\n", "line 5, column student: s1 again"),
            (HEAD + good + ",,c0,A,1,1,A,ebb\n", "line 5, column student: empty"),
            (HEAD + good + "x,,c0,A,1,1,A\n", "line 5: 7 cells; each row has 8 cells"),
            (HEAD + good + "x,,c0,A,1,1,A,ebb,\n", "line 5: 9 cells"),
            (
                HEAD + good + "x,ill,c0,A,1,1,A,ebb\n",
                "line 5, column status: 'ill'; sat, absent, exempt, void or empty",
            ),
            (HEAD.encode() + good.encode() + b"x,,c0,A,1,1,A,\xff\n", "line 5, column 15: byte 0xff is not UTF-8"),
            (HEAD + good + "x,,c0,A,1,1,A,\0\n", "a NUL character"),
            (HEAD, "no rows"),
            ("", "no column student"),
            (HEAD.replace("q3", "q9") + good, "no column q3"),
            (HEAD.replace("class", "q1") + good, "column q1 twice"),
            (HEAD.replace("student", "name") + good, "no column student"),
            (HEAD + good + 'x,,c0,A,1,1,A,"open\n', "line"),
        ):
            self.assertIn(said, self.refused(data))

    def test_a_fault_far_into_a_large_file_is_found_on_its_line(self) -> None:
        lines = [f"s{at},{'AB'[at % 2]}" for at in range(400_000)]
        lines[333_333] = "s333333,Z"
        self.assertIn(
            "line 333335, column q: 'Z'",
            self.refused("student,q\n" + "\n".join(lines), "item,type,key,options\nq,choice,A,AB\n"),
        )

    def test_keys_groups_and_files_that_cannot_be_used(self) -> None:
        data = HEAD + rows(4)
        for key, said in (
            ("item,type,key\nq1,choice,Z,\n", "4 cells"),
            ("item,type,key\nq1,essay,A\n", "k.csv, line 2, column type: 'essay'"),
            ("item,type,key\nq1,choice,A\nq1,choice,A\n", "q1 again"),
            ("item,type,key,points\nq1,choice,A,0\n", "column points: '0'"),
            ("item,type,key,options\nq1,choice,E,ABCD\n", "column key: 'E'"),
            ("item,type,key\n", "no rows"),
            ("item,type,key\nstatus,choice,A\n", "column item: 'status'"),
        ):
            self.assertIn(said, self.refused(data, key))
        self.assertIn("no column team; other columns are class", self.refused(data, KEY, "--compare", "team"))
        self.assertIn("at least 50", self.refused(HEAD + rows(40), KEY, "--dif", "class"))
        status, _, error = self.call("analyse", "nowhere.csv", "--key", self.write("k.csv", KEY))
        self.assertEqual(status, 2)
        self.assertIn("nowhere.csv: No such file", error)

    def test_help_shows_a_worked_example(self) -> None:
        for command in ("analyse", "growth", "bench", "demo", "serve"):
            status, out, _ = self.call(command, "--help")
            self.assertEqual(status, 0)
            self.assertIn("example: ./bildung " + command, out)


class Workbook(AnalyseCase):
    def test_a_teacher_can_keep_it_and_no_cell_is_run(self) -> None:
        text = HEAD + rows(60) + "=1+1,,c0,A,=cmd|' /C calc'!A0,4,A+C,@SUM(A1)\n"
        out = self.folder / "out.xlsx"
        self.analyse(text, KEY, "--xlsx", str(out), "--compare", "class")
        book = openpyxl.load_workbook(out)
        self.assertEqual(
            book.sheetnames,
            ["Summary", "Items", "Options", "Students by items", "Groups", "Group findings", "Definitions"],
        )
        for sheet in book:
            self.assertIsNotNone(sheet.freeze_panes, sheet.title)
            self.assertFalse([c.coordinate for row in sheet.iter_rows() for c in row if c.data_type == "f"])
        students = book["Students by items"]
        given = [cell.value for cell in students[63]]
        self.assertEqual((given[0], given[5], given[8]), ("=1+1", "=cmd|' /C calc'!A0", "@SUM(A1)"))
        self.assertEqual([c.value for c in students[1]][4:], ["q1", "q2", "q3", "q4", "q5"])
        items = book["Items"]
        self.assertEqual(items["H2"].number_format, "0%")
        self.assertGreater(book["Definitions"].max_row, 10)
