"""How one form shows an item otherwise than the bank does: its options in another order, or fewer of them.

Answers still name options by the bank's ids, so that scoring and figures pool over all forms; a form letters them anew
by place.
"""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence

from bildung.core.scoring.rules import exact_number
from bildung.formats.content import AnyPart, ChoicePart, Content, MenuPart, Option, Shown
from bildung.formats.markup import bare_text

Face = dict[str, list[str]]
LEAST_OPTIONS = 2


def faced(shown: Shown, face: Mapping[str, Sequence[str]] | None) -> Shown:
    """What a student of the form sees. What the face does not name, or names wrongly, stays as the bank has it."""
    if not face:
        return shown
    parts: list[AnyPart] = []
    for part in shown.parts:
        wanted = face.get(part.id)
        if wanted and isinstance(part, ChoicePart | MenuPart):
            by_id = {o.id: o for o in part.options}
            options = [by_id[id] for id in dict.fromkeys(wanted) if id in by_id]
            if len(options) >= LEAST_OPTIONS:
                parts.append(part.model_copy(update={"options": options}))
                continue
        parts.append(part)
    return shown.model_copy(update={"parts": parts})


def shuffled(content: Content, rng: random.Random) -> Face:
    """Options in another order. Numbers that rise stay in order, only the other way round: a reader expects that."""
    face: Face = {}
    for part in content.shown.parts:
        if not isinstance(part, ChoicePart):
            continue
        ids = [o.id for o in part.options]
        if _rising(part.options):
            face[part.id] = ids[::-1]
            continue
        other = list(ids)
        for _ in range(20):
            rng.shuffle(other)
            if other != ids:
                break
        face[part.id] = other
    return face


def fewer(content: Content, keep: int, shares: Mapping[str, float]) -> Face:
    """At most `keep` options of each choice of one: the keys, and of the wrong ones those that most students chose.
    shares: of the students by option, empty where it was not used yet; then the first wrong ones stay."""
    face: Face = {}
    for part, scoring in zip(content.shown.parts, content.scoring, strict=True):
        if not isinstance(part, ChoicePart) or part.most != 1 or len(part.options) <= keep:
            continue
        keys = {k.strip() for k in scoring.key.split("|")} | {c.answer for c in scoring.credit if c.points > 0}
        ids = [o.id for o in part.options]
        wrong = sorted((id for id in ids if id not in keys), key=lambda id: (-shares.get(id, 0.0), ids.index(id)))
        stay = keys | set(wrong[: max(LEAST_OPTIONS, keep) - len(keys)])
        face[part.id] = [id for id in ids if id in stay]
    return face


def _rising(options: Sequence[Option]) -> bool:
    numbers = [exact_number(bare_text(o.html).replace(",", "").split(" ")[0]) for o in options]
    found = [n for n in numbers if n is not None]
    return len(found) == len(options) and (found == sorted(found) or found == sorted(found, reverse=True))
