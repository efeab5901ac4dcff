"""Cards of a session: each student's own code and a square that opens the door with both codes filled in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlencode

HERE = Path(__file__).parent
COLUMNS, USABLE_MM, TALLEST, SHORTEST = 3, 252, 33, 25


@dataclass(frozen=True)
class Sheet:
    """What stands above the cards. footer: who made it and when, and that it holds codes."""

    heading: str
    what: str
    klass: str
    address: str
    code: str
    footer: str


def door(address: str, session_code: str, own_code: str) -> str:
    return f"{address.rstrip('/')}/?{urlencode({'session': session_code, 'own': own_code})}"


def session_cards(sheet: Sheet, students: Sequence[tuple[str, str]]) -> bytes:
    """PDF, A4, three cards a row; up to 30 students fit a page. students: name and own code."""
    import segno
    from jinja2 import Environment, FileSystemLoader, StrictUndefined
    from weasyprint import HTML

    rows = max(1, -(-len(students) // COLUMNS))
    height = max(SHORTEST, min(TALLEST, USABLE_MM // rows))
    cards = [
        {
            "name": name, "own_code": own,
            "square": segno.make(door(sheet.address, sheet.code, own), error="m").svg_inline(border=0, omitsize=True),
        }
        for name, own in students
    ]  # fmt: skip
    pages = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined)
    html = pages.get_template("cards.html").render(**vars(sheet), cards=cards, height=height)
    document: bytes = HTML(string=html, base_url=str(HERE) + "/").write_pdf()
    return document
