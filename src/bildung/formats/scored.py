"""From an item's scoring as kept to the rule that scores it."""

from __future__ import annotations

from bildung.core.errors import Refused
from bildung.core.scoring.arrangements import MatchRule, OrderRule, PointRule, SeveralRule, read_areas
from bildung.core.scoring.credit import AnswerCredit, PieceCredit
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
    """How answers to one part are scored. Refused where the key or the credit of single answers does not fit the part."""
    rule = _keyed_rule(part, scoring)
    if not scoring.credit:
        return rule
    if isinstance(part, OrderPart | LinePart | WritingPart):
        raise Refused("single answers have points of their own in choices, entries, pairs and areas only")
    worth = {c.answer: c.points for c in scoring.credit}
    if isinstance(part, EntryPart):
        return _entry_credit(part, scoring, worth)
    return PieceCredit(
        base=rule,
        credit=_credit(part, scoring, worth),
        separator=_separator(part),
        maximum=scoring.points,
        lower=scoring.lowest,
    )


def _separator(part: AnyPart) -> str:
    if isinstance(part, MatchPart):
        return ";"
    several = isinstance(part, HotTextPart) or (isinstance(part, ChoicePart) and part.most != 1)
    return "+" if several else ""


def _credit(part: AnyPart, scoring: PartScoring, worth: dict[str, float]) -> dict[str, float]:
    """Points by piece of a label. Of answers that are one piece, the key is worth all where nothing else is said."""
    if isinstance(part, MatchPart):
        pieces = {f"{row.id}={column.id}" for row in part.rows for column in part.columns}
    elif isinstance(part, HotTextPart):
        pieces = set(hot_words_in(part.text))
    elif isinstance(part, PointPart):
        pieces = {str(at) for at in range(1, len(read_areas(scoring.key)) + 1)}
    else:
        pieces = {option.id for option in part.options} if isinstance(part, ChoicePart | MenuPart) else set()
    strange = next((piece for piece in worth if piece not in pieces), None)
    if strange is not None:
        raise Refused(f"points are given for {strange!r}, which is no answer of this part")
    if isinstance(part, PointPart):
        return {f"in {at}": worth.get(at, scoring.points) for at in sorted(pieces)}
    if _separator(part):
        return worth
    return {**dict.fromkeys(_split(scoring.key, "|"), scoring.points), **worth}


def _entry_credit(part: EntryPart, scoring: PartScoring, worth: dict[str, float]) -> Rule:
    """A rule for each accepted answer, worth its own points."""
    numbers, tilde, tolerance = scoring.key.partition("~") if part.numeric else (scoring.key, "", "")
    accepted = (
        [text.strip() for text in numbers.split("|")] if part.numeric else [t for t in split_accepted(numbers) if t]
    )
    strange = next((answer for answer in worth if answer not in accepted), None)
    if strange is not None:
        raise Refused(f"points are given for {strange!r}, which is not among the accepted answers")
    rules = []
    for answer in accepted:
        key = f"{answer}{tilde}{tolerance}" if part.numeric else answer.replace("|", "\\|")
        rules.append(
            _entry_rule(part, scoring.model_copy(update={"key": key, "points": worth.get(answer, scoring.points)}))
        )
    return AnswerCredit(tuple(rules), scoring.points)


def _keyed_rule(part: AnyPart, scoring: PartScoring) -> Rule:
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
            rows=tuple(o.id for o in part.rows),
            columns=tuple(o.id for o in part.columns),
            key=matched,
            partial=scoring.partial,
            maximum=points,
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
    return MeasureRule(
        accepted=numbers_only,
        tolerance=tolerance,
        writing=scoring.writing,
        units=units,
        needed=scoring.unit_needed,
        maximum=scoring.points,
    )


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
        parts.append(
            ScoredPart(id=part.id, rule=rule if s.points else None, maximum=s.points, needs=s.needs, carried=carried)
        )
    return SeveralParts(tuple(parts))


def awaits(rule: Rule) -> bool:
    """Whether a person must mark answers to this item."""
    return isinstance(rule, Marked) or (isinstance(rule, SeveralParts) and rule.awaits)


def by_rule_of(rule: Rule, answer: str) -> tuple[float, bool]:
    """Points that the rule gives an answer, and whether a person must score any of it besides."""
    if not isinstance(rule, SeveralParts):
        return 0.0, bool(answer.strip())
    scores = rule.scores(answer)
    return float(sum(s.points or 0.0 for s in scores)), any(s.points is None and s.maximum > 0 for s in scores)


def by_person(shown: Shown, scoring: list[PartScoring]) -> list[tuple[AnyPart, PartScoring]]:
    """The parts of an item that a person scores."""
    return [(p, s) for p, s in zip(shown.parts, scoring, strict=True) if isinstance(p, WritingPart) and s.points]


def key_text(scoring: list[PartScoring]) -> str:
    """The key as one reads it in a list."""
    if len(scoring) == 1:
        return scoring[0].key
    return "; ".join(f"{s.id}: {s.key}" for s in scoring if s.key)
