"""A table as a person has it at hand: CSV, columns copied out of a spreadsheet, or an XLSX workbook's first sheet."""

from __future__ import annotations

import io
import warnings
import zipfile
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from bildung.formats.archive import is_archive
from bildung.formats.bounds import MOST_COLUMNS, check_columns, check_rows
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import Sheet, SheetRow, read_sheet

MAX_EXPANDED = 256 * 1024 * 1024


def read_spreadsheet(file: str, data: bytes, required: Sequence[str] = ()) -> Sheet:
    """Whole and checked as `read_sheet` does; what is empty at the end of a workbook's sheet does not count."""
    if not is_archive(data):
        return read_sheet(file, data, required)
    rows = _workbook_rows(file, data)
    if not rows:
        raise ImportProblem(file=file, found="an empty sheet", allowed="the first line names the columns", line=1)
    names = [_text(cell) for cell in rows[0]]
    while names and not names[-1]:
        names.pop()
    if not any(names):
        raise ImportProblem(file=file, found="no header", allowed="the first line names the columns", line=1)
    check_columns(file, names)
    missing = [name for name in required if name not in names]
    if missing:
        raise ImportProblem(
            file=file, found=f"no column {', '.join(missing)}", allowed=f"needed are {', '.join(required)}", line=1
        )
    found = []
    for line, cells in enumerate(rows[1:], 2):
        values = [_text(cell) for cell in cells]
        if any(values[len(names) :]):
            raise ImportProblem(
                file=file, found="a cell past the last named column", allowed="every column has a name", line=line
            )
        if any(values):
            padded = [*values, *[""] * len(names)][: len(names)]
            found.append(SheetRow(line, {name: value for name, value in zip(names, padded, strict=True) if name}))
    return Sheet(file, tuple(name for name in names if name), tuple(found))


def _workbook_rows(file: str, data: bytes) -> list[tuple[Any, ...]]:
    from openpyxl import load_workbook

    try:
        with zipfile.ZipFile(io.BytesIO(data)) as inside:
            if sum(member.file_size for member in inside.infolist()) > MAX_EXPANDED:
                raise ImportProblem(
                    file=file, found="a workbook that expands too far", allowed=f"at most {MAX_EXPANDED} bytes in all"
                )
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # about looks that a reader of values does not need
            book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
            sheet = book.worksheets[0]
            rows: list[tuple[Any, ...]] = []
            for row in sheet.iter_rows(values_only=True):
                if len(row) > MOST_COLUMNS and any(cell is not None for cell in row[MOST_COLUMNS:]):
                    raise ImportProblem(
                        file=file,
                        found=f"{len(row)} columns",
                        allowed=f"at most {MOST_COLUMNS} are read",
                        line=len(rows) + 1,
                    )
                rows.append(row[:MOST_COLUMNS])
                check_rows(file, len(rows), len(row), len(rows))
            book.close()
            return rows
    except ImportProblem:
        raise
    except Exception as error:  # the library has many ways to say that a file is broken
        raise ImportProblem(
            file=file, found=f"not a readable workbook ({type(error).__name__})", allowed="an XLSX file or CSV"
        ) from None


def _text(value: Any) -> str:
    """A cell as it is read on screen: whole numbers without a point, dates as 2026-08-31."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    if isinstance(value, datetime):
        return value.date().isoformat() if (value.hour, value.minute) == (0, 0) else value.isoformat(" ")
    return str(value).strip()
