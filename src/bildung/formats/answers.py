"""Whether an answer as a device sends it is one that its item can have; its points are another matter.

What passes here is never refused by the rule that scores it (tested), so that no analysis stumbles over an answer.
"""

from __future__ import annotations

import json
from typing import Any

from bildung.core.scoring.rules import exact_number
from bildung.formats.content import (
    AnyPart,
    ChoicePart,
    EntryPart,
    HotTextPart,
    LinePart,
    MatchPart,
    MenuPart,
    OrderPart,
    PointPart,
    Shown,
    WritingPart,
)
from bildung.formats.markup import hot_words_in

LONGEST_ENTRY = 200
LONGEST = 40_000


def unfit(shown: Shown, answer: str) -> str:
    """Why an answer cannot be kept, or nothing. An empty one takes the answer back and always fits."""
    if not answer:
        return ""
    if len(answer) > LONGEST:
        return f"an answer has at most {LONGEST} characters"
    if len(shown.parts) == 1:
        return part_unfit(shown.parts[0], answer)
    try:
        found: Any = json.loads(answer)
    except (ValueError, RecursionError):
        return "an answer of several parts is a JSON object from part to answer"
    parts = {part.id: part for part in shown.parts}
    if not isinstance(found, dict) or any(id not in parts or not isinstance(text, str) for id, text in found.items()):
        return f"an answer of several parts names parts {', '.join(parts)} only, each with a text"
    for id, text in found.items():
        why = part_unfit(parts[id], text) if text.strip() else ""
        if why:
            return f"part {id}: {why}"
    return ""


def part_unfit(part: AnyPart, answer: str) -> str:
    """As `unfit`, of one part."""
    if isinstance(part, WritingPart):
        return f"at most {part.longest} characters" if len(answer) > part.longest else ""
    if isinstance(part, EntryPart):
        return f"at most {LONGEST_ENTRY} characters" if len(answer) > LONGEST_ENTRY else ""
    if isinstance(part, ChoicePart | MenuPart):
        most = part.most if isinstance(part, ChoicePart) else 1
        return _several(answer, [o.id for o in part.options], most)
    if isinstance(part, HotTextPart):
        return _several(answer, hot_words_in(part.text), part.most)
    if isinstance(part, OrderPart):
        placed = [piece.strip() for piece in answer.split(">")]
        return "" if sorted(placed) == sorted(o.id for o in part.options) else "an order names each once"
    if isinstance(part, MatchPart):
        rows, columns, seen = {o.id for o in part.rows}, {o.id for o in part.columns}, set[str]()
        for piece in answer.split(";"):
            row, _, column = (p.strip() for p in piece.partition("="))
            if row not in rows or column not in columns or row in seen:
                return f"{piece.strip()[:30]!r} is no pair of this question"
            seen.add(row)
        return ""
    return _number_unfit(part, answer)


def _number_unfit(part: LinePart | PointPart, answer: str) -> str:
    if isinstance(part, LinePart):
        number = exact_number(answer)
        return "" if number is not None and part.low <= number <= part.high else "a number on the line"
    numbers = [exact_number(piece) for piece in answer.split()]
    if len(numbers) != 2:
        return "a point is two numbers"
    x, y = numbers
    inside = x is not None and y is not None and 0 <= x <= part.width and 0 <= y <= part.height
    return "" if inside else "a point on the picture"


def _several(answer: str, options: list[str], most: int) -> str:
    """most: 1 for one of several, 0 for any number."""
    chosen = [answer] if most == 1 else [piece.strip() for piece in answer.split("+")]
    strange = next((piece for piece in chosen if piece not in options), None)
    if strange is not None:
        return f"{strange[:10]!r} is not one of the choices"
    return f"at most {most} may be chosen" if most and len(set(chosen)) > most else ""


def in_words(shown: Shown, answer: str) -> tuple[str, str]:
    """An answer as staff read it, and the reason that was written beside it. One that is not of several parts stands as
    it is."""
    if len(shown.parts) == 1 or not answer:
        return answer, ""
    try:
        found = json.loads(answer)
    except ValueError:
        found = None
    if not isinstance(found, dict):
        return answer, ""
    reasons = [p.id for p in shown.parts if isinstance(p, WritingPart) and p.beside]
    rest = {id: text for id, text in found.items() if id not in reasons and text}
    alone = len(shown.parts) - len(reasons) == 1
    words = next(iter(rest.values()), "") if alone else ", ".join(f"{id}: {text}" for id, text in rest.items())
    return words, " ".join(str(found[id]) for id in reasons if found.get(id))
