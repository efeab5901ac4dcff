"""A test on paper: booklet, worksheet, answer sheets, key, scoring guide. PDF, A4 or Letter."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

from bildung.core.items.answersheet import (
    ACROSS,
    CORNER,
    SIGN_PITCH,
    SQUARE,
    UP,
    AnswerSheet,
    SheetItem,
    SquareCode,
    elsewhere,
    how_to_fill,
    lay_out,
    write_square,
)
from bildung.formats.content import Content, PartScoring, Shown
from bildung.reports import printed
from bildung.reports.printed import Pictures

HERE = Path(__file__).parent
Paper = Literal["A4", "Letter"]
ON_SHEET = ("choice", "menu", "entry")
LONG = 1600  # signs from which a passage may run over a page


@dataclass(frozen=True)
class PrintedStimulus:
    key: str
    title: str
    html: str
    credit: str


@dataclass(frozen=True, kw_only=True)
class PrintedQuestion:
    """content: shown as the form shows it. right: the answer in a line, as HTML."""

    id: int
    number: int
    code: str
    standard: str
    part: int
    content: Content
    points: float
    right: str
    stimulus: PrintedStimulus | None = None


@dataclass(frozen=True, kw_only=True)
class PrintedTest:
    """name: among staff; title: on everything that students hold. mark: a short sign that tells companion forms apart
    and says nothing to students. parts: name and instructions."""

    name: str
    title: str
    mark: str
    minutes: int | None
    questions: Sequence[PrintedQuestion]
    parts: Sequence[tuple[str, str]] = ()
    pictures: Pictures = field(default_factory=dict)


@dataclass(frozen=True)
class Holder:
    """Whose answer sheet it is. code: their own; empty: nobody's yet, with places for the code. session: its code."""

    name: str
    klass: str
    code: str
    session: str


@dataclass(frozen=True)
class CodeKind:
    """Of which signs a student's code is, and how many."""

    alphabet: str
    length: int


def booklet(test: PrintedTest, paper: Paper = "A4", large: bool = False, sheet: bool = True) -> bytes:
    """The questions. sheet: answers go on an answer sheet; otherwise there are boxes and lines in the booklet."""
    return _questions(test, paper, large, sheet, 0)


def worksheet(test: PrintedTest, paper: Paper = "A4", large: bool = False) -> bytes:
    """The questions with boxes to tick and room for working."""
    return _questions(test, paper, large, False, 5)


def _questions(test: PrintedTest, paper: Paper, large: bool, sheet: bool, working: int) -> bytes:
    blocks: list[dict[str, Any]] = []
    part, stimulus = -1, ""
    for q in test.questions:
        if test.parts and q.part != part:
            part = q.part
            name, instructions = test.parts[part] if part < len(test.parts) else ("", "")
            blocks.append({"kind": "part", "name": name, "instructions": instructions})
        if q.stimulus is not None and q.stimulus.key != stimulus:
            body = printed.text(q.stimulus.html, test.pictures)
            blocks.append(
                {
                    "kind": "stimulus",
                    "title": q.stimulus.title,
                    "html": body,
                    "credit": q.stimulus.credit,
                    "long": len(q.stimulus.html) > LONG,
                }
            )
        stimulus = q.stimulus.key if q.stimulus is not None else ""
        room = working if _needs_room(q.content.shown) else 0
        blocks.append(
            {
                "kind": "question",
                "number": q.number,
                "html": printed.question(q.content.shown, test.pictures, sheet, room),
            }
        )
    points = sum(q.points for q in test.questions)
    lead = f"{len(test.questions)} questions, {points:g} points" + (f", {test.minutes} minutes" if test.minutes else "")
    here = any(_in_booklet(q.content.shown) for q in test.questions)
    lead += (
        ". Mark your answers on the answer sheet" + ("; where there is room in this booklet, here." if here else ".")
        if sheet
        else ""
    )
    foot = f"{test.title}  {test.mark}".strip()
    return _document(
        "booklet.html", paper, large, title=test.title, lead=lead, foot=foot, blocks=blocks, named=not sheet
    )


