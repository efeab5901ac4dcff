"""Score files as others write them."""

from __future__ import annotations

import io
import unittest
from datetime import date

from openpyxl import Workbook

from bildung.formats.problem import ImportProblem
from bildung.formats.scorefile import as_named, guess_score_columns, read_score_rows, score_of
from bildung.formats.spreadsheet import read_spreadsheet

OTHER = (
    "Local ID;Last Name;First Name;DOB;Grade;Term;Test Date;Scale Score;SEM\n"
    "0042;Berg-Åhl;Mila;05/04/2013;07;Fall 2026;9/15/2026;231;4\n"
    ";Quist;Ole;;KG;Fall 2026;2026-09-16;219;\n"
)


class Columns(unittest.TestCase):
    def test_columns_of_another_service_are_known(self) -> None:
        sheet = read_spreadsheet("s.csv", OTHER.encode())
        found = guess_score_columns(sheet.columns)
        self.assertEqual(
            list(found.values()),
            ["student", "family", "given", "birth_date", "grade", "window", "date", "score", "se"],
        )
        self.assertFalse(as_named(sheet))
        first, second = read_score_rows(sheet, found)
        self.assertEqual(
            (first.student, first.name, first.birth_date, first.grade, first.date, first.said, first.se),
            ("0042", "Mila Berg-Åhl", date(2013, 5, 4), "7", date(2026, 9, 15), "231", 4.0),
        )
        self.assertEqual((second.student, second.grade, second.se, second.birth_date), ("", "K", None, None))
        other = read_spreadsheet("s.csv", OTHER.replace("9/15/2026", "2026-09-15").encode())
        self.assertEqual(read_score_rows(other, found, day_first=True)[0].birth_date, date(2013, 4, 5))

    def test_a_workbook_with_one_column_of_names(self) -> None:
        book = Workbook()
        for row in (["Student Name", "Season", "Level"], ["Berg, Mila", "Fall", "Kelp"], ["Ole Quist", "Fall", "Sand"]):
            book.active.append(row)
        out = io.BytesIO()
        book.save(out)
        sheet = read_spreadsheet("s.xlsx", out.getvalue())
        rows = read_score_rows(sheet, guess_score_columns(sheet.columns))
        self.assertEqual(
            [(r.given, r.family, r.window, r.said) for r in rows],
            [("Mila", "Berg", "Fall", "Kelp"), ("Ole", "Quist", "Fall", "Sand")],
        )

    def test_what_cannot_be_read(self) -> None:
        for text, matched, says in (
            ("a,b\n1,2\n", {"a": "student", "b": ""}, "no column for score and window or test date"),
            ("a,b\n1,2\n", {"a": "score", "b": "window"}, "student number, or given and family name"),
            ("a,b,c\n1,2,3\n", {"a": "student", "b": "student", "c": "score"}, "student number matched twice"),
            ("a\n1\n", {"x": "student"}, "no column x"),
            ("a\n1\n", {"a": "shoe"}, "matched with 'shoe'"),
            ("student,window,score\n", None, "no rows"),
            ("student,window,score\n,Fall,3\n", None, "nobody"),
            ("student,window,score\n1,Fall,\n", None, "each row has a score"),
            ("student,window,score\n1,,3\n", None, "its window or its date"),
            ("student,window,score,date\n1,Fall,3,31/31/2026\n", None, "a date such as"),
            ("student,window,score,week\n1,Fall,3,99\n", None, "within 0..60"),
            ("student,window,score,se\n1,Fall,3,-1\n", None, "a plain number"),
        ):
            sheet = read_spreadsheet("s.csv", text.encode())
            with self.subTest(says), self.assertRaisesRegex(ImportProblem, says):
                read_score_rows(sheet, matched or guess_score_columns(sheet.columns))

    def test_scores_and_levels(self) -> None:
        levels = ["Sand", "Kelp", "Amber"]
        for said, score in (("kelp", 2.0), ("3", 3.0), ("4", None), ("1.5", None), ("Blue", None)):
            self.assertEqual(score_of(said, levels), score, said)
        for said, score in (("231.5", 231.5), ("1_0", None), ("nan", None), ("", None), ("1e3", 1000.0)):
            self.assertEqual(score_of(said, None), score, said)


if __name__ == "__main__":
    unittest.main()
