"""Where every mark of an answer sheet stands, in millimetres: one geometry for whoever prints and whoever reads it.

Four black squares at the corners tell a reader how the sheet lies; a square code names form, student and page; each
choice is a bubble of its own. Answers that are no choice have a line to be read by a person.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bildung.core.errors import Refused

PAPER = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
CORNER, INSET = 5.0, 8.0  # side of a corner square, and how far from the edge
TOP, BOTTOM, SIDE = 56.0, 20.0, 18.0
ROW, PITCH, RADIUS, NUMBER = 7.4, 7.2, 2.4, 11.0
COLUMNS, GAP = 3, 6.0
LINE = 2  # rows that a written answer takes


@dataclass(frozen=True)
class Asked:
    """One part of a question. label: its number, with a letter where an item has several parts. options: ids in the
    order the booklet shows them; none where the answer is written. question: whatever the maker knows it by."""

    question: int
    part: str
    label: str
    options: tuple[str, ...] = ()


@dataclass(frozen=True)
class Bubble:
    """x, y: its middle, from the page's top left, in mm. letter: printed in it; option: what it stands for."""

    question: int
    part: str
    option: str
    letter: str
    x: float
    y: float


@dataclass(frozen=True)
class Line:
    """A line to write on, from x to to at y."""

    question: int
    part: str
    x: float
    to: float
    y: float


@dataclass(frozen=True)
class Label:
    text: str
    x: float
    y: float


@dataclass(frozen=True)
class SheetPage:
    bubbles: tuple[Bubble, ...]
    lines: tuple[Line, ...]
    labels: tuple[Label, ...]


@dataclass(frozen=True)
class AnswerSheet:
    """width, height: mm. corners: middle of each corner square, from the top left on with the clock."""

    width: float
    height: float
    corners: tuple[tuple[float, float], ...]
    pages: tuple[SheetPage, ...]


def lay_out(asked: Sequence[Asked], paper: str = "A4") -> AnswerSheet:
    """Down the first column, then the next; as many pages as it takes. Refused for a paper that is not known."""
    if paper not in PAPER:
        raise Refused(f"paper is one of {', '.join(PAPER)}")
    width, height = PAPER[paper]
    wide = (width - 2 * SIDE - (COLUMNS - 1) * GAP) / COLUMNS
    across = int((wide - NUMBER) // PITCH)
    rows = int((height - TOP - BOTTOM) // ROW)
    pages: list[SheetPage] = []
    bubbles: list[Bubble] = []
    lines: list[Line] = []
    labels: list[Label] = []
    column = at = 0
    for one in asked:
        needs = max(1, -(-len(one.options) // across)) if one.options else LINE
        if at + needs > rows:
            column, at = column + 1, 0
        if column == COLUMNS:
            pages.append(SheetPage(tuple(bubbles), tuple(lines), tuple(labels)))
            bubbles, lines, labels, column = [], [], [], 0
        x = SIDE + column * (wide + GAP)
        y = TOP + (at + 0.5) * ROW
        labels.append(Label(one.label, x, y))
        for n, option in enumerate(one.options):
            bubbles.append(
                Bubble(
                    one.question, one.part, option, chr(65 + n), x + NUMBER + (n % across + 0.5) * PITCH, y + n // across * ROW
                )
            )  # fmt: skip
        if not one.options:
            lines.append(Line(one.question, one.part, x + NUMBER, x + wide, y + (LINE - 1) * ROW))
        at += needs
    pages.append(SheetPage(tuple(bubbles), tuple(lines), tuple(labels)))
    near, far_x, far_y = INSET + CORNER / 2, width - INSET - CORNER / 2, height - INSET - CORNER / 2
    return AnswerSheet(width, height, ((near, near), (far_x, near), (far_x, far_y), (near, far_y)), tuple(pages))
