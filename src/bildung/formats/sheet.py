"""CSV as it comes from schools: UTF-8 with or without a mark; comma, semicolon or tab; any line end."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from bildung.formats.bounds import check_columns, check_rows
from bildung.formats.problem import ImportProblem

MAX_BYTES = 64 * 1024 * 1024
csv.field_size_limit(1024 * 1024)


@dataclass(frozen=True)
class SheetRow:
    """One record: the line it starts on, and its cells by column, stripped."""

    line: int
    cells: dict[str, str]

    def __getitem__(self, column: str) -> str:
        return self.cells[column]

    def get(self, column: str) -> str:
        return self.cells.get(column, "")


@dataclass(frozen=True)
class Sheet:
    file: str
    columns: tuple[str, ...]
    rows: tuple[SheetRow, ...]

    def problem(self, row: SheetRow, column: str, found: str, allowed: str) -> ImportProblem:
        return ImportProblem(file=self.file, found=found, allowed=allowed, line=row.line, column=column)


def decode(file: str, data: bytes) -> str:
    """The text of a file; a problem with its place where it is not UTF-8 or holds a NUL."""
    if len(data) > MAX_BYTES:
        raise ImportProblem(file=file, found=f"{len(data)} bytes", allowed=f"at most {MAX_BYTES} bytes are read")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        before = data[: error.start]
        line, column = before.count(b"\n") + 1, error.start - (before.rfind(b"\n") + 1) + 1
        raise ImportProblem(
            file=file,
            found=f"byte 0x{data[error.start]:02x} is not UTF-8",
            allowed="save the file as UTF-8",
            line=line,
            column=str(column),
        ) from None
    if "\0" in text:
        before_nul = text[: text.index("\0")]
        raise ImportProblem(
            file=file,
            found="a NUL character",
            allowed="plain text is allowed",
            line=before_nul.count("\n") + 1,
            column=str(len(before_nul) - before_nul.rfind("\n")),
        )
    return text


def read_sheet(file: str, data: bytes, required: Sequence[str]) -> Sheet:
    """Read and check a whole file: header, required columns, no ragged row, no column twice."""
    text = decode(file, data)
    header_line = text.split("\n", 1)[0]
    delimiter = max(",;\t", key=header_line.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    rows: list[SheetRow] = []
    try:
        columns = tuple(name.strip() for name in next(reader, []))
        if not any(columns):
            raise ImportProblem(
                file=file, found="no header", allowed=f"the first line names the columns {', '.join(required)}", line=1
            )
        check_columns(file, columns)
        missing = [name for name in required if name not in columns]
        if missing:
            raise ImportProblem(
                file=file,
                found=f"no column {', '.join(missing)}",
                allowed=f"needed are {', '.join(required)}",
                line=1,
            )
        start = reader.line_num + 1
        for cells in reader:
            if cells and any(cell.strip() for cell in cells):
                if len(cells) != len(columns):
                    raise ImportProblem(
                        file=file,
                        found=f"{len(cells)} cells",
                        allowed=f"each row has {len(columns)} cells, as the header",
                        line=start,
                    )
                check_rows(file, len(rows) + 1, len(columns), start)
                stripped = {name: cell.strip() for name, cell in zip(columns, cells, strict=True)}
                rows.append(SheetRow(start, stripped))
            start = reader.line_num + 1
    except csv.Error as error:
        raise ImportProblem(
            file=file, found=str(error), allowed="quotes are doubled inside a quoted cell", line=reader.line_num
        ) from None
    return Sheet(file, columns, tuple(rows))


def whole(text: str) -> int | None:
    """A whole number written plainly, of at most nine digits; None for anything else."""
    return int(text) if text.isascii() and text.isdigit() and len(text) < 10 else None


def unique(sheet: Sheet, column: str, rows: Iterable[SheetRow] | None = None) -> dict[str, SheetRow]:
    """Rows by an id column; a problem at the second of two rows with the same id, or at an empty one."""
    found: dict[str, SheetRow] = {}
    for row in sheet.rows if rows is None else rows:
        value = row[column]
        if not value:
            raise sheet.problem(row, column, "empty", f"each row has its own {column}")
        if value in found:
            raise sheet.problem(
                row, column, f"{value} again (first in line {found[value].line})", f"each {column} stands once"
            )
        found[value] = row
    return found


YES, NO = ("yes", "y", "x", "1", "true"), ("no", "n", "0", "false", "-")
"""How a cell says so, in lower case."""


def safe_cell(text: str) -> str:
    """A cell that no spreadsheet runs as a formula: a leading apostrophe before = + - @ and control marks."""
    return "'" + text if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text
