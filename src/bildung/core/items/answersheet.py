"""Where every mark of an answer sheet stands, in millimeters: one geometry for whoever prints and whoever reads it.

Four rings at the corners, one of them filled, tell a reader how the sheet lies; a square code, printed twice, names who,
which form, which layout, which page and which paper. Each choice is a lozenge of its own. Answers that are no choice
have a line to be read by a person.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Sequence
from dataclasses import astuple, dataclass, field

from bildung.core.errors import Refused

PAPER = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
CORNER, INSET = 7.0, 7.0  # across a corner ring, and how far from the edge
TOP, BOTTOM, SIDE = 56.0, 38.0, 18.0
SQUARE = 22.0  # side of a square code with nothing around it
ROW, PITCH, NUMBER = 7.2, 7.2, 11.0
ACROSS, UP = 2.9, 2.4  # half of a lozenge's width and height
COLUMNS, GAP = 3, 6.0
LINE = 2  # rows that a written answer takes
SIGN_PITCH, SIGN_ROW = 7.6, 5.6  # of the places for a student's code
REVISION = 10  # signs of a layout's revision


@dataclass(frozen=True, kw_only=True)
class SheetItem:
    """One part of a question.

    Attributes
    ----------
    question : int
        Whatever the maker knows it by.
    part : str
        Its name.
    label : str
        Its number, with a letter where an item has several parts.
    options : tuple[str, ...]
        Ids in the order the booklet shows them; none where the answer is written.
    most : int
        How many may be filled, 0 for any number.
    """

    question: int
    part: str
    label: str
    options: tuple[str, ...] = ()
    most: int = 1


@dataclass(frozen=True, kw_only=True)
class Lozenge:
    """A place to be filled.

    Attributes
    ----------
    question : int
        Whatever the maker knows the question by.
    part : str
        Its part.
    option : str
        What it stands for.
    letter : str
        Printed in it.
    x : float
        Its middle, from the page's top left, in mm.
    y : float
        Its middle, from the page's top left, in mm.
    """

    question: int
    part: str
    option: str
    letter: str
    x: float
    y: float


@dataclass(frozen=True, kw_only=True)
class SheetLine:
    """A line to write on, from x to to at y."""

    question: int
    part: str
    x: float
    to: float
    y: float


@dataclass(frozen=True)
class SheetLabel:
    """A text on the sheet.

    Attributes
    ----------
    text : str
        What it says.
    x : float
        From the left, in mm.
    y : float
        From the top, in mm.
    """

    text: str
    x: float
    y: float


@dataclass(frozen=True)
class SignPlace:
    """A lozenge for one sign of a student's code. at: which sign of the code, from 0."""

    at: int
    sign: str
    x: float
    y: float


@dataclass(frozen=True, kw_only=True)
class SheetPage:
    """One page of a sheet.

    Attributes
    ----------
    lozenges : tuple[Lozenge, ...]
        Places to be filled.
    lines : tuple[SheetLine, ...]
        Lines to be written on.
    labels : tuple[SheetLabel, ...]
        Texts.
    signs : tuple[SignPlace, ...]
        Places for a student's code, on the first page of a sheet that is nobody's yet.
    boxes : tuple[tuple[float, float], ...]
        Middles of the boxes above them in which the code is written by hand.
    """

    lozenges: tuple[Lozenge, ...]
    lines: tuple[SheetLine, ...]
    labels: tuple[SheetLabel, ...]
    signs: tuple[SignPlace, ...] = ()
    boxes: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, kw_only=True)
class AnswerSheet:
    """A sheet laid out.

    Attributes
    ----------
    paper : str
        Its paper.
    width : float
        Mm.
    height : float
        Mm.
    corners : tuple[tuple[float, float], ...]
        Middle of each corner ring, from the top left on with the clock; the first is filled.
    squares : tuple[tuple[float, float], ...]
        Top left of each square code.
    pages : tuple[SheetPage, ...]
        Its pages.
    revision : str
        What a reader checks the form against, since a form that was changed afterwards has other places.
    """

    paper: str
    width: float
    height: float
    corners: tuple[tuple[float, float], ...]
    squares: tuple[tuple[float, float], ...]
    pages: tuple[SheetPage, ...]
    revision: str = field(default="")


@dataclass(frozen=True, kw_only=True)
class SquareCode:
    """What the square code of a page says.

    Attributes
    ----------
    form : str
        Its id.
    revision : str
        Of the form's layout.
    page : int
        From 1.
    pages : int
        How many.
    paper : str
        Its paper.
    session : str
        As typed on devices, empty on a sheet that is nobody's yet; student is then filled in on the first page.
    student : str
        As typed on devices, empty on a sheet that is nobody's yet; student is then filled in on the first page.
    """

    form: str
    revision: str
    page: int
    pages: int
    paper: str
    session: str = ""
    student: str = ""


_WHOSE = re.compile(r"[A-Z0-9-]*")
_SQUARE = re.compile(
    r"BILDUNG1/(?P<session>[A-Z0-9-]*)/(?P<student>[A-Z0-9-]*)/(?P<form>[0-9]+)/(?P<revision>[0-9A-F]{10})"
    r"/(?P<page>[0-9]{1,3})/(?P<pages>[0-9]{1,3})/(?P<paper>A4|LETTER)"
)


def write_square(code: SquareCode) -> str:
    """In signs that a square code holds closest: capitals, figures, a few marks."""
    if not (_WHOSE.fullmatch(code.session) and _WHOSE.fullmatch(code.student)):
        raise Refused("a code on a sheet holds capitals, figures and hyphens")
    return "/".join(
        [
            "BILDUNG1",
            code.session,
            code.student,
            code.form,
            code.revision,
            str(code.page),
            str(code.pages),
            code.paper.upper(),
        ]
    )


