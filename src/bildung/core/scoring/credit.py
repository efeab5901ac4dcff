"""Points of their own for single answers: partial credit for one choice, for each of several, for each pair or area.

QTI calls this mapping a response (`map_response`): every answer, or every piece of an answer, has its value, which may
be negative; their sum is kept within a lower and an upper bound.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from bildung.core.errors import Refused
from bildung.core.scoring.rules import Rule


@dataclass(frozen=True, kw_only=True)
class PieceCredit:
    """An answer that is made of pieces, each worth points of its own.

    Attributes
    ----------
    base : Rule
        Reads answers and gives their labels.
    credit : Mapping[str, float]
        Points by piece of a label; a piece that is not named is worth 0.
    separator : str
        What parts the pieces of a label: ``+`` of several choices, ``;`` of pairs; empty where a label is one piece.
    maximum : float
        Most that the sum is worth.
    lower : float
        Least that it is worth: an answer that earns less earns this.
    """

    base: Rule
    credit: Mapping[str, float] = field(hash=False)
    separator: str
    maximum: float
    lower: float = 0.0

    def __post_init__(self) -> None:
        if not 0 <= self.lower < self.maximum:
            raise Refused(f"the lowest score is from 0 to below the {self.maximum:g} points of the part")

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        return self.base.label(answer)

    def points(self, label: str) -> float:
        """Points that a label earns."""
        pieces = label.split(self.separator) if self.separator else [label]
        earned = sum(self.credit.get(piece, 0.0) for piece in pieces)
        return min(self.maximum, max(self.lower, earned))


@dataclass(frozen=True)
class AnswerCredit:
    """Accepted answers that are worth different points: the best that an answer meets counts.

    Attributes
    ----------
    rules : tuple[Rule, ...]
        One for each accepted answer, each with its own points as its maximum; the first gives the labels.
    maximum : float
        Most points that can be earned.
    """

    rules: tuple[Rule, ...]
    maximum: float

    def __post_init__(self) -> None:
        if not self.rules:
            raise Refused("at least one accepted answer is needed")

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        return self.rules[0].label(answer)

    def points(self, label: str) -> float:
        """Points that a label earns."""
        return min(self.maximum, max(rule.points(label) for rule in self.rules))
