"""An item as it is kept and sent: what is shown, how it is scored, and what stands behind it.

Names follow the interactions of QTI: choice, text entry, extended text, inline choice, order, match, hot text, slider
(a number line), select point. What is shown (`Shown`) holds no key; what scores it (`PartScoring`) holds no text.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from bildung.core.errors import Refused
from bildung.formats.markup import safe_html

LONGEST_HTML = 40_000
PartId = Annotated[str, Field(pattern=r"^[A-Za-z0-9_]{1,12}$")]
Html = Annotated[str, Field(max_length=LONGEST_HTML)]
Line = Annotated[str, Field(max_length=400)]


class ContentModel(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Option(ContentModel):
    """One thing to choose, order or match. id: a letter for choices."""

    id: PartId
    html: Html


class Part(ContentModel):
    """prompt: the part's own question, where an item has several."""

    id: PartId = "1"
    prompt: Html = ""


class ChoicePart(Part):
    """most: how many may be chosen; 1 is one of several, 0 any number."""

    type: Literal["choice"] = "choice"
    options: list[Option] = Field(min_length=2, max_length=26)
    most: int = Field(default=1, ge=0, le=26)


class EntryPart(Part):
    """A line to write on. numeric: a number is asked for. inline: it stands in the text, where a gap names it."""

    type: Literal["entry"] = "entry"
    numeric: bool = False
    unit: Line = ""
    width: int = Field(default=12, ge=2, le=60)
    inline: bool = False


class MenuPart(Part):
    """One of several, chosen in the middle of the text."""

    type: Literal["menu"] = "menu"
    options: list[Option] = Field(min_length=2, max_length=26)


class OrderPart(Part):
    type: Literal["order"] = "order"
    options: list[Option] = Field(min_length=2, max_length=12)


class MatchPart(Part):
    """Each row to one column. sorted_into: shown as things to drag into categories, else as a table of pairs."""

    type: Literal["match"] = "match"
    rows: list[Option] = Field(min_length=1, max_length=20)
    columns: list[Option] = Field(min_length=2, max_length=12)
    sorted_into: bool = False


class HotTextPart(Part):
    """Words or sentences of a text to pick; each stands in the text between marks with its id."""

    type: Literal["hot_text"] = "hot_text"
    text: Html
    most: int = Field(default=0, ge=0, le=40)


class LinePart(Part):
    """A point on a number line from low to high. step: how finely it can be put; every: how far apart its ticks stand."""

    type: Literal["line"] = "line"
    low: float
    high: float
    step: float = Field(gt=0)
    every: float = Field(gt=0)


class PointPart(Part):
    """A point on a picture of width by height pixels."""

    type: Literal["point"] = "point"
    picture: Line
    told: Line
    width: int = Field(gt=0, le=4000)
    height: int = Field(gt=0, le=4000)


class WritingPart(Part):
    """Writing of some length. beside: the part whose answer it gives the reason for."""

    type: Literal["writing"] = "writing"
    lines: int = Field(default=6, ge=1, le=60)
    longest: int = Field(default=4000, ge=20, le=20_000)
    beside: str = ""


AnyPart = Annotated[
    ChoicePart | EntryPart | MenuPart | OrderPart | MatchPart | HotTextPart | LinePart | PointPart | WritingPart,
    Field(discriminator="type"),
]
Tool = Literal["counters", "tiles"]


class Shown(ContentModel):
    """What a student sees. body: the text, with `<span data-gap="id"></span>` where an inline part stands."""

    body: Html
    parts: list[AnyPart] = Field(min_length=1, max_length=12)
    tools: list[Tool] = []


class RubricLevel(ContentModel):
    points: float = Field(ge=0, le=100)
    text: Annotated[str, Field(max_length=2000)]


class Criterion(ContentModel):
    title: Line
    levels: list[RubricLevel] = Field(min_length=2, max_length=10)


class Exemplar(ContentModel):
    """An answer with the points it deserves, by criterion, and why."""

    answer: Annotated[str, Field(max_length=8000)]
    points: list[float]
    why: Line = ""


class Carried(ContentModel):
    """after: an answer to the part that this one needs. key: what is right here then."""

    after: Line
    key: Line


class Credit(ContentModel):
    """What one answer is worth by itself. answer: an option, an accepted answer, a pair `row=column`, or the place of an
    area in the key, from 1. Points may be negative for a wrong one of several."""

    answer: Line
    points: float = Field(ge=-100, le=100)