def read_square(text: str) -> SquareCode:
    """Refused where the text is none of these, with what it would be."""
    found = _SQUARE.fullmatch(text)
    if found is None or not 1 <= int(found["page"]) <= int(found["pages"]):
        raise Refused("the square code of an answer sheet begins with BILDUNG1 and names form, layout, page and paper")
    paper = next(p for p in PAPER if p.upper() == found["paper"])
    return SquareCode(
        form=found["form"],
        revision=found["revision"],
        page=int(found["page"]),
        pages=int(found["pages"]),
        paper=paper,
        session=found["session"],
        student=found["student"],
    )


def lay_out(asked: Sequence[SheetItem], paper: str = "A4", alphabet: str = "", length: int = 0) -> AnswerSheet:
    """Lay a sheet out down the first column, then the next; as many pages as it takes.

    Parameters
    ----------
    asked : Sequence[SheetItem]
        What is asked, in order.
    paper : str
        Its paper.
    alphabet : str
        Of a student's code, for a sheet that is nobody's yet: its places take the first column of the first page.
    length : int
        Of a student's code, for a sheet that is nobody's yet: its places take the first column of the first page.

    Returns
    -------
    AnswerSheet

    Raises
    ------
    Refused
        For a paper that is not known.
    """
    if paper not in PAPER:
        raise Refused(f"paper is one of {', '.join(PAPER)}")
    width, height = PAPER[paper]
    wide = (width - 2 * SIDE - (COLUMNS - 1) * GAP) / COLUMNS
    across = int((wide - NUMBER) // PITCH)
    rows = int((height - TOP - BOTTOM) // ROW)
    pages: list[SheetPage] = []
    lozenges: list[Lozenge] = []
    lines: list[SheetLine] = []
    labels: list[SheetLabel] = []
    signs, boxes = _code_places(alphabet, length)
    column, at = (1 if signs else 0), 0
    for one in asked:
        needs = max(1, -(-len(one.options) // across)) if one.options else LINE
        if at + needs > rows:
            column, at = column + 1, 0
        if column == COLUMNS:
            pages.append(
                SheetPage(lozenges=tuple(lozenges), lines=tuple(lines), labels=tuple(labels), signs=signs, boxes=boxes)
            )
            lozenges, lines, labels, column, signs, boxes = [], [], [], 0, (), ()
        x = SIDE + column * (wide + GAP)
        y = TOP + (at + 0.5) * ROW
        labels.append(SheetLabel(one.label, x, y))
        for n, option in enumerate(one.options):
            lozenges.append(
                Lozenge(
                    question=one.question,
                    part=one.part,
                    option=option,
                    letter=chr(65 + n),
                    x=x + NUMBER + (n % across + 0.5) * PITCH,
                    y=y + n // across * ROW,
                )
            )
        if not one.options:
            lines.append(
                SheetLine(question=one.question, part=one.part, x=x + NUMBER, to=x + wide, y=y + (LINE - 1) * ROW)
            )
        at += needs
    pages.append(
        SheetPage(lozenges=tuple(lozenges), lines=tuple(lines), labels=tuple(labels), signs=signs, boxes=boxes)
    )
    near, far_x, far_y = INSET + CORNER / 2, width - INSET - CORNER / 2, height - INSET - CORNER / 2
    squares = (width - SIDE - SQUARE, 16.0), (SIDE, height - 13.0 - SQUARE)
    corners = (near, near), (far_x, near), (far_x, far_y), (near, far_y)
    return AnswerSheet(
        paper=paper,
        width=width,
        height=height,
        corners=corners,
        squares=squares,
        pages=tuple(pages),
        revision=_revision(paper, pages),
    )


def _code_places(alphabet: str, length: int) -> tuple[tuple[SignPlace, ...], tuple[tuple[float, float], ...]]:
    if not alphabet or not length:
        return (), ()
    columns = [SIDE + (at + 0.5) * SIGN_PITCH for at in range(length)]
    first = TOP + ROW + SIGN_ROW
    signs = tuple(
        SignPlace(at, sign, x, first + n * SIGN_ROW) for at, x in enumerate(columns) for n, sign in enumerate(alphabet)
    )
    return signs, tuple((x, TOP + 0.5 * ROW) for x in columns)


def _revision(paper: str, pages: Sequence[SheetPage]) -> str:
    """Of everything that a reader must know: which place stands for which option of which question."""
    text = json.dumps([paper, [astuple(page) for page in pages]])
    return hashlib.sha256(text.encode()).hexdigest()[:REVISION].upper()


def how_to_fill(asked: Sequence[SheetItem]) -> str:
    """The line that tells students what to do, with the questions that take several answers named."""
    several = [one.label for one in asked if one.options and one.most != 1]
    choices = [one for one in asked if one.options]
    if not choices:
        return "Write each answer on its line."
    if len(several) == len(choices):
        text = "Fill every lozenge that is right, darkly."
    else:
        text = "Fill one lozenge darkly in each row"
        text += f"; in {_listed(several)} every one that is right." if several else "."
    return text + " To change an answer, rub it out. Leave the corner rings and the square codes free."


def elsewhere(labels: Sequence[str]) -> str:
    """What has no place on the sheet is said on it; empty where all has one."""
    if not labels:
        return ""
    word = "Question" if len(labels) == 1 else "Questions"
    return f"{word} {_listed(list(labels))}: answer in the booklet."


def _listed(labels: list[str]) -> str:
    return labels[0] if len(labels) == 1 else f"{', '.join(labels[:-1])} and {labels[-1]}"
