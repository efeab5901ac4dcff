"""Answers of a class to one question, and what became of them when it was asked again."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Bar:
    """One answer.

    Attributes
    ----------
    answer : str
        An option, or the answer as it was given.
    n : int
        How many gave it.
    share : float
        Of those who answered; 0 where nobody did.
    right : bool
        Whether it is the key.
    """

    answer: str
    n: int
    share: float
    right: bool


def tally(answers: Sequence[str], options: Sequence[str], right: Sequence[str] = ()) -> list[Bar]:
    """How many gave each answer.

    Parameters
    ----------
    answers : Sequence[str]
        One of each student who answered.
    options : Sequence[str]
        What there was to choose from, in its order; of an open question nothing.
    right : Sequence[str]
        Answers that are right; of a question said aloud nothing is known.

    Returns
    -------
    list[Bar]
        The options in their order, then other answers, the most frequent first and those of one count by their text.
    """
    counts = Counter(answers)
    others = sorted((a for a in counts if a not in options), key=lambda a: (-counts[a], a))
    total = len(answers)
    return [
        Bar(answer=a, n=counts[a], share=counts[a] / total if total else 0.0, right=a in right)
        for a in [*options, *others]
    ]


def strongest_wrong(bars: Sequence[Bar]) -> str:
    """The wrong answer that most gave; of several the first. Empty where nobody was wrong, or nothing is known to be right."""
    if not any(bar.right for bar in bars):
        return ""
    wrong = [bar for bar in bars if not bar.right and bar.n]
    return max(wrong, key=lambda bar: bar.n).answer if wrong else ""


@dataclass(frozen=True, kw_only=True)
class AskedTwice:
    """Students who answered both times.

    Attributes
    ----------
    both : int
        How many they are.
    to_right : int
        Wrong before, right after.
    from_right : int
        Right before, wrong after.
    right : int
        Right both times.
    wrong : int
        Wrong both times.
    """

    both: int
    to_right: int
    from_right: int
    right: int
    wrong: int


def moved(before: Mapping[int, bool], after: Mapping[int, bool]) -> AskedTwice:
    """What became of the same students' answers.

    Parameters
    ----------
    before : Mapping[int, bool]
        By student, whether the first answer was right.
    after : Mapping[int, bool]
        By student, whether the second was.

    Returns
    -------
    AskedTwice
    """
    both = before.keys() & after.keys()
    pairs = Counter((before[s], after[s]) for s in both)
    return AskedTwice(
        both=len(both),
        to_right=pairs[False, True],
        from_right=pairs[True, False],
        right=pairs[True, True],
        wrong=pairs[False, False],
    )


TALK = (0.3, 0.7)
"""Shares of right answers between which talking to a neighbor helps most: enough know it, and enough do not (Crouch and
Mazur, 2001: about 30 to 70 percent)."""


def advice(right: int, answered: int) -> str:
    """What the share of right answers suggests.

    Parameters
    ----------
    right : int
        How many were right.
    answered : int
        How many answered.

    Returns
    -------
    str
        `go_on`, `talk` or `explain`; empty where nobody answered.
    """
    if not answered:
        return ""
    share = right / answered
    return "go_on" if share > TALK[1] else "talk" if share >= TALK[0] else "explain"
