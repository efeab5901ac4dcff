"""Answers as they are typed off paper: letters of the options as the form prints them, numbers and words as they stand there."""

from __future__ import annotations

import json
from typing import Literal

from bildung.core.errors import Refused
from bildung.formats.answers import unfit
from bildung.formats.content import AnyPart, ChoicePart, EntryPart, LinePart, MenuPart, OrderPart, Shown, WritingPart

Way = Literal["letter", "letters", "order", "text", "none"]


def way_of(shown: Shown) -> Way:
    """How an answer to a question is typed: one letter, several, all in order, text; none where it cannot be."""
    first = shown.parts[0]
    # a choice with a reason is scored by the choice; its reason stays on paper
    if len(shown.parts) > 1 and not _with_reason(shown):
        return "none"
    if isinstance(first, ChoicePart):
        return "letter" if first.most == 1 else "letters"
    if isinstance(first, MenuPart):
        return "letter"
    if isinstance(first, OrderPart):
        return "order"
    return "text" if isinstance(first, EntryPart | LinePart | WritingPart) else "none"


def letters_of(shown: Shown) -> str:
    """Letters that the form prints before the options, in their order."""
    return "".join(chr(65 + at) for at in range(len(_options(shown.parts[0]))))


def from_typed(shown: Shown, typed: str) -> str:
    """The answer as a device would send it; empty for nothing. shown: as the form shows it. Refused where it is none."""
    text = typed.strip()
    if not text:
        return ""
    way, options = way_of(shown), _options(shown.parts[0])
    if way == "none":
        raise Refused("an answer to this question cannot be typed")
    answer = text
    if way in ("letter", "letters", "order"):
        letters = [sign for sign in text.upper() if sign not in " ,;+>"]
        known = letters_of(shown)
        strange = next((sign for sign in letters if sign not in known), None)
        if strange is not None:
            raise Refused(f"{strange} is none of the letters {known}")
        if way == "letter" and len(letters) != 1:
            raise Refused(f"one of the letters {known}, not {text}")
        chosen = [options[known.index(sign)] for sign in letters]
        if way == "letters":
            chosen = [id for id in options if id in chosen]
        answer = (">" if way == "order" else "+").join(chosen)
    why = unfit(shown.model_copy(update={"parts": shown.parts[:1]}), answer)
    if why:
        raise Refused(why)
    return json.dumps({shown.parts[0].id: answer}) if len(shown.parts) > 1 else answer


def to_typed(shown: Shown, answer: str) -> str:
    """As it would be typed off the same paper; empty for nothing, or what cannot be."""
    if not answer or way_of(shown) == "none":
        return ""
    if len(shown.parts) > 1:
        found = json.loads(answer)
        answer = str(found.get(shown.parts[0].id, ""))
    way, options = way_of(shown), _options(shown.parts[0])
    if way == "text":
        return answer
    letters = {id: chr(65 + at) for at, id in enumerate(options)}
    return "".join(letters.get(id.strip(), "") for id in answer.replace("+", ">").split(">"))


def _options(part: AnyPart) -> list[str]:
    return [option.id for option in part.options] if isinstance(part, ChoicePart | MenuPart | OrderPart) else []


def _with_reason(shown: Shown) -> bool:
    return len(shown.parts) == 2 and isinstance(shown.parts[0], ChoicePart) and isinstance(shown.parts[1], WritingPart)
