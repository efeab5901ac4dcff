"""Cards of a session or class: each student's sign-in code and a square that opens the door with both codes filled in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlencode

HERE = Path(__file__).parent
COLUMNS, USABLE_MM, TALLEST, SHORTEST = 3, 252, 33, 25


@dataclass(frozen=True, kw_only=True)
class TicketSheet:
    """What stands above the cards. footer: who made it and when, and that it holds codes."""

    heading: str
    what: str
    klass: str
    address: str
    code: str
    footer: str


def door(address: str, session_code: str, own_code: str) -> str:
    return f"{address.rstrip('/')}/?{urlencode({'session': session_code, 'own': own_code})}"


Page = tuple[TicketSheet, Sequence[tuple[str, str]]]
"""A sheet and its students: name and sign-in code."""


def session_cards(pages: Sequence[Page], code_word: str = "Class") -> bytes:
    """PDF, A4, three cards a row; up to 30 students fit a page. Each class begins a new page."""
    import segno

    shown = []
    for sheet, students in pages:
        rows = max(1, -(-len(students) // COLUMNS))
        cards = [
            {
                "name": name,
                "own_code": own,
                "square": segno.make(door(sheet.address, sheet.code, own), error="m").svg_inline(
                    border=0, omitsize=True
                ),
            }
            for name, own in students
        ]
        shown.append({"sheet": sheet, "cards": cards, "height": max(SHORTEST, min(TALLEST, USABLE_MM // rows))})
    return _document("cards.html", shown, code_word)


def code_sheets(pages: Sequence[Page], code_word: str = "Class") -> bytes:
    """PDF, A4: a list of own codes a class, for the teacher's desk."""
    return _document(
        "codes.html", [{"sheet": sheet, "students": list(students)} for sheet, students in pages], code_word
    )


def _document(template: str, pages: list[dict[str, object]], code_word: str) -> bytes:
    from jinja2 import Environment, FileSystemLoader, StrictUndefined
    from weasyprint import HTML

    first = pages[0]["sheet"]
    assert isinstance(first, TicketSheet)
    environment = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined)
    html = environment.get_template(template).render(
        pages=pages, title=first.heading, footer=first.footer, code_word=code_word
    )
    document: bytes = HTML(string=html, base_url=str(HERE) + "/").write_pdf()
    return document
