"""The key of a response file: one row an item (docs/commands.md)."""

from __future__ import annotations

from dataclasses import dataclass

from bildung.core.data.responses import ItemColumn
from bildung.core.errors import Refused
from bildung.core.scoring.rules import KINDS, Rule, rule_for
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import read_sheet, unique

RESERVED = ("student", "status")


@dataclass(frozen=True)
class KeyedItem:
    item: ItemColumn
    key: str
    rule: Rule


def read_key(file: str, data: bytes) -> tuple[KeyedItem, ...]:
    """Items in form order. Without `options` a choice item has the letters A to D, or as far as its key reaches."""
    sheet = read_sheet(file, data, ("item", "type", "key"))
    found: list[KeyedItem] = []
    for name, row in unique(sheet, "item").items():
        if name in RESERVED:
            raise sheet.problem(row, "item", repr(name), "a name that is not a column of its own")
        kind, key = row["type"], row["key"]
        if kind not in KINDS:
            raise sheet.problem(row, "type", repr(kind), f"one of {', '.join(KINDS)}")
        try:
            points = float(row.get("points") or 1)
        except ValueError:
            points = -1.0
        if not 0 < points < 10_000:
            raise sheet.problem(row, "points", repr(row.get("points")), "a number above 0")
        options = _options(row.get("options"), kind, key)
        if len(set(options)) != len(options):
            raise sheet.problem(row, "options", repr(row.get("options")), "each option once")
        try:
            rule = rule_for(kind, key, options, points)
        except Refused as error:
            raise sheet.problem(row, "key", repr(key), str(error)) from None
        accepted = tuple(k.strip() for k in key.split("|" if kind == "choice" else "+")) if options else ()
        standards = tuple(code.strip() for code in row.get("standards").split(";") if code.strip())
        item = ItemColumn(
            name=name,
            kind=kind,
            points=points,
            options=options,
            keys=accepted,
            part=row.get("part"),
            standards=standards,
        )
        found.append(KeyedItem(item, key, rule))
    if not found:
        raise ImportProblem(file=file, found="no rows", allowed="one row for each item", line=2)
    return tuple(found)


def _options(text: str, kind: str, key: str) -> tuple[str, ...]:
    """Letters in a row, or names split by semicolons or bars."""
    if kind not in ("choice", "multiple"):
        return ()
    if text:
        for mark in (";", "|", " "):
            if mark in text:
                return tuple(part.strip() for part in text.split(mark) if part.strip())
        return tuple(text)
    letters = [k.strip() for k in key.replace("+", "|").split("|")]
    last = max((ord(k) - ord("A") for k in letters if len(k) == 1 and "A" <= k <= "Z"), default=3)
    return tuple("ABCDEFGHIJKLMNOPQRSTUVWXYZ"[: max(4, last + 1)])
