"""Made-up answers to items of any kind: the right one, and wrong ones that such an item allows."""

from __future__ import annotations

import json
import random

from bildung.core.scoring.arrangements import read_areas
from bildung.formats.content import (
    AnyPart,
    ChoicePart,
    Content,
    EntryPart,
    HotTextPart,
    LinePart,
    MatchPart,
    MenuPart,
    OrderPart,
    PartScoring,
    PointPart,
    WritingPart,
)
from bildung.formats.markup import hot_words_in

BODIES = ("prism", "pyramid", "cylinder", "cone", "ball", "circle")
REASONS = ("I worked it out.", "It looked right.", "I tried the others first.", "Because it is the bigger part.")


def right_answer(content: Content, rng: random.Random) -> str:
    """One that earns all points that need no person."""
    return _all(content, [_right(part, s, rng) for part, s in zip(content.shown.parts, content.scoring, strict=True)])


def wrong_answer(content: Content, rng: random.Random) -> str:
    """One that is not right in any part; a noted misconception where there is one, two times of three."""
    found = []
    for part, scoring in zip(content.shown.parts, content.scoring, strict=True):
        noted = [m.answer for m in content.behind.misconceptions if m.part == part.id]
        found.append(rng.choice(noted) if noted and rng.random() < 0.67 else _wrong(part, scoring, rng))
    return _all(content, found)


def _all(content: Content, answers: list[str]) -> str:
    if len(answers) == 1:
        return answers[0]
    return json.dumps({p.id: a for p, a in zip(content.shown.parts, answers, strict=True) if a})


def _written(scoring: PartScoring, full: bool, rng: random.Random) -> str:
    """As students write who have read the text: what the exemplar says in other words and with slips, or part of it. Takes from
    the one stream of numbers what a reason takes, so that everything made after it stays as it is."""
    reason, place = rng.choice(REASONS), rng.getstate()[1]
    if not scoring.exemplars:
        return reason
    exemplar = scoring.exemplars[0].answer
    side = random.Random(f"{exemplar} {place[-1]} {place[0]}")
    first, _, end = exemplar.partition("In the end: ")
    first, end = first.strip(), end.strip()
    claim, sign, because = next(
        ((c, s, b) for s in (", because ", ", since ") for c, d, b in [first.partition(s)] if d),
        (first.rstrip("."), "", ""),
    )
    if full:
        text = side.choice(
            (
                f"{first} {end}",
                f"{claim}. I know it since {because or 'the text says so.'} {end}",
                f"At the end it says: {end} And {first[:1].lower()}{first[1:]}",
                f"{first} Then {end[:1].lower()}{end[1:]}",
            )
        )
    else:
        text = side.choice(
            (
                f"{claim}.",
                end or f"{claim}.",
                f"{claim} because they wanted to.",
                f"I think {claim[:1].lower()}{claim[1:]}.",
                "I do not know, I did not finish the text.",
                f"It was a good story. {end}",
            )
        )
    return _slip(text, side) if sign and side.random() < 0.4 else text


def in_own_words(text: str, seed: str) -> str:
    """What one student makes of a sentence that many write: another beginning or end, a slip; the same for the same seed."""
    side = random.Random(seed)
    begin = side.choice(("", "", "", "I think that ", "In my words: ", "The text shows that ", "My answer is that "))
    end = side.choice(("", "", "", " That is what I think.", " It says so in the text.", " You can see it at the end."))
    if begin.endswith("that ") and text[:2] != "I ":
        text = f"{text[:1].lower()}{text[1:]}"
    text = f"{begin}{text}{end}"
    if side.random() < 0.3:
        text = _slip(text, side)
    return text if side.random() < 0.8 else text.rstrip(".").lower()


def _slip(text: str, side: random.Random) -> str:
    """One of the words as a child may spell it."""
    slips = {"because": "becuase", "their": "there", "came": "comed", "They": "they", "asked": "askt", "would": "woud"}
    found = [word for word in slips if f"{word} " in text]
    if not found:
        return text.replace(",", "", 1)
    word = side.choice(found)
    return text.replace(f"{word} ", f"{slips[word]} ", 1)


def _right(part: AnyPart, scoring: PartScoring, rng: random.Random) -> str:
    key = scoring.key.partition("~")[0] if isinstance(part, LinePart | EntryPart) else scoring.key
    if isinstance(part, WritingPart):
        return _written(scoring, True, rng)
    if isinstance(part, PointPart):
        n = read_areas(scoring.key)[0].numbers
        x, y = (n[0], n[1]) if len(n) == 3 else ((n[0] + n[2]) / 2, (n[1] + n[3]) / 2)
        return f"{x:.0f} {y:.0f}"
    if isinstance(part, LinePart):
        top, _, bottom = key.partition("/")
        steps = round((float(top) / float(bottom or 1) - part.low) / part.step)
        return f"{part.low + steps * part.step:.6f}".rstrip("0").rstrip(".")
    if isinstance(part, MatchPart):
        return ";".join(
            f"{row}={columns.split('|')[0]}" for row, _, columns in (p.partition("=") for p in key.split(";"))
        )
    return key.split("|")[0].strip()


def _wrong(part: AnyPart, scoring: PartScoring, rng: random.Random) -> str:
    keys = {k.strip() for k in scoring.key.replace("+", "|").split("|")}
    if isinstance(part, WritingPart):
        return _written(scoring, False, rng)
    if isinstance(part, ChoicePart | MenuPart | HotTextPart):
        ids = hot_words_in(part.text) if isinstance(part, HotTextPart) else [o.id for o in part.options]
        return rng.choice([i for i in ids if i not in keys] or ids)
    if isinstance(part, OrderPart):
        placed = [o.id for o in part.options]
        while ">".join(placed) == scoring.key:
            rng.shuffle(placed)
        return ">".join(placed)
    if isinstance(part, MatchPart):
        turned = [c.id for c in part.columns]
        return ";".join(f"{row.id}={rng.choice(turned)}" for row in part.rows[:-1]) or f"{part.rows[0].id}={turned[0]}"
    if isinstance(part, LinePart):
        step = rng.randrange(int((part.high - part.low) / part.step) + 1)
        return f"{part.low + step * part.step:.6f}".rstrip("0").rstrip(".")
    if isinstance(part, PointPart):
        return f"{rng.randrange(part.width)} {rng.randrange(part.height)}"
    right = {key.strip() for key in scoring.key.split("|")}
    return str(rng.randrange(2, 90)) if part.numeric else rng.choice([word for word in BODIES if word not in right])
