"""Group means drawn toward the mean of all groups, the spread between groups integrated over (methods.md, section 6).

A single estimate of that spread is 0 in many draws with few groups, and gives every group the same value; here every spread has
its weight.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray

LEAST_GROUPS = 5
CELLS = 200


@dataclass(frozen=True)
class Shrunken:
    """Group means as they are believed, after all groups were seen.

    Attributes
    ----------
    means : FloatArray
        (groups,).
    errors : FloatArray
        (groups,) standard deviations of what is believed.
    tau : float
        Posterior mean of the standard deviation between groups.
    """

    means: FloatArray
    errors: FloatArray
    tau: float


def shrink(values: FloatArray, member: IntArray, groups: int) -> Shrunken | None:
    """Shrunken means; None under five groups, or where nothing is left within them.

    τ, the standard deviation between groups, has a uniform prior from 0 to three times the larger of the sd of the means and the
    root of the mean error; it is integrated over 200 equal cells at their middles.

    Parameters
    ----------
    values : FloatArray
        (n,).
    member : IntArray
        (n,) place of each value's group, all present.
    groups : int
        How many groups.

    Returns
    -------
    Shrunken | None
    """
    if groups < LEAST_GROUPS or values.size <= groups:
        return None
    n = np.bincount(member, minlength=groups).astype(np.float64)
    means = np.bincount(member, weights=values, minlength=groups) / n
    within = float(((values - means[member]) ** 2).sum()) / (values.size - groups)
    if within <= 0:
        return None
    return shrink_means(means, within / n)


def shrink_means(means: FloatArray, errors: FloatArray) -> Shrunken:
    """As `shrink`, from means and their error variances.

    Parameters
    ----------
    means : FloatArray
        (groups,).
    errors : FloatArray
        (groups,) error variances e_g.

    Returns
    -------
    Shrunken
    """
    reach = 3 * max(float(means.std(ddof=1)), math.sqrt(float(errors.mean())))
    tau = (np.arange(CELLS) + 0.5) / CELLS * reach
    w = 1 / (tau[:, None] ** 2 + errors[None, :])
    total = w.sum(axis=1)
    mu = (w @ means) / total
    log = -0.5 * np.log(total) + 0.5 * np.log(w).sum(axis=1)
    log -= 0.5 * (w * (means[None, :] - mu[:, None]) ** 2).sum(axis=1)
    p = np.exp(log - log.max())
    p /= p.sum()
    b = tau[:, None] ** 2 * w
    theta = mu[:, None] + b * (means[None, :] - mu[:, None])
    mean = p @ theta
    variance = p @ (b * errors[None, :] + (1 - b) ** 2 / total[:, None] + (theta - mean[None, :]) ** 2)
    return Shrunken(mean, np.sqrt(variance), float(p @ tau))
