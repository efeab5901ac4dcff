"""Which question comes next: a harder or an easier one on the same standard, by what the items did."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

STEP = 0.05
"""A difference of difficulty that somebody would notice."""


@dataclass(frozen=True, kw_only=True)
class Candidate:
    """An item on the same standard.

    Attributes
    ----------
    item : int
        Its id.
    p : float
        The share of points that students earned on it the last time.
    sound : bool
        Whether no flag says that it is a problem.
    """

    item: int
    p: float
    sound: bool = True


def following(candidates: Sequence[Candidate], p: float, harder: bool) -> list[int]:
    """Items to go on with, the smallest step first.

    Parameters
    ----------
    candidates : Sequence[Candidate]
        On the same standard, not asked in this round.
    p : float
        Difficulty of the question that was just asked, the class's own share of right answers where the item has none.
    harder : bool
        A lower share is wanted; else a higher one.

    Returns
    -------
    list[int]
        Ids of sound items that are harder or easier by at least STEP.
    """
    sign = -1 if harder else 1
    steps = [(sign * (c.p - p), c.item) for c in candidates if c.sound and sign * (c.p - p) >= STEP - 1e-9]
    return [item for _, item in sorted(steps)]
