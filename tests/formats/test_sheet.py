"""CSV from the wild: what is fine, and what is refused with its place."""

from __future__ import annotations

import unittest

from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import read_sheet, safe_cell, unique


def said(data: bytes, required: tuple[str, ...] = ("a", "b")) -> str:
    try:
        unique(read_sheet("x.csv", data, required), "a")
    except ImportProblem as problem:
        return str(problem)
    raise AssertionError("nothing was refused")


class Sheets(unittest.TestCase):
    def test_what_is_fine(self) -> None:
        for data in (
            b"a,b\n1,2\n",
            b"\xef\xbb\xbfa,b\r\n1,2\r\n",
            b"a;b\n1;2",
            b"b,a\n2,1\n\n",
            b'a,b\n" 1 ","2"\n',
            b"a,b,\n1,2,\n",
        ):
            row = read_sheet("x.csv", data, ("a", "b")).rows[0]
            self.assertEqual((row["a"], row["b"]), ("1", "2"), data)

    def test_quoted_newlines_keep_line_numbers_right(self) -> None:
        sheet = read_sheet("x.csv", b'a,b\n1,"two\nlines"\n3,4\n', ("a", "b"))
        self.assertEqual([(r.line, r["b"]) for r in sheet.rows], [(2, "two\nlines"), (4, "4")])

    def test_wrong_encoding_names_byte_line_and_column(self) -> None:
        self.assertIn("x.csv, line 2, column 3: byte 0xe9 is not UTF-8", said(b"a,b\n1,\xe9\n"))

    def test_a_nul_is_refused_with_its_line(self) -> None:
        self.assertIn("line 3, column 1: a NUL character", said(b"a,b\n1,2\n\x003,4\n"))

    def test_a_missing_column_is_named(self) -> None:
        self.assertIn("line 1: no column b; needed are a, b", said(b"a,c\n1,2\n"))

    def test_a_ragged_row_names_its_line(self) -> None:
        self.assertIn("line 3: 3 cells; each row has 2 cells", said(b"a,b\n1,2\n1,2,3\n"))

    def test_a_duplicate_id_names_both_lines(self) -> None:
        self.assertIn("line 3, column a: 1 again (first in line 2)", said(b"a,b\n1,2\n1,3\n"))

    def test_an_empty_file_and_an_open_quote_are_refused(self) -> None:
        self.assertIn("no header", said(b""))
        self.assertIn("line 2", said(b'a,b\n1,"2\n'))

    def test_cells_that_look_like_formulas_are_written_as_text(self) -> None:
        self.assertEqual([safe_cell(c) for c in ("=1+1", "+1", "-1", "@x", "ok")], ["'=1+1", "'+1", "'-1", "'@x", "ok"])