def _in_booklet(shown: Shown) -> bool:
    return any(part.type not in ON_SHEET for part in shown.parts)


def _needs_room(shown: Shown) -> bool:
    return not any(part.type in ("writing", "hot_text", "match", "order") for part in shown.parts)


def key(test: PrintedTest, paper: Paper = "A4") -> bytes:
    """Right answers with solutions, in the order and the letters of this form."""
    rows = [
        {
            "number": q.number,
            "code": q.code,
            "standard": q.standard,
            "right": printed.text(lettered(q), test.pictures),
            "points": f"{q.points:g}",
            "solution": printed.text(q.content.behind.solution, test.pictures),
        }
        for q in test.questions
    ]
    points = sum(q.points for q in test.questions)
    return _document(
        "key.html",
        paper,
        False,
        title=f"Key: {test.name}",
        foot=f"Key, {test.name}: not for students",
        rows=rows,
        lead=f"{len(test.questions)} questions, {points:g} points. Booklets of this form are marked {test.mark}."
        if test.mark
        else f"{len(test.questions)} questions, {points:g} points.",
        solutions=any(row["solution"] for row in rows),
    )


def lettered(q: PrintedQuestion) -> str:
    """The right answer as HTML, choices by the letters that this form prints."""
    said = []
    for part, scoring in zip(q.content.shown.parts, q.content.scoring, strict=True):
        if part.type in ("choice", "menu") and scoring.key:
            keys = {k.strip() for k in scoring.key.replace("+", "|").split("|")}
            said.append(" + ".join(f"<b>{chr(65 + n)}</b>" for n, o in enumerate(part.options) if o.id in keys))
        elif part.type == "order":
            names = {o.id: o.html for o in part.options}
            said.append(" → ".join(names.get(id.strip(), "") for id in scoring.key.split(">")))
        elif part.type == "match":
            rows, columns = ({o.id: o.html for o in found} for found in (part.rows, part.columns))
            pairs = (pair.partition("=") for pair in scoring.key.split(";") if pair)
            said.append("; ".join(f"{rows.get(a.strip(), a)}: {columns.get(b.strip(), b)}" for a, _, b in pairs))
        elif part.type in ("entry", "line"):
            value, _, near = scoring.key.partition("~")
            said.append(
                " or ".join(value.split("|"))
                + (f" ± {near}" if near else "")
                + (f" {part.unit}" if part.type == "entry" and part.unit else "")
            )
        elif part.type == "hot_text":
            picked = {id.strip() for id in scoring.key.split("+")}
            said.append("; ".join(f"“{words}”" for id, words in printed.picks(part.text) if id in picked))
        elif part.type == "point":
            said.append("a point in the area that scores")
        elif part.type == "writing":
            said.append("by the scoring guide" if scoring.points else "not scored")
        else:
            said.append(scoring.key)
    return " · ".join(text for text in said if text) or q.right


def scoring_guide(test: PrintedTest, paper: Paper = "A4") -> bytes:
    """Rubrics with exemplars, for whoever marks by hand."""
    entries = [_guide(test, q, scoring) for q in test.questions for scoring in q.content.scoring if scoring.rubric]
    lead = (
        f"{len(entries)} {'answer is' if len(entries) == 1 else 'answers are'} hand-scored."
        if entries
        else "Everything on this form is auto-scored; there are no rubrics."
    )
    return _document(
        "guide.html",
        paper,
        False,
        title=f"Scoring guide: {test.name}",
        foot=f"Scoring guide, {test.name}: not for students",
        lead=lead,
        entries=entries,
    )


