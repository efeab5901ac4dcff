"""An item tried as a student does: the right answer can be given and earns all, nothing earns nothing.

Kept apart from the rules, so that a fault in how an item was written or imported is found before a student meets it.
"""

from __future__ import annotations

from collections.abc import Iterator

from bildung.core.errors import Refused
from bildung.core.scoring.arrangements import Area, read_areas
from bildung.core.scoring.rules import split_accepted
from bildung.formats.answers import part_unfit
from bildung.formats.content import (
    AnyPart,
    ChoicePart,
    EntryPart,
    HotTextPart,
    LinePart,
    MatchPart,
    OrderPart,
    PartScoring,
    PointPart,
    WritingPart,
)
from bildung.formats.scored import part_rule

ENOUGH = 1e-9


def answer_of_key(part: AnyPart, scoring: PartScoring) -> str:
    """An answer to one part that its key calls right, as a device would send it; empty where a person scores it."""
    key = scoring.key
    if isinstance(part, WritingPart):
        return ""
    if isinstance(part, HotTextPart) or (isinstance(part, ChoicePart) and part.most != 1):
        return "+".join(piece.strip() for piece in key.split("+") if piece.strip())
    if isinstance(part, MatchPart):
        pairs = (piece.partition("=") for piece in key.split(";") if piece.strip())
        return ";".join(f"{row.strip()}={_best_column(row.strip(), columns, scoring)}" for row, _, columns in pairs)
    if isinstance(part, OrderPart):
        return ">".join(piece.strip() for piece in key.split(">"))
    if isinstance(part, PointPart):
        return "{:g} {:g}".format(*_inside(read_areas(key)[0]))
    if isinstance(part, EntryPart) and not part.numeric:
        return next((text for text in split_accepted(key) if text), "")
    first = key.partition("~")[0].split("|")[0].strip()
    unit = (
        (scoring.units[0] if scoring.units else part.unit if isinstance(part, EntryPart) else "")
        if scoring.unit_needed
        else ""
    )
    return f"{first} {unit}".strip() if not isinstance(part, LinePart) else first


def _best_column(row: str, columns: str, scoring: PartScoring) -> str:
    worth = {c.answer: c.points for c in scoring.credit}
    named = [column.strip() for column in columns.split("|") if column.strip()]
    return max(named, key=lambda column: worth.get(f"{row}={column}", 0.0), default="")


def _inside(area: Area) -> tuple[float, float]:
    """A whole point within an area: its middle, or else a corner of it."""
    n = area.numbers
    if area.shape == "circle":
        return n[0], n[1]
    if area.shape == "rect":
        return (n[0] + n[2]) / 2, (n[1] + n[3]) / 2
    corners = list(zip(n[::2], n[1::2], strict=True))
    middle = (sum(x for x, _ in corners) / len(corners), sum(y for _, y in corners) / len(corners))
    halves = [
        ((corners[at - 1][0] + x + middle[0]) / 3, (corners[at - 1][1] + y + middle[1]) / 3)
        for at, (x, y) in enumerate(corners)
    ]
    return next((point for point in (middle, *halves) if area.holds(*point)), middle)


def tried(part: AnyPart, scoring: PartScoring) -> Iterator[str]:
    """What goes wrong when the part is answered by its own key; nothing where it works or a person scores it."""
    if isinstance(part, WritingPart) or not scoring.points:
        return
    try:
        answer, rule = answer_of_key(part, scoring), part_rule(part, scoring)
        if not answer:
            yield "the key is no answer that a student could give"
            return
        why = part_unfit(part, answer)
        if why:
            yield f"a student cannot give the answer of the key ({answer[:40]}): {why}"
            return
        earned = rule.points(rule.label(answer))
    except (Refused, ValueError, IndexError) as error:
        yield f"the answer of the key cannot be scored: {error}"
        return
    if abs(earned - scoring.points) > ENOUGH:
        yield f"the answer of the key earns {earned:g} of {scoring.points:g} points"
