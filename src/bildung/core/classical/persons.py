"""Answers that surprise (methods.md, section 3)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import BoolArray, FloatArray

SURPRISE = 2.0


@dataclass(frozen=True)
class PersonFit:
    """How surprising each student's answers are.

    Attributes
    ----------
    residuals : FloatArray
        (students, items) standardized, 0 where not met.
    fit : FloatArray
        (students,) standardized log-likelihood (Drasgow, Levine & Williams 1985), low is unexpected; a caution, not
        a verdict, and weak on short tests; 0 for whom nothing can be said.
    item_fit : FloatArray
        (items,) the same over the students of each item: low where the strong miss it and the weak get it.
    surprising : BoolArray
        (students, items) residuals beyond 2 either way.
    """

    residuals: FloatArray
    fit: FloatArray
    item_fit: FloatArray
    surprising: BoolArray


def person_fit(share: FloatArray, met: BoolArray) -> PersonFit:
    """Fit of students, of items and of single answers.

    Expected chances come from the student's share and the item's p on the log-odds scale, both held half a point away
    from nothing and from everything. Partial credit enters with the variance of a right-or-wrong item, the largest it can
    have, so that its residuals are on the small side.

    Parameters
    ----------
    share : FloatArray
        (students, items) of the item's points, 0..1.
    met : BoolArray
        (students, items) reached, presented and scored.

    Returns
    -------
    PersonFit
    """
    got = np.where(met, share, 0.0)
    theta = _log_odds((got.sum(axis=1) + 0.5) / (met.sum(axis=1) + 1))
    easy = _log_odds((got.sum(axis=0) + 0.5) / (met.sum(axis=0) + 1))
    some = met.any(axis=0)
    center = float(easy[some].mean()) if some.any() else 0.0
    odds = theta[:, None] + easy[None, :] - center
    chance = 1 / (1 + np.exp(-odds))
    variance = chance * (1 - chance)
    residuals = np.where(met, (got - chance) / np.sqrt(variance), 0.0)
    # the log-likelihood less its expectation is the sum of (x - chance) times the log-odds
    off, spread = np.where(met, (got - chance) * odds, 0.0), np.where(met, variance * odds**2, 0.0)
    fit, item_fit = (_standardized(off.sum(axis=axis), spread.sum(axis=axis)) for axis in (1, 0))
    return PersonFit(residuals, fit, item_fit, np.abs(residuals) > SURPRISE)


def _standardized(off: FloatArray, spread: FloatArray) -> FloatArray:
    found: FloatArray = np.where(spread > 1e-9, off / np.sqrt(np.maximum(spread, 1e-9)), 0.0)
    return found


def _log_odds(share: FloatArray) -> FloatArray:
    found: FloatArray = np.log(share / (1 - share))
    return found
