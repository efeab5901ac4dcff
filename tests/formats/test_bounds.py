"""Tables that are far too large or that hide marks in names: refused or mended at once, with a clock that is generous."""

from __future__ import annotations

import io
import time
import unittest
from collections.abc import Callable

from openpyxl import Workbook

from bildung.core.school.names import legible
from bildung.formats import bounds
from bildung.formats.courseplan import read_plans
from bildung.formats.itemlist import read_items
from bildung.formats.keys import read_key
from bildung.formats.oneroster import read_roster
from bildung.formats.problem import ImportProblem
from bildung.formats.responses import read_responses
from bildung.formats.sheet import read_sheet
from bildung.formats.spreadsheet import read_spreadsheet
from tests.support import small_roster

SECONDS = 20.0  # what is quadratic takes minutes at these sizes
WIDE = (",".join(f"c{n}" for n in range(200_000)) + "\n").encode()


class Bounds(unittest.TestCase):
    def refused(self, read: Callable[[], object], said: str) -> None:
        began = time.process_time()
        with self.assertRaisesRegex(ImportProblem, said):
            read()
        self.assertLess(time.process_time() - began, SECONDS)

    def test_a_header_of_200_000_columns_is_refused_at_once_by_every_reader(self) -> None:
        key = read_key("key.csv", b"item,type,key\nq1,choice,A\n")
        for read in (
            lambda: read_sheet("a.csv", WIDE, ("id",)),
            lambda: read_spreadsheet("a.csv", WIDE),
            lambda: read_key("a.csv", WIDE),
            lambda: read_responses("a.csv", WIDE, key),
            lambda: read_responses("a.csv", WIDE.replace(b"c7,", b'"c7",'), key),
            lambda: read_items("a.csv", WIDE),
            lambda: read_plans("a.csv", WIDE),
            lambda: read_roster({"orgs.csv": WIDE, **{n: d for n, d in small_roster().items() if n != "orgs.csv"}}),
        ):
            self.refused(read, "200000 columns: at most|200000 columns")

    def test_a_workbook_as_wide_is_refused(self) -> None:
        book = Workbook(write_only=True)
        sheet = book.create_sheet()
        sheet.append([f"c{n}" for n in range(bounds.MOST_COLUMNS + 5)])
        kept = io.BytesIO()
        book.save(kept)
        self.refused(lambda: read_spreadsheet("a.xlsx", kept.getvalue()), f"at most {bounds.MOST_COLUMNS}")

    def test_too_many_rows_and_too_many_cells_are_refused(self) -> None:
        self.refused(lambda: read_sheet("a.csv", b"id\n" + b"x\n" * (bounds.MOST_ROWS + 1), ("id",)), "rows")
        wide = ",".join(f"c{n}" for n in range(1000)).encode()
        row = b",".join([b"x"] * 1000) + b"\n"
        self.refused(lambda: read_sheet("a.csv", wide + b"\n" + row * 20_100, ("c1",)), "cells")

    def test_twice_the_width_takes_about_twice_the_time(self) -> None:
        def spent(columns: int) -> float:
            data = (",".join(f"c{n}" for n in range(columns)) + "\n" + ",".join("x" * columns) + "\n").encode()
            began = time.process_time()
            for _ in range(20):
                read_sheet("a.csv", data, ("c1",))
            return time.process_time() - began

        spent(200)
        self.assertLess(spent(2000), 60 * max(spent(200), 0.002))


class Names(unittest.TestCase):
    def test_marks_that_are_not_seen_are_left_out_and_joiners_stay(self) -> None:
        for given, wanted in (
            ("Anna\u202eoV", "AnnaoV"),
            ("A\x00n\x1bn\x07a", "Anna"),
            ("Anna\r\nVos", "Anna Vos"),
            ("\ufeffLi\u200b", "Li"),
            ("\u2067Omar\u2069", "Omar"),
            ("می\u200cخواهم", "می\u200cخواهم"),
            ("Zoë  O’Neil", "Zoë O’Neil"),
            ("\U000e0041Ann", "Ann"),
        ):
            self.assertEqual(legible(given), wanted)

    def test_a_roster_takes_the_name_without_them_and_says_where(self) -> None:
        files = small_roster()
        users = files["users.csv"].decode()
        line = next(row for row in users.splitlines()[1:] if row)
        given = line.split(",")[users.splitlines()[0].split(",").index("givenName")]
        files["users.csv"] = users.replace(given, given[:1] + "\u202e" + given[1:], 1).encode()
        found = read_roster(files)
        self.assertIn(given, [m.name for m in found.mended])
        self.assertIn(given, [u.given for u in found.users])
        self.assertEqual(read_roster(small_roster()).mended, ())
