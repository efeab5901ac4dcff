"""Letters to families: results of one test, a page a household."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from bildung.reports.document import Size

HERE = Path(__file__).parent


@dataclass(frozen=True, kw_only=True)
class LetterChild:
    """sentence: the result. standards: what is taught, and points as they are read. corrected: a date, or empty."""

    name: str
    sentence: str
    standards: Sequence[tuple[str, str]]
    comments: Sequence[str]
    corrected: str


@dataclass(frozen=True, kw_only=True)
class Letter:
    """To one household."""

    school: str
    homeroom: str
    children: Sequence[LetterChild]


@dataclass(frozen=True, kw_only=True)
class Letters:
    """title: the test. close: the last line of each. foot: who made them and when."""

    title: str
    date: str
    close: str
    foot: str
    letters: Sequence[Letter]


def letters_document(content: Letters, size: Size = "Letter") -> bytes:
    """PDF, in the order given."""
    from jinja2 import Environment, FileSystemLoader, StrictUndefined
    from weasyprint import HTML

    environment = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined)
    html = environment.get_template("letters.html").render(l=content, size=size)
    document: bytes = HTML(string=html, base_url=str(HERE) + "/").write_pdf()
    return document
