"""A report as its content: headings, text, tables, drawings. Printed as PDF, or its tables written as a workbook."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

HERE = Path(__file__).parent
Size = Literal["A4", "Letter"]
Value = str | int | float | None
Kind = Literal["text", "whole", "number", "points", "coefficient", "share", "signed", "html"]


@dataclass(frozen=True)
class PrintColumn:
    """kind: how its values are written. share: 0..1, printed as percent. width: of the page, in parts of all widths; 0
    as it needs. only: "print" for drawings, "sheet" for what only a workbook has room for."""

    title: str
    kind: Kind = "text"
    width: float = 0.0
    only: str = ""


@dataclass(frozen=True, kw_only=True)
class Table:
    """name: of the sheet in a workbook, empty for a table that is only printed; tables of one name follow each other on
    a sheet. rows: as the columns. strong: rows to be set off. fitted: no wider than its contents need."""

    name: str
    columns: Sequence[PrintColumn]
    rows: Sequence[Sequence[Value]]
    strong: frozenset[int] = frozenset()
    fitted: bool = False


@dataclass(frozen=True)
class Text:
    """look: "" for plain, "small", "heading", "part" (a new section) or "urgent"."""

    text: str
    look: str = ""


@dataclass(frozen=True)
class Drawing:
    """Markup that was made safe, or an SVG."""

    html: str


@dataclass(frozen=True)
class KeptTogether:
    """Blocks that stay on one page where that can be."""

    blocks: Sequence[Block]


@dataclass(frozen=True)
class NextPage:
    pass


Block = Table | Text | Drawing | KeptTogether | NextPage


@dataclass(frozen=True, kw_only=True)
class Document:
    """lead: the finding. where: what it is about, in words. foot: who made it, when, whether names are veiled. facts: for
    the first sheet of a workbook."""

    title: str
    lead: str
    where: str
    foot: str
    blocks: Sequence[Block]
    wide: bool = False
    facts: Sequence[tuple[str, str]] = field(default_factory=tuple)


def shown(value: Value, kind: Kind) -> str:
    """A value as print has it; nothing for what is not stated."""
    from bildung.core.items.shown import coefficient, decimal, percent, signed

    if value is None:
        return "–"
    if isinstance(value, str):
        return value
    writers: dict[str, Any] = {
        "whole": lambda v: f"{v:g}",
        "number": lambda v: decimal(float(v), 1),
        "points": lambda v: f"{round(float(v), 2):g}",
        "coefficient": lambda v: coefficient(float(v)),
        "share": lambda v: percent(float(v)),
        "signed": lambda v: signed(float(v)),
    }
    return str(writers.get(kind, lambda v: f"{v:g}")(value))


def to_pdf(document: Document, size: Size = "A4") -> bytes:
    from jinja2 import Environment, FileSystemLoader, StrictUndefined
    from weasyprint import HTML

    environment = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined)
    environment.filters["shown"] = shown
    environment.tests["table"] = lambda b: isinstance(b, Table)
    environment.tests["words"] = lambda b: isinstance(b, Text)
    environment.tests["drawing"] = lambda b: isinstance(b, Drawing)
    environment.tests["together"] = lambda b: isinstance(b, KeptTogether)
    page = f"{size} landscape" if document.wide else size
    html = environment.get_template("report.html").render(document=document, page=page)
    made: bytes = HTML(string=html, base_url=str(HERE) + "/").write_pdf()
    return made


FORMATS = {
    "text": "text",
    "html": "text",
    "whole": "whole",
    "number": "two",
    "points": "two",
    "coefficient": "two",
    "share": "share",
    "signed": "two",
}


def to_workbook(document: Document) -> bytes:
    """Every table on a sheet, with the values unrounded; what it is about on the first."""
    from bildung.formats.workbook import Book

    book = Book()
    first = book.sheet("About", [("About", 22, "text"), (document.title, 100, "wrap")], 0)
    facts = [("Finding", document.lead), ("Of", document.where), *document.facts, ("Made", document.foot)]
    for at, fact in enumerate(facts, 1):
        book.row(first, at, list(fact))
    sheets: dict[str, tuple[Any, int]] = {}
    for table in _tables(document.blocks):
        kept = [at for at, column in enumerate(table.columns) if column.only != "print"]
        name = table.name[:31]
        if name not in sheets:
            columns = [(table.columns[at].title, _width(table, at), FORMATS[table.columns[at].kind]) for at in kept]
            sheets[name] = book.sheet(name, columns), 1
        sheet, at = sheets[name]
        for row in table.rows:
            book.row(sheet, at, [row[column] for column in kept])
            at += 1
        sheets[name] = sheet, at
    return book.bytes()


def _tables(blocks: Sequence[Block]) -> list[Table]:
    found: list[Table] = []
    for block in blocks:
        if isinstance(block, Table):
            found += [block] if block.name else []
        elif isinstance(block, KeptTogether):
            found += _tables(block.blocks)
    return found


def _width(table: Table, at: int) -> int:
    longest = max((len(str(row[at])) for row in table.rows if isinstance(row[at], str)), default=6)
    return min(60, max(len(table.columns[at].title) + 2, longest + 1, 8))
