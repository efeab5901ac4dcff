"""The map of a form as a workbook: what stands where, what it measures, and what it did before."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from bildung.formats.workbook import Book

COLUMNS = (
    ("No.", 6, "whole"),
    ("Part", 16, "text"),
    ("Item", 14, "text"),
    ("Version", 8, "whole"),
    ("Kind", 16, "text"),
    ("Main standard", 16, "text"),
    ("Also touches", 20, "text"),
    ("Depth", 7, "whole"),
    ("Topic", 18, "text"),
    ("Unit", 20, "text"),
    ("Stimulus", 18, "text"),
    ("Points", 8, "two"),
    ("Right answer", 24, "wrap"),
    ("Minutes", 9, "one"),
    ("Correct last time", 12, "share"),
    ("By how many", 10, "whole"),
    ("Separates", 10, "two"),
    ("Shown otherwise", 14, "text"),
)


def form_map(
    name: str,
    facts: Sequence[tuple[str, Any]],
    rows: Sequence[Sequence[Any]],
    coverage: Sequence[tuple[str, int, float]],
) -> bytes:
    """facts: of the whole form, name and value. rows: as COLUMNS. coverage: standard, items, points."""
    book = Book()
    form = book.sheet("Form", [("About", 26, "text"), (name, 70, "wrap")], 0)
    for at, (what, value) in enumerate(facts, 1):
        book.row(form, at, [what, value])
    items = book.sheet("Items", COLUMNS, 3)
    for at, row in enumerate(rows, 1):
        book.row(items, at, row)
    items.autofilter(0, 0, max(1, len(rows)), len(COLUMNS) - 1)
    standards = book.sheet("Standards", [("Main standard", 18, "text"), ("Items", 8, "whole"), ("Points", 8, "two")])
    for at, entry in enumerate(coverage, 1):
        book.row(standards, at, entry)
    return book.bytes()
