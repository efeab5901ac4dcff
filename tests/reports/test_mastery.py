"""The grid on paper: as few landscape pages as can be read, heads on each, every standard and student once; a page a student."""

from __future__ import annotations

import io
import unittest

from pypdf import PdfReader

from bildung.reports.mastery import (
    NARROWEST,
    ROOM,
    WIDEST,
    GridSheet,
    PrintedStandard,
    StudentSheet,
    blocks,
    mastery_document,
    students_document,
)


def sheet(columns: int, rows: int, hidden: bool = False) -> GridSheet:
    return GridSheet(
        title="Class 7",
        subject="Mathematics",
        finding="Half is mastered.",
        asks="Mastered asks six points.",
        day="May 3, 2027",
        between="",
        hidden=hidden,
        states=["not assessed"],
        columns=[(f"S.{at:02}", f"Standard {at}", "Number", "1 of 2") for at in range(columns)],
        rows=[(f"Student <{at:02}>", [at % 6] * columns, [at % 8] * columns) for at in range(rows)],
    )


class Grids(unittest.TestCase):
    def test_columns_fill_as_few_pages_as_can_be_read(self) -> None:
        fit = int(ROOM / NARROWEST)
        for n in (1, 12, fit, fit + 1, 60, 121):
            with self.subTest(n):
                width, parts = blocks(sheet(n, 1))
                self.assertEqual([at for part in parts for at in part], list(range(n)))
                self.assertEqual(len(parts), -(-n // fit))
                self.assertTrue(NARROWEST - 1e-9 <= width <= WIDEST)
                self.assertTrue(all(width * len(part) <= ROOM + 1e-9 for part in parts))
                self.assertLessEqual(max(map(len, parts)) - min(map(len, parts)), len(parts), "filled alike")

    def test_heads_stand_on_every_page_and_nobody_is_left_out(self) -> None:
        read = PdfReader(io.BytesIO(mastery_document(sheet(40, 70))))
        pages = [page.extract_text() for page in read.pages]
        grids = [text for text in pages if "Student <" in text]
        self.assertGreater(len(grids), 2, "two blocks of columns over several pages")
        for text in grids:
            self.assertTrue("S.00" in text or "S.39" in text, "its heads")
        whole = "\n".join(pages)
        for at in range(70):
            self.assertEqual(whole.count(f"Student <{at:02}>"), 2, "once for each block of columns")
        first = read.pages[0].mediabox
        self.assertGreater(first.width, first.height)
        self.assertNotIn("names are hidden", whole)

    def test_a_class_by_its_standards_is_one_page_and_the_standards(self) -> None:
        read = PdfReader(io.BytesIO(mastery_document(sheet(12, 24, hidden=True))))
        text = read.pages[0].extract_text()
        self.assertTrue(all(f"Student <{at:02}>" in text for at in range(24)))
        self.assertIn("names are hidden", text)
        self.assertLessEqual(len(read.pages), 2)


class Students(unittest.TestCase):
    def test_a_page_each_with_what_was_said_of_them(self) -> None:
        line = PrintedStandard(
            code="S.1",
            text="Add & subtract",
            state="mastered",
            says="6 of 6 points (100%); mastered since May 1.",
            mean=0.9,
            low=0.7,
            high=0.99,
            line=0.8,
            way=1,
            again=True,
        )
        pages = [
            StudentSheet(
                name=name,
                klass="Class 7",
                subject="Mathematics",
                finding="1 of 1 standards is mastered.",
                first="May 1, 2027",
                last="May 3, 2027",
                day="May 3, 2027",
                hidden=False,
                standards=[line] * 20,
                domains=[("Number", "Mastered 1 of 12 grade 7 standards, 11 not assessed")],
                changes={"gained": 1},
            )
            for name in ("Ada", "Ben")
        ]
        read = PdfReader(io.BytesIO(students_document(pages)))
        self.assertEqual(len(read.pages), 2)
        for name, page in zip(("Ada", "Ben"), read.pages, strict=True):
            text = " ".join(page.extract_text().split())
            for words in (name, "Add & subtract", "check again", "rising", "no grade equivalent", "1 gained"):
                self.assertIn(words, text)


if __name__ == "__main__":
    unittest.main()
