"""Whether answers on paper fit another form better than the one they are scored by."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

NO_BETTER = (
    1.645  # standard deviations of guessing: a total under it is no better than chance (5% of guesses are above)
)
WELL = 3.0  # and one above it is not (1 guess in 700)


@dataclass(frozen=True)
class Guessing:
    """Total of somebody who guesses every choice.

    Attributes
    ----------
    mean : float
        Points.
    sd : float
        Points.
    """

    mean: float
    sd: float


def guessing(items: Sequence[tuple[float, int]]) -> Guessing:
    """What guessing earns.

    Parameters
    ----------
    items : Sequence[tuple[float, int]]
        Of each item its points and how many options it has; 0 where nothing can be guessed.

    Returns
    -------
    Guessing
    """
    odds = [(points, 1 / options) for points, options in items if options > 1]
    mean = sum(points * p for points, p in odds)
    return Guessing(mean, math.sqrt(sum(points**2 * p * (1 - p) for points, p in odds)))


def mixed_up(own: float, own_guess: Guessing, other: float, other_guess: Guessing) -> bool:
    """Whether a total is no better than guessing on one's own form, and well above it on the other.

    Parameters
    ----------
    own : float
        Points on the form that the attempt is scored by.
    own_guess : Guessing
        On that form.
    other : float
        Points that the same answers earn on the other form, place by place.
    other_guess : Guessing
        On that form.

    Returns
    -------
    bool
    """
    return own <= own_guess.mean + NO_BETTER * own_guess.sd and other >= other_guess.mean + WELL * other_guess.sd
