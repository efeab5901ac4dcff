"""Answers that surprise, and answers without effort (methods.md, section 3)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.arrays import BoolArray, FloatArray
from bildung.core.errors import Refused

SURPRISE = 2.0
RAPID_SHARE, RAPID_MOST = 0.10, 10.0


@dataclass(frozen=True)
class PersonFit:
    """residuals: (students, items) standardised, 0 where not reached. fit: (students,) standardised log-likelihood
    (Drasgow, Levine & Williams 1985), low is unexpected; a caution, not a verdict, and weak on short tests.
    surprising: (students, items) residuals beyond 2 either way."""

    residuals: FloatArray
    fit: FloatArray
    surprising: BoolArray


def person_fit(right: BoolArray, reached: BoolArray) -> PersonFit:
    """right, reached: (students, items) of 0/1 items. Expected chances come from the student's share and the
    item's p on the log-odds scale, both held within half a point of 0 and of everything."""
    n_items, n_students = reached.sum(axis=1), reached.sum(axis=0)
    if (n_items == 0).any() or (n_students == 0).any():
        raise Refused("a student without an item, or an item without a student")
    score = ((right & reached).sum(axis=1) + 0.5) / (n_items + 1)
    p = ((right & reached).sum(axis=0) + 0.5) / (n_students + 1)
    odds = np.log(score / (1 - score))[:, None] + np.log(p / (1 - p))[None, :]
    centre = np.log(p / (1 - p)).mean()
    chance = 1 / (1 + np.exp(-(odds - centre)))
    residuals = np.where(reached, (right - chance) / np.sqrt(chance * (1 - chance)), 0.0)
    log_odds = np.log(chance / (1 - chance))
    observed = np.where(reached, np.where(right, np.log(chance), np.log(1 - chance)), 0.0).sum(axis=1)
    mean = np.where(reached, chance * np.log(chance) + (1 - chance) * np.log(1 - chance), 0.0).sum(axis=1)
    variance = np.where(reached, chance * (1 - chance) * log_odds**2, 0.0).sum(axis=1)
    fit = (observed - mean) / np.sqrt(np.maximum(variance, 1e-12))
    return PersonFit(residuals, fit, np.abs(residuals) > SURPRISE)


@dataclass(frozen=True)
class Effort:
    """thresholds: (items,) seconds. rapid: (students, items). share: (students,) of answers that are not rapid
    (Wise & Kong 2005). p_all, p_effortful: (items,) with and without rapid answers, -1 where nobody is left."""

    thresholds: FloatArray
    rapid: BoolArray
    share: FloatArray
    p_all: FloatArray
    p_effortful: FloatArray


def effort(seconds: FloatArray, right: BoolArray, reached: BoolArray) -> Effort:
    """All (students, items); seconds spent, used where reached. An answer is rapid below 10 % of the item's
    median time, at most 10 seconds."""
    if (reached.sum(axis=0) == 0).any() or (reached.sum(axis=1) == 0).any():
        raise Refused("a student without an item, or an item without a student")
    medians = np.array([np.median(seconds[reached[:, j], j]) for j in range(seconds.shape[1])])
    thresholds = np.minimum(RAPID_SHARE * medians, RAPID_MOST)
    rapid = reached & (seconds < thresholds[None, :])
    kept = reached & ~rapid
    share = kept.sum(axis=1) / reached.sum(axis=1)
    everybody = (right & reached).sum(axis=0) / reached.sum(axis=0)
    left = kept.sum(axis=0)
    effortful = np.where(left > 0, (right & kept).sum(axis=0) / np.maximum(left, 1), -1.0)
    return Effort(thresholds, rapid, share, everybody, effortful)
