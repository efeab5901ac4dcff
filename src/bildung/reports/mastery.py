"""Mastery on paper: the grid on as few landscape pages as can be read, heads repeated; a page a student."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import ceil
from pathlib import Path

HERE = Path(__file__).parent
LETTERS = ("", "·", "B", "D", "M", "R")
ROOM = 216.0  # mm beside the names
NARROWEST, WIDEST = 8.4, 17.0


@dataclass(frozen=True, kw_only=True)
class GridSheet:
    """columns: code, text, domain, how many mastered. rows: name, states and signs, as of the page. hidden: names are."""

    title: str
    subject: str
    finding: str
    asks: str
    day: str
    between: str
    hidden: bool
    states: Sequence[str]
    columns: Sequence[tuple[str, str, str, str]]
    rows: Sequence[tuple[str, Sequence[int], Sequence[int]]]


@dataclass(frozen=True, kw_only=True)
class PrintedStandard:
    """A line of a student's page. low, high: 90% interval of the share."""

    code: str
    text: str
    state: str
    says: str
    mean: float
    low: float
    high: float
    line: float
    way: int
    again: bool


@dataclass(frozen=True, kw_only=True)
class StudentSheet:
    """One page. domains: each with what is to be said of it. changes: how many standards gained, confirmed again, lapsed, in progress between two days."""

    name: str
    klass: str
    subject: str
    finding: str
    first: str
    last: str
    day: str
    hidden: bool
    standards: Sequence[PrintedStandard]
    domains: Sequence[tuple[str, str]]
    changes: dict[str, int]


@dataclass(frozen=True)
class _Block:
    """Columns that stand on a page together."""

    first: int
    last: int
    columns: Sequence[tuple[str, str, str, str]]
    rows: Sequence[tuple[str, list[tuple[int, int]]]]


def blocks(sheet: GridSheet) -> tuple[float, list[range]]:
    """Width of a column in mm, and which stand together: as few pages as can be, filled alike."""
    n = len(sheet.columns)
    pages = max(1, ceil(n * NARROWEST / ROOM))
    each = ceil(n / pages)
    return min(WIDEST, ROOM / each), [range(at, min(n, at + each)) for at in range(0, n, each)]


def mastery_document(sheet: GridSheet) -> bytes:
    """The grid as PDF."""
    width, parts = blocks(sheet)
    told = [
        _Block(
            part.start + 1,
            part.stop,
            [sheet.columns[at] for at in part],
            [(name, [(states[at], signs[at]) for at in part]) for name, states, signs in sheet.rows],
        )
        for part in parts
    ]
    return _pdf(title=sheet.title, grid=sheet, blocks=told, width=round(width, 2), letters=LETTERS)


def students_document(sheets: Sequence[StudentSheet]) -> bytes:
    """A page a student, as PDF."""
    return _pdf(title="Mastery", students=sheets)


def _pdf(**told: object) -> bytes:
    from weasyprint import HTML

    return bytes(HTML(string=_template().render(**told), base_url=str(HERE)).write_pdf())


@lru_cache(maxsize=1)
def _template():  # type: ignore[no-untyped-def]
    from jinja2 import Environment, FileSystemLoader, select_autoescape

    environment = Environment(loader=FileSystemLoader(HERE), autoescape=select_autoescape())
    return environment.get_template("mastery.html")