def _guide(test: PrintedTest, q: PrintedQuestion, scoring: PartScoring) -> dict[str, Any]:
    return {
        "number": q.number,
        "code": q.code,
        "points": f"{scoring.points:g}",
        "body": printed.text(q.content.shown.body, test.pictures),
        "rubric": [
            {"title": c.title, "levels": [{"points": f"{level.points:g}", "text": level.text} for level in c.levels]}
            for c in scoring.rubric
        ],
        "guidance": printed.text(q.content.behind.guidance, test.pictures),
        "exemplars": [
            {"points": " + ".join(f"{p:g}" for p in e.points), "answer": e.answer, "why": e.why}
            for e in scoring.exemplars
        ],
    }


def asked(questions: Sequence[PrintedQuestion]) -> list[SheetItem]:
    """What an answer sheet has a place for: each part, choices as lozenges, what is written as a line. Parts that are
    answered in the booklet itself (orders, pairs, marks in a text or picture, long writing) have none."""
    found = []
    for q in questions:
        parts = [p for p in q.content.shown.parts if p.type in ON_SHEET]
        for at, part in enumerate(parts):
            label = f"{q.number}{chr(97 + at) if len(parts) > 1 else ''}"
            options = tuple(o.id for o in part.options) if part.type in ("choice", "menu") else ()
            found.append(
                SheetItem(
                    question=q.id,
                    part=part.id,
                    label=label,
                    options=options,
                    most=part.most if part.type == "choice" else 1,
                )
            )
    return found


def not_on_sheet(questions: Sequence[PrintedQuestion]) -> list[str]:
    """Numbers of questions of which a part has no place on the sheet."""
    return [str(q.number) for q in questions if any(p.type not in ON_SHEET for p in q.content.shown.parts)]


def answer_sheets(
    tests: Mapping[int, PrintedTest], holders: Sequence[tuple[int, Holder]], codes: CodeKind, paper: Paper = "A4"
) -> bytes:
    """One sheet for each holder with the places of the form they sit. tests, and the first of each holder: by form."""
    import segno

    laid: dict[tuple[int, bool], AnswerSheet] = {}
    pages = []
    for form, holder in holders:
        test, blank = tests[form], not holder.code
        wanted = asked(test.questions)
        if (form, blank) not in laid:
            laid[form, blank] = lay_out(wanted, paper, *((codes.alphabet, codes.length) if blank else ()))
        sheet = laid[form, blank]
        for n, marks in enumerate(sheet.pages, 1):
            said = SquareCode(
                form=str(form),
                revision=sheet.revision,
                page=n,
                pages=len(sheet.pages),
                paper=paper,
                session=holder.session,
                student=holder.code,
            )
            square = segno.make(write_square(said), error="m", micro=False).svg_inline(border=0, omitsize=True)
            pages.append(
                {
                    "title": test.title,
                    "name": holder.name,
                    "klass": holder.klass,
                    "code": holder.code,
                    "square": square,
                    "marks": marks,
                    "how": how_to_fill(wanted),
                    "elsewhere": elsewhere(not_on_sheet(test.questions)),
                    "foot": f"{test.title}  {test.mark}".strip(),
                    "count": f"page {n} of {len(sheet.pages)} · layout {sheet.revision}",
                }
            )
    size = next(iter(laid.values()))
    return _document(
        "answers.html",
        paper,
        False,
        title="Answer sheets",
        pages=pages,
        width=size.width,
        height=size.height,
        corners=size.corners,
        squares=size.squares,
        corner=CORNER,
        across=ACROSS,
        up=UP,
        square=SQUARE,
        box=SIGN_PITCH - 0.8,
    )


def _document(template: str, paper: Paper, large: bool, **given: Any) -> bytes:
    from jinja2 import Environment, FileSystemLoader, StrictUndefined
    from weasyprint import HTML

    style = (HERE / "paper.css").read_text("utf-8").replace("PAPER", paper).replace("BODY", "18pt" if large else "11pt")
    if large:  # four short options beside one another would run into each other
        style += "\n.four .option { width: 49.5% }"
    environment = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined)
    text = environment.get_template(template).render(style=style, **given)
    document: bytes = HTML(string=text, base_url=str(HERE) + "/").write_pdf()
    return document
