"""Levels: named ranges over a scale (methods.md, section 5)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.errors import Refused

ONE_SE_68 = 0.994457883209753  # half-width of the central 68% in standard errors


@dataclass(frozen=True)
class Levels:
    """Levels and the cuts between them.

    Attributes
    ----------
    names : tuple[str, ...]
        Lowest first.
    cuts : tuple[float, ...]
        (names - 1,) rising, a score at a cut belongs above it.
    """

    names: tuple[str, ...]
    cuts: tuple[float, ...]

    def __post_init__(self) -> None:
        if len(self.cuts) != len(self.names) - 1 or list(self.cuts) != sorted(set(self.cuts)):
            raise Refused(f"{len(self.names)} levels need {len(self.names) - 1} rising cuts")


def level_of(scores: FloatArray, levels: Levels) -> IntArray:
    """Place of each score's level, from 0, (n,).

    (n,): place of each score's level, from 0.

    Parameters
    ----------
    scores : FloatArray
        (n,).
    levels : Levels
        With their cuts.

    Returns
    -------
    IntArray
    """
    return np.searchsorted(np.array(levels.cuts), scores, side="right").astype(np.int64)


def level_probabilities(
    scores: FloatArray, errors: FloatArray, levels: Levels, mean: float | None = None, sd: float | None = None
) -> FloatArray:
    """Probability that the true score is in each level, (n, levels).

    With the mean and standard deviation of those whom the student is one of, the true score given the observed x is
    N(μ + r(x − μ), se²·r) with r = 1 − se²/σ² (Kelley 1947); without them N(x, se), which does not allow for how scores spread.

    Parameters
    ----------
    scores : FloatArray
        (n,).
    errors : FloatArray
        Standard errors, (n,).
    levels : Levels
        With their cuts.
    mean : float | None
        Of the norm, or of the grade's local scores of the window.
    sd : float | None
        As `mean`; both or neither.

    Returns
    -------
    FloatArray

    Raises
    ------
    Refused
        Where an error is as large as the standard deviation.
    """
    center, spread = scores, errors
    if mean is not None and sd is not None:
        reliability = 1 - (errors / sd) ** 2
        if (reliability <= 0).any():
            raise Refused(
                f"a standard error of {float(errors.max()):g} is no smaller than the scores' spread of {sd:g}"
            )
        center, spread = mean + reliability * (scores - mean), errors * np.sqrt(reliability)
    off = np.array(levels.cuts)[None, :] - center[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        below = np.where(spread[:, None] > 0, ndtr(off / spread[:, None]), (off > 0).astype(np.float64))
    edges = np.concatenate([np.zeros((scores.size, 1)), below, np.ones((scores.size, 1))], axis=1)
    return np.diff(edges, axis=1)


def near_the_line(scores: FloatArray, errors: FloatArray, levels: Sequence[float]) -> BoolArray:
    """Whether the 68% interval of a score crosses a cut, (n,).

    (n,): whether the 68% interval of a score crosses a cut.

    Parameters
    ----------
    scores : FloatArray
        (n,).
    errors : FloatArray
        Standard errors, (n,).
    levels : Sequence[float]
        Cuts.

    Returns
    -------
    BoolArray
    """
    half = ONE_SE_68 * errors[:, None]
    off = np.abs(scores[:, None] - np.array(levels)[None, :])
    crossed: BoolArray = (off < half).any(axis=1)
    return crossed