class PartScoring(ContentModel):
    """How one part is scored. key: as text, by the part's type (docs/items.md). points 0: kept, not scored. credit:
    answers with points of their own; where there is any, answers made of pieces earn the sum of their pieces' credit,
    kept between lowest and points."""

    id: PartId = "1"
    key: Annotated[str, Field(max_length=2000)] = ""
    points: float = Field(default=1.0, ge=0, le=100)
    partial: bool = False
    writing: Literal["any", "whole", "decimal", "fraction", "lowest"] = "any"
    units: list[Line] = []
    unit_needed: bool = False
    spelling: Literal["exact", "plain", "near"] = "plain"
    needs: str = ""
    carried: list[Carried] = []
    credit: list[Credit] = Field(default=[], max_length=400)
    lowest: float = Field(default=0.0, ge=0, le=100)
    rubric: list[Criterion] = []
    exemplars: list[Exemplar] = []


class Misconception(ContentModel):
    """What somebody thinks who gives this wrong answer. link: a standard or an address that helps."""

    part: PartId = "1"
    answer: Line
    note: Line
    link: Line = ""


class Behind(ContentModel):
    """What staff see: misconceptions, a worked solution, what scorers are told; hints in the order they are given."""

    misconceptions: list[Misconception] = []
    solution: Html = ""
    guidance: Html = ""
    hints: list[Html] = []


class Content(ContentModel):
    """All of an item that its author writes."""

    shown: Shown
    scoring: list[PartScoring]
    behind: Behind = Behind()


KINDS = {
    "choice": "choice",
    "multiple": "several choices",
    "numeric": "number",
    "text": "short text",
    "gap": "gaps",
    "inline_choice": "choice in the text",
    "order": "order",
    "match": "match",
    "category": "sort into categories",
    "hot_text": "pick in the text",
    "line": "number line",
    "point": "point on a picture",
    "writing": "writing",
    "reason": "choice with a reason",
    "two_part": "two parts",
    "several": "several parts",
}


def kind_of(shown: Shown, scoring: list[PartScoring]) -> str:
    """The one word an item is listed under."""
    parts = shown.parts
    if len(parts) == 1:
        return part_kind(parts[0])
    if len(parts) == 2 and isinstance(parts[1], WritingPart) and parts[1].beside:
        return "reason"
    if all(isinstance(p, EntryPart) and p.inline for p in parts):
        return "gap"
    if all(isinstance(p, MenuPart) for p in parts):
        return "inline_choice"
    if len(parts) == 2 and any(s.needs for s in scoring):
        return "two_part"
    return "several"


def part_kind(part: Any) -> str:
    if isinstance(part, ChoicePart):
        return "choice" if part.most == 1 else "multiple"
    if isinstance(part, EntryPart):
        return "gap" if part.inline else "numeric" if part.numeric else "text"
    if isinstance(part, MatchPart):
        return "category" if part.sorted_into else "match"
    return {"menu": "inline_choice", "hot_text": "hot_text"}.get(part.type, str(part.type))


def htmls(content: Content) -> Iterator[str]:
    """Every formatted text of an item."""
    shown = content.shown
    yield shown.body
    for part in shown.parts:
        yield part.prompt
        if isinstance(part, HotTextPart):
            yield part.text
        if isinstance(part, ChoicePart | MenuPart | OrderPart):
            yield from (o.html for o in part.options)
        if isinstance(part, MatchPart):
            yield from (o.html for o in (*part.rows, *part.columns))
    yield content.behind.solution
    yield content.behind.guidance
    yield from content.behind.hints


def cleaned(content: Content) -> Content:
    """The same with every formatted text made safe."""

    def options(found: list[Option]) -> list[Option]:
        return [o.model_copy(update={"html": safe_html(o.html)}) for o in found]

    return content.model_copy(
        update={
            "shown": cleaned_shown(content.shown),
            "behind": content.behind.model_copy(
                update={
                    "solution": safe_html(content.behind.solution),
                    "guidance": safe_html(content.behind.guidance),
                    "hints": [safe_html(h) for h in content.behind.hints],
                }
            ),
        }
    )


def cleaned_shown(shown: Shown) -> Shown:
    parts = []
    for part in shown.parts:
        found: dict[str, Any] = {"prompt": safe_html(part.prompt)}
        for name in ("options", "rows", "columns"):
            if hasattr(part, name):
                found[name] = [o.model_copy(update={"html": safe_html(o.html)}) for o in getattr(part, name)]
        if isinstance(part, HotTextPart):
            found["text"] = safe_html(part.text)
        parts.append(part.model_copy(update=found))
    return shown.model_copy(update={"body": safe_html(shown.body), "parts": parts})


_ADAPTER = TypeAdapter(Content)


def read_content(value: Any) -> Content:
    """A content from its JSON; Refused with the first place that does not fit."""
    try:
        return _ADAPTER.validate_python(value)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        place = ".".join(str(p) for p in first["loc"])
        raise Refused(f"{place}: {re.sub(r'^Value error, ', '', first['msg'])}") from None
