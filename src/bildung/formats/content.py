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
from bildung.formats.markup import bare_text, gaps_in, hot_words_in, safe_html

LONGEST_HTML = 40_000
PartId = Annotated[str, Field(pattern=r"^[A-Za-z0-9_]{1,12}$")]
Html = Annotated[str, Field(max_length=LONGEST_HTML)]
Line = Annotated[str, Field(max_length=400)]


class Kept(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Option(Kept):
    """One thing to choose, order or match. id: a letter for choices."""

    id: PartId
    html: Html


class Part(Kept):
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


class Shown(Kept):
    """What a student sees. body: the text, with `<span data-gap="id"></span>` where an inline part stands."""

    body: Html
    parts: list[AnyPart] = Field(min_length=1, max_length=12)
    tools: list[Tool] = []


class RubricLevel(Kept):
    points: float = Field(ge=0, le=100)
    text: Annotated[str, Field(max_length=2000)]


class Criterion(Kept):
    title: Line
    levels: list[RubricLevel] = Field(min_length=2, max_length=10)


class Exemplar(Kept):
    """An answer with the points it deserves, by criterion, and why."""

    answer: Annotated[str, Field(max_length=8000)]
    points: list[float]
    why: Line = ""


class Carried(Kept):
    """after: an answer to the part that this one needs. key: what is right here then."""

    after: Line
    key: Line


class Credit(Kept):
    """What one answer is worth by itself. answer: an option, an accepted answer, a pair `row=column`, or the place of an
    area in the key, from 1. Points may be negative for a wrong one of several."""

    answer: Line
    points: float = Field(ge=-100, le=100)


class PartScoring(Kept):
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


class Misconception(Kept):
    """What somebody thinks who gives this wrong answer. link: a standard or an address that helps."""

    part: PartId = "1"
    answer: Line
    note: Line
    link: Line = ""


class Behind(Kept):
    """What staff see: misconceptions, a worked solution, what scorers are told; hints in the order they are given."""

    misconceptions: list[Misconception] = []
    solution: Html = ""
    guidance: Html = ""
    hints: list[Html] = []


class Content(Kept):
    """All of an item that its author writes."""

    shown: Shown
    scoring: list[PartScoring]
    behind: Behind = Behind()


KINDS = {
    "choice": "choice", "multiple": "several choices", "numeric": "number", "text": "short text", "gap": "gaps",
    "inline_choice": "choice in the text", "order": "order", "match": "match", "category": "sort into categories",
    "hot_text": "pick in the text", "line": "number line", "point": "point on a picture", "writing": "writing",
    "reason": "choice with a reason", "two_part": "two parts", "several": "several parts",
}  # fmt: skip


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


def faults(content: Content) -> list[tuple[str, str]]:
    """What keeps an item from being used: the place in words, and what is wanted there. Empty where it is whole."""
    from bildung.formats.scored import part_rule
    from bildung.formats.tryout import tried

    shown = content.shown
    found: list[tuple[str, str]] = []
    ids = [part.id for part in shown.parts]
    if len(set(ids)) != len(ids):
        found.append(("parts", "each part has its own name"))
    if [s.id for s in content.scoring] != ids:
        found.append(("scoring", f"it names the parts in their order: {', '.join(ids)}"))
        return found
    if not _asks_something(shown):
        found.append(("text", "a question needs some text"))
    gaps = gaps_in(shown.body)
    inline = [p.id for p in shown.parts if isinstance(p, MenuPart) or (isinstance(p, EntryPart) and p.inline)]
    found += [(f"part {id}", "it stands in the text once, as a gap") for id in inline if gaps.count(id) != 1]
    found += [("text", f"gap {id} has no part of its own") for id in dict.fromkeys(gaps) if id not in inline]
    for at, (part, scoring) in enumerate(zip(shown.parts, content.scoring, strict=True)):
        place = "answer" if len(ids) == 1 else f"part {part.id}"
        found += [(place, why) for why in _part_faults(part)]
        if isinstance(part, WritingPart) and part.beside and part.beside not in ids[:at]:
            found.append((place, "a reason stands beside a part before it"))
        if scoring.needs and scoring.needs not in ids[:at]:
            found.append((place, "it can hang on a part before it only"))
        if (scoring.carried and not scoring.needs) or len({c.after for c in scoring.carried}) != len(scoring.carried):
            found.append((place, "an answer carried on names the part it needs, and each answer once"))
        try:
            part_rule(part, scoring)
        except Refused as error:
            found.append((place, str(error)))
        else:
            found += [(place, why) for why in tried(part, scoring)]
        if isinstance(part, WritingPart) and scoring.points:
            found += [(place, why) for why in _rubric_faults(scoring)]
    if not any(s.points for s in content.scoring):
        found.append(("points", "at least one part earns points"))
    for note in content.behind.misconceptions:
        if note.part not in ids:
            found.append(("misconceptions", f"there is no part {note.part}"))
    return found


def _asks_something(shown: Shown) -> bool:
    """Whether there is anything to read: the text, a picture, a part's own question, a text to pick in."""
    texts = [shown.body, *(p.prompt for p in shown.parts), *(p.text for p in shown.parts if isinstance(p, HotTextPart))]
    return any(bare_text(text) or "<img" in text for text in texts)


def _part_faults(part: Any) -> Iterator[str]:
    for name in ("options", "rows", "columns"):
        options: list[Option] = getattr(part, name, [])
        if len({o.id for o in options}) != len(options):
            yield f"two {name} have the same name"
        texts = [_same(o.html) for o in options]
        if "" in texts:
            yield f"one of the {name} is empty"
        elif len(set(texts)) != len(texts):
            yield f"two {name} say the same"
    if isinstance(part, HotTextPart):
        words = hot_words_in(part.text)
        if len(words) < 2 or len(set(words)) != len(words):
            yield "mark at least two pieces of the text to pick from, each once"
    if isinstance(part, LinePart):
        if not part.low < part.high:
            yield "a number line runs from low to high"
        elif part.step > part.high - part.low or (part.high - part.low) / part.step > 1000:
            yield "a number line has 1 to 1000 steps"
        elif (part.high - part.low) / part.every > 50:
            yield "a number line has at most 50 ticks"
    if isinstance(part, PointPart) and not part.told.strip():
        yield "the picture needs words for who cannot see it"


def _same(html: str) -> str:
    """What two options must not share. Pictures and formulas count by their markup."""
    return html.strip() if "<img" in html or "<math" in html else bare_text(html).casefold()


def _rubric_faults(scoring: PartScoring) -> Iterator[str]:
    if not scoring.rubric:
        yield "writing that earns points needs a rubric of at least one criterion"
        return
    most = sum(max(level.points for level in criterion.levels) for criterion in scoring.rubric)
    if abs(most - scoring.points) > 1e-9:
        yield f"the criteria add up to {most:g} points, the part has {scoring.points:g}"
    for criterion in scoring.rubric:
        if not criterion.title.strip() or len({level.points for level in criterion.levels}) < len(criterion.levels):
            yield "each criterion has a title, and each of its levels other points"
    for exemplar in scoring.exemplars:
        allowed = [{level.points for level in criterion.levels} for criterion in scoring.rubric]
        if len(exemplar.points) != len(allowed) or any(
            p not in a for p, a in zip(exemplar.points, allowed, strict=True)
        ):
            yield "an exemplar has the points of one level of each criterion"


_ADAPTER = TypeAdapter(Content)


def read_content(value: Any) -> Content:
    """A content from its JSON; Refused with the first place that does not fit."""
    try:
        return _ADAPTER.validate_python(value)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        place = ".".join(str(p) for p in first["loc"])
        raise Refused(f"{place}: {re.sub(r'^Value error, ', '', first['msg'])}") from None
