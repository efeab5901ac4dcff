"""What keeps an item from being used."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from bildung.core.errors import Refused
from bildung.formats.content import (
    Content,
    EntryPart,
    HotTextPart,
    LinePart,
    MenuPart,
    Option,
    PartScoring,
    PointPart,
    Shown,
    WritingPart,
)
from bildung.formats.markup import bare_text, gaps_in, hot_words_in
from bildung.formats.scored import part_rule
from bildung.formats.tryout import tried


def faults(content: Content) -> list[tuple[str, str]]:
    """What keeps an item from being used: the place in words, and what is wanted there. Empty where it is whole."""
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
    """Whether there is anything to read: the text, a picture, a part's own question, a text with selectable phrases."""
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
            yield "an anchor paper has the points of one level of each criterion"
