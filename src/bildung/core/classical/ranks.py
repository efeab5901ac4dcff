"""Groups by standing with ties spread fractionally, so that no figure depends on the order of rows."""

from __future__ import annotations

import numpy as np

from bildung.core.data.arrays import FloatArray


def slices(weights: FloatArray, standing: FloatArray, bounds: FloatArray) -> FloatArray:
    """How much of each level lies in each slice of the ranking.

    Returns (slices, levels): fractions 0..1; students of equal standing have equal fractions.

    Parameters
    ----------
    weights : FloatArray
        (levels,) students by level.
    standing : FloatArray
        (levels,) what they are ranked by, in any order.
    bounds : FloatArray
        (slices + 1,) rising shares of the students from the lowest, 0..1.

    Returns
    -------
    FloatArray
    """
    values, group = np.unique(standing, return_inverse=True)
    held = np.bincount(group, weights=weights, minlength=values.size)
    top = np.cumsum(held)
    bottom = top - held
    edges = bounds * top[-1]
    low = np.maximum(bottom[None, :], edges[:-1, None])
    high = np.minimum(top[None, :], edges[1:, None])
    share = np.clip(high - low, 0.0, None) / np.where(held > 0, held, 1.0)
    by_level: FloatArray = share[:, group.reshape(-1)]
    return by_level


def mid_ranks(weights: FloatArray, values: FloatArray) -> FloatArray:
    """Share of students below plus half of those equal, for each value; 0..1. weights, values: (m,)."""
    distinct, group = np.unique(values, return_inverse=True)
    held = np.bincount(group.reshape(-1), weights=weights, minlength=distinct.size)
    below = np.cumsum(held) - held
    ranks: FloatArray = ((below + held / 2) / held.sum())[group.reshape(-1)]
    return ranks
