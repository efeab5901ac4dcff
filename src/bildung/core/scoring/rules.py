"""From an answer as given to the label it is counted under and the points it earns.

A label is the canonical form of an answer: two answers that mean the same have one label, so
that they are one row of an option table. Numbers are compared as decimals, never as binary
floats: 0.3 is 0.1 + 0.2 here.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from fractions import Fraction
from typing import Literal, Protocol

from bildung.core.errors import Refused

Kind = Literal["choice", "multiple", "numeric", "text", "points"]
KINDS: tuple[Kind, ...] = ("choice", "multiple", "numeric", "text", "points")

_PLAIN_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)")
_EXPONENT = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+))[eE]([+-]?\d{1,3})")
_FRACTION = re.compile(r"([+-]?\d+)\s*/\s*(\d+)")
_BLANKS = re.compile(r"\s+")
_MAX_DIGITS = 40
_MAX_EXPONENT = 40


class Rule(Protocol):
    """How one item is scored."""

    def label(self, answer: str) -> str:
        """The canonical form of an answer; Refused for one that the item does not allow."""

    def points(self, label: str) -> float:
        """Points earned by an answer with this label, 0 to the item's maximum."""


@dataclass(frozen=True)
class ChoiceRule:
    """One option of several; `keys` are the accepted ones."""

    options: tuple[str, ...]
    keys: tuple[str, ...]
    maximum: float = 1.0

    def __post_init__(self) -> None:
        for key in self.keys:
            if key not in self.options:
                raise Refused(f"the key {key!r} is not one of the options {', '.join(self.options)}")
        if not self.keys:
            raise Refused("a choice item needs at least one key")

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        if answer not in self.options:
            raise Refused(f"{answer!r} is not one of the options {', '.join(self.options)}")
        return answer

    def points(self, label: str) -> float:
        """Points that a label earns."""
        return self.maximum if label in self.keys else 0.0


@dataclass(frozen=True)
class MultipleRule:
    """All of several options: full points for exactly the keys, else 0."""

    options: tuple[str, ...]
    keys: tuple[str, ...]
    maximum: float = 1.0

    def __post_init__(self) -> None:
        if not self.keys:
            raise Refused("a multiple-response item needs at least one key")
        self.label("+".join(self.keys))

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        chosen = {part.strip() for part in answer.split("+")}
        for option in chosen:
            if option not in self.options:
                raise Refused(f"{option!r} is not one of the options {', '.join(self.options)}")
        return "+".join(option for option in self.options if option in chosen)

    def points(self, label: str) -> float:
        """Points that a label earns."""
        return self.maximum if set(label.split("+")) == set(self.keys) else 0.0


def exact_number(text: str) -> Fraction | None:
    """The number that a cell states, exactly, or None where it is not a plain number or fraction.

    A decimal point or a single decimal comma; a minus sign may be the typographic one; `1/2` and `1E-05` are numbers,
    exponents within ±40. `nan` and `inf` are not.

    Parameters
    ----------
    text : str
        The text.

    Returns
    -------
    Fraction | None
    """
    plain = text.strip().replace("−", "-").replace(",", ".", 1)
    if len(plain) > _MAX_DIGITS:
        return None
    if _PLAIN_NUMBER.fullmatch(plain):
        try:
            return Fraction(Decimal(plain))
        except InvalidOperation:
            return None
    power = _EXPONENT.fullmatch(plain)
    if power and abs(int(power[2])) <= _MAX_EXPONENT:
        return Fraction(Decimal(power[1])) * Fraction(10) ** int(power[2])
    fraction = _FRACTION.fullmatch(plain)
    if fraction and int(fraction[2]) != 0:
        return Fraction(int(fraction[1]), int(fraction[2]))
    return None


def number_label(number: Fraction) -> str:
    """One spelling for numerically equal answers: a decimal where it ends, else a fraction."""
    denominator = number.denominator
    for prime in (2, 5):
        while denominator % prime == 0:
            denominator //= prime
    if denominator != 1:
        return f"{number.numerator}/{number.denominator}"
    text = format(Decimal(number.numerator) / Decimal(number.denominator), "f")
    return text.rstrip("0").rstrip(".") if "." in text else text


@dataclass(frozen=True)
class NumericRule:
    """A number within `tolerance` of `key`, bounds included; an answer that is no number is wrong."""

    key: Fraction
    tolerance: Fraction = Fraction(0)
    maximum: float = 1.0

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        number = exact_number(answer)
        return _BLANKS.sub(" ", answer.strip()) if number is None else number_label(number)

    def points(self, label: str) -> float:
        """Points that a label earns."""
        number = exact_number(label)
        return self.maximum if number is not None and abs(number - self.key) <= self.tolerance else 0.0


@dataclass(frozen=True)
class TextRule:
    """Accepted short answers; case, surrounding and repeated blanks do not matter."""

    accepted: tuple[str, ...]
    maximum: float = 1.0

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        return _BLANKS.sub(" ", answer.strip()).casefold()

    def points(self, label: str) -> float:
        """Points that a label earns."""
        return self.maximum if label in {self.label(text) for text in self.accepted} else 0.0


@dataclass(frozen=True)
class PointsRule:
    """The answer is the points earned, a plain number within 0..maximum."""

    maximum: float = 1.0

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        if not _PLAIN_NUMBER.fullmatch(answer) or len(answer) > _MAX_DIGITS:
            raise Refused(f"{answer!r} is not a plain number within 0..{self.maximum:g}")
        number = Fraction(Decimal(answer))
        if number < 0 or number > Fraction(self.maximum):
            raise Refused(f"{answer!r} is not within 0..{self.maximum:g}")
        return number_label(number)

    def points(self, label: str) -> float:
        """Points that a label earns."""
        return float(Fraction(label))


def split_accepted(key: str) -> tuple[str, ...]:
    """Split at vertical bars; a bar with a backslash before it belongs to the answer."""
    parts = re.split(r"(?<!\\)\|", key)
    return tuple(part.replace("\\|", "|").strip() for part in parts)


def rule_for(kind: str, key: str, options: tuple[str, ...], maximum: float) -> Rule:
    """The rule that a key's text states (the key column of commands.md). Refused where it states none."""
    if kind == "choice":
        return ChoiceRule(options, tuple(k.strip() for k in key.split("|") if k.strip()), maximum)
    if kind == "multiple":
        return MultipleRule(options, tuple(k.strip() for k in key.split("+") if k.strip()), maximum)
    if kind == "numeric":
        number_text, _, tolerance_text = key.partition("~")
        number = exact_number(number_text)
        tolerance = exact_number(tolerance_text) if tolerance_text else Fraction(0)
        if number is None or tolerance is None or tolerance < 0:
            raise Refused(f"{key!r} is not a number with an optional tolerance, such as 14.6 or 14.6~0.1")
        return NumericRule(number, tolerance, maximum)
    if kind == "text":
        accepted = tuple(text for text in split_accepted(key) if text)
        if not accepted:
            raise Refused("a text item needs at least one accepted answer")
        return TextRule(accepted, maximum)
    if kind == "points":
        if key:
            raise Refused("a points item has no key: its cells are the points earned")
        return PointsRule(maximum)
    raise Refused(f"{kind!r} is not an item type; allowed are {', '.join(KINDS)}")
