"""A plain table as a file: CSV or the one sheet of a workbook."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import Literal

from bildung.formats.workbook import Book


def to_file(
    kind: Literal["csv", "xlsx"], name: str, columns: Sequence[str], rows: Sequence[Sequence[str | float]]
) -> bytes:
    """Numbers as numbers; what a spreadsheet would take for a formula is marked as text."""
    if kind == "xlsx":
        book = Book()
        sheet = book.sheet(name, [(column, max(6, min(30, len(column) + 4)), "text") for column in columns])
        for at, row in enumerate(rows, 1):
            book.row(sheet, at, row)
        return book.bytes()
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(columns)
    for row in rows:
        writer.writerow([plain_text(value) if isinstance(value, str) else f"{value:g}" for value in row])
    return out.getvalue().encode("utf-8-sig")


def plain_text(text: str) -> str:
    """A cell that a spreadsheet would take for a formula, marked as text."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t") and not _number(text) else text


def as_typed(cell: str) -> str:
    """A cell as it was before it was marked as text."""
    return cell[1:] if cell[:1] == "'" and cell[1:2] in ("=", "+", "-", "@") else cell


def _number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
