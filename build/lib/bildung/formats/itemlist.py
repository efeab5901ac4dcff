"""Items as a CSV: code, type, stem, options, key, points, standards."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from bildung.core.errors import Refused
from bildung.core.scoring.rules import rule_for
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import Row, Sheet, read_sheet, unique

LETTERS = "ABCDEFGHIJ"
REQUIRED = ("code", "type", "stem", "key")
TYPES = ("choice", "numeric")


@dataclass(frozen=True)
class ItemRecord:
    """An item as read. stem and options: HTML as it came, not yet made safe. options: by letter."""

    code: str
    kind: str
    stem: str
    options: tuple[tuple[str, str], ...]
    key: str
    points: float
    standards: tuple[str, ...]
    subject: str = ""
    grade: str = ""
    place: str = field(default="", compare=False)


def read_items(file: str, data: bytes) -> tuple[ItemRecord, ...]:
    """All items of a file, or the first problem. Options stand in columns option_A, option_B and so on."""
    sheet = read_sheet(file, data, REQUIRED)
    records = [_record(sheet, row) for row in unique(sheet, "code").values()]
    if not records:
        raise ImportProblem(file, "no rows", "one row for each item", 2)
    return tuple(records)


def _record(sheet: Sheet, row: Row) -> ItemRecord:
    kind = row["type"] or "choice"
    if kind not in TYPES:
        raise sheet.problem(row, "type", repr(kind), f"one of {', '.join(TYPES)}")
    if not re.sub(r"<[^>]*>|\s", "", row["stem"]) and "<img" not in row["stem"]:
        raise sheet.problem(row, "stem", "empty", "a stem with some text")
    options = tuple((letter, row.get(f"option_{letter}")) for letter in LETTERS if row.get(f"option_{letter}"))
    letters = tuple(letter for letter, _ in options)
    if kind == "choice" and len(options) < 2:
        raise sheet.problem(row, "option_A", f"{len(options)} options", "a choice item has at least two")
    if letters != tuple(LETTERS[: len(letters)]):
        raise sheet.problem(row, f"option_{LETTERS[len(letters) - 1]}", "a gap before it", "options without a gap")
    try:
        points = float(row.get("points") or 1)
    except ValueError:
        points = -1.0
    if not 0 < points <= 100:
        raise sheet.problem(row, "points", repr(row.get("points")), "a number above 0, at most 100")
    try:
        rule_for(kind, row["key"], letters, points)
    except Refused as error:
        raise sheet.problem(row, "key", repr(row["key"]), str(error)) from None
    standards = tuple(dict.fromkeys(code.strip() for code in row.get("standards").split(";") if code.strip()))
    return ItemRecord(
        row["code"], kind, row["stem"], options if kind == "choice" else (), row["key"], points, standards,
        row.get("subject"), row.get("grade"), f"{sheet.file}, line {row.line}",
    )  # fmt: skip
