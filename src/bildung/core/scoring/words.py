"""Short written answers, by how strictly they are to be spelled; and writing that a person marks."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from rapidfuzz.distance import OSA

from bildung.core.errors import Refused

Spelling = Literal["exact", "plain", "near"]
NEAR_FROM = 5  # letters: in shorter words one slip makes another word
_BLANKS = re.compile(r"\s+")


@dataclass(frozen=True)
class WordsRule:
    """A text that is one of those accepted.

    Accepted short answers.

    Attributes
    ----------
    accepted : tuple[str, ...]
        Right texts.
    spelling : Spelling
        Exact (capitals count), plain (they do not), near (one slip as well: a letter missing, added, changed or two
        swapped, in answers of five letters or more).
    maximum : float
        Most points that can be earned.
    """

    accepted: tuple[str, ...]
    spelling: Spelling = "plain"
    maximum: float = 1.0

    def __post_init__(self) -> None:
        if not any(text.strip() for text in self.accepted):
            raise Refused("at least one accepted answer is needed")

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        text = _BLANKS.sub(" ", answer.strip())
        return text if self.spelling == "exact" else text.casefold()

    def points(self, label: str) -> float:
        """Points that a label earns."""
        for accepted in map(self.label, self.accepted):
            near = self.spelling == "near" and len(accepted) >= NEAR_FROM
            if label == accepted or (near and OSA.distance(label, accepted, score_cutoff=1) <= 1):
                return self.maximum
        return 0.0


@dataclass(frozen=True)
class Marked:
    """An answer that earns what a person gives: nothing here knows its points before that."""

    maximum: float = 1.0

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        return answer.strip()

    def points(self, label: str) -> float:
        """Points that a label earns."""
        return 0.0
