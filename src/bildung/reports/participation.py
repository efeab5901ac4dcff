"""Participation of a window on one page, for a board."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

HERE = Path(__file__).parent


@dataclass(frozen=True, kw_only=True)
class ParticipationPrint:
    """What stands on the page. tables: a name with rows of cells, the last row being the total."""

    district: str
    title: str
    dates: str
    finding: str
    columns: list[str]
    tables: list[tuple[str, list[list[str]]]]
    untested: list[str]
    made: str


def participation_document(content: ParticipationPrint) -> bytes:
    """PDF, US Letter."""
    from jinja2 import Environment, FileSystemLoader, StrictUndefined
    from weasyprint import HTML

    environment = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined)
    html = environment.get_template("participation.html").render(p=content)
    document: bytes = HTML(string=html, base_url=str(HERE) + "/").write_pdf()
    return document
