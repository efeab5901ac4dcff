"""From an item's scoring as kept to the rule that scores it."""

from __future__ import annotations

from bildung.core.errors import Refused
from bildung.core.scoring.arrangements import MatchRule, OrderRule, PointRule, SeveralRule, read_areas
from bildung.core.scoring.numbers import MeasureRule, mixed_number
from bildung.core.scoring.rules import (
    ChoiceRule,
    MultipleRule,
    NumericRule,
    Rule,
    exact_number,
    rule_for,
    split_accepted,
)
from bildung.core.scoring.several import ScoredPart, SeveralParts
from bildung.core.scoring.words import Marked, WordsRule
from bildung.formats.content import (
    AnyPart,
    ChoicePart,
    EntryPart,
    HotTextPart,
    LinePart,
    MatchPart,
    MenuPart,
    OrderPart,
    PartScoring,
    PointPart,
    Shown,
    WritingPart,
)
from bildung.formats.markup import hot_words_in


def part_rule(part: AnyPart, scoring: PartScoring) -> Rule:
    """How answers to one part are scored. Refused where the key does not fit the part."""
    key, points = scoring.key, scoring.points
    if isinstance(part, ChoicePart):
        options = tuple(o.id for o in part.options)
        if part.most == 1:
            return ChoiceRule(options, _split(key, "|"), points)
        if part.most and len(_split(key, "+")) > part.most:
            raise Refused(f"the key has more than the {part.most} that may be chosen")
        return (SeveralRule if scoring.partial else MultipleRule)(options, _split(key, "+"), points)
    if isinstance(part, MenuPart):
        return ChoiceRule(tuple(o.id for o in part.options), _split(key, "|"), points)
    if isinstance(part, HotTextPart):
        words = tuple(hot_words_in(part.text))
        if part.most and len(_split(key, "+")) > part.most:
            raise Refused(f"the key has more than the {part.most} that may be picked")
        return (SeveralRule if scoring.partial else MultipleRule)(words, _split(key, "+"), points)
    if isinstance(part, OrderPart):
        return OrderRule(tuple(o.id for o in part.options), _split(key, ">"), scoring.partial, points)
    if isinstance(part, MatchPart):
        pairs = (piece.partition("=") for piece in _split(key, ";"))
        matched = tuple((row.strip(), _split(columns, "|")) for row, _, columns in pairs)
        return MatchRule(
            tuple(o.id for o in part.rows), tuple(o.id for o in part.columns), matched, scoring.partial, points
        )
    if isinstance(part, LinePart):
        rule = rule_for("numeric", key, (), points)
        assert isinstance(rule, NumericRule)
        if not part.low <= rule.key <= part.high:
            raise Refused(f"the key {key} is not on the line from {part.low:g} to {part.high:g}")
        return rule
    if isinstance(part, PointPart):
        return PointRule(read_areas(key), points)
    if isinstance(part, WritingPart):
        return Marked(points)
    return _entry_rule(part, scoring)


def _entry_rule(part: EntryPart, scoring: PartScoring) -> Rule:
    if not part.numeric:
        return WordsRule(tuple(t for t in split_accepted(scoring.key) if t), scoring.spelling, scoring.points)
    numbers, _, tolerance_text = scoring.key.partition("~")
    accepted = [mixed_number(text) for text in numbers.split("|")]
    tolerance = exact_number(tolerance_text or "0")
    if tolerance is None or None in accepted:
        raise Refused(f"{scoring.key!r} is not a number with an optional tolerance, such as 14.6, 1/2|0.5 or 14.6~0.1")
    units = tuple(scoring.units) or ((part.unit,) if part.unit else ())
    numbers_only = tuple(n for n in accepted if n is not None)
    plain = len(numbers_only) == 1 and not units and scoring.writing == "any"
    if plain:
        return NumericRule(numbers_only[0], tolerance, scoring.points)
    return MeasureRule(numbers_only, tolerance, scoring.writing, units, scoring.unit_needed, scoring.points)


def _split(text: str, sign: str) -> tuple[str, ...]:
    return tuple(piece.strip() for piece in text.split(sign) if piece.strip())


def item_rule(shown: Shown, scoring: list[PartScoring]) -> Rule:
    """How answers to the whole item are scored: the one part's rule, or the parts together."""
    rules = [part_rule(part, s) for part, s in zip(shown.parts, scoring, strict=True)]
    if len(rules) == 1:
        return rules[0]
    parts = []
    for part, s, rule in zip(shown.parts, scoring, rules, strict=True):
        carried = tuple((c.after, part_rule(part, s.model_copy(update={"key": c.key}))) for c in s.carried)
        parts.append(ScoredPart(part.id, rule if s.points else None, s.points, s.needs, carried))
    return SeveralParts(tuple(parts))


def awaits(rule: Rule) -> bool:
    """Whether a person must mark answers to this item."""
    return isinstance(rule, Marked) or (isinstance(rule, SeveralParts) and rule.awaits)


def key_text(scoring: list[PartScoring]) -> str:
    """The key as one reads it in a list."""
    if len(scoring) == 1:
        return scoring[0].key
    return "; ".join(f"{s.id}: {s.key}" for s in scoring if s.key)
