"""What a written number means: plain, as a fraction, mixed, with a unit."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from math import gcd
from typing import Literal

from bildung.core.errors import Refused
from bildung.core.scoring.rules import exact_number, number_label

Writing = Literal["any", "whole", "decimal", "fraction", "lowest"]
_MIXED = re.compile(r"([+-]?)(\d+)\s+(\d+)\s*/\s*(\d+)")
_POWER_TAIL = re.compile(r"^([+-−]?[\d.,]+[eE][+-−]?\d+)\s*(\D.*)$", re.DOTALL)
_TAIL = re.compile(r"^(.*?[\d.])\s*([^\d\s.,/+-].*)$", re.DOTALL)
_BLANKS = re.compile(r"\s+")


def mixed_number(text: str) -> Fraction | None:
    """As `exact_number`, and a whole number with a fraction after a blank: 1 1/2."""
    plain = text.strip().replace("−", "-")
    found = _MIXED.fullmatch(plain)
    if found and len(plain) <= 40 and int(found[4]) != 0:
        size = int(found[2]) + Fraction(int(found[3]), int(found[4]))
        return -size if found[1] == "-" else size
    return exact_number(plain)


def written_as(text: str) -> set[Writing]:
    """Every way of writing that a number's text satisfies; empty where it is no number."""
    number = mixed_number(text)
    if number is None:
        return set()
    plain = _BLANKS.sub(" ", text.strip().replace("−", "-"))
    found: set[Writing] = {"any"}
    if "/" in plain:
        found.add("fraction")
        top, bottom = (int(part.split()[-1].lstrip("+-") or 0) for part in plain.split("/"))
        if gcd(top, bottom) == 1 and bottom > 1 and (" " not in plain.split("/")[0].strip() or top < bottom):
            found.add("lowest")
    else:
        found |= {"decimal", "lowest"} if number.denominator != 1 else {"whole", "lowest"}
        if "." in plain or "," in plain:
            found.add("decimal")
    return found


@dataclass(frozen=True, kw_only=True)
class MeasureRule:
    """A number within a tolerance of one of those accepted, bounds included, written as asked, with its unit.

    A number within `tolerance` of one of `accepted`, bounds included, written as asked, with its unit.

    Attributes
    ----------
    accepted : tuple[Fraction, ...]
        Right numbers.
    tolerance : Fraction
        How far off is right.
    writing : Writing
        How it must be written.
    units : tuple[str, ...]
        Spellings of the unit that count, compared without case.
    needed : bool
        Whether an answer without any is wrong. An answer with another unit is wrong. A label is the number's one
        spelling, with its way of writing where that matters and its unit where one was given.
    maximum : float
        Most points that can be earned.
    """

    accepted: tuple[Fraction, ...]
    tolerance: Fraction = Fraction(0)
    writing: Writing = "any"
    units: tuple[str, ...] = ()
    needed: bool = False
    maximum: float = 1.0

    def __post_init__(self) -> None:
        if not self.accepted:
            raise Refused("a numeric answer needs at least one accepted number")
        if self.tolerance < 0:
            raise Refused("a tolerance is not below 0")
        if self.needed and not self.units:
            raise Refused("a unit is asked for, but none is named")

    def _split(self, answer: str) -> tuple[str, str]:
        text = _BLANKS.sub(" ", answer.strip())
        if mixed_number(text) is not None:
            return text, ""
        found = _POWER_TAIL.match(text) or _TAIL.match(text)
        return (found[1].strip(), found[2].strip()) if found else (text, "")

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        number_text, unit = self._split(answer)
        number = mixed_number(number_text)
        if number is None:
            return _BLANKS.sub(" ", answer.strip())
        known = next((u for u in self.units if u.casefold() == unit.casefold()), unit)
        # 2/4 and 1/2 are one row unless the way of writing decides about the points
        shown = number_label(number) if self.writing == "any" else number_text.replace("−", "-").replace(",", ".", 1)
        return f"{shown} {known}".strip()

    def points(self, label: str) -> float:
        """Points that a label earns."""
        number_text, unit = self._split(label)
        number = mixed_number(number_text)
        if number is None or not any(abs(number - key) <= self.tolerance for key in self.accepted):
            return 0.0
        if unit and unit.casefold() not in {u.casefold() for u in self.units}:
            return 0.0
        if (self.needed and not unit) or self.writing not in written_as(number_text):
            return 0.0
        return self.maximum
