"""Curves of equal height for the same start, as a picture of gain by start draws them."""

from __future__ import annotations

import numpy as np
from scipy.special import ndtri

from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused

PERCENTILES = (10, 25, 50, 75, 90)
MOST_POINTS = 40


def contours(start: FloatArray, expected: FloatArray, sd: FloatArray) -> dict[int, FloatArray]:
    """Gain that is at a percentile among students with the same starting score.

    Parameters
    ----------
    start : FloatArray
        (n,) start scores of those who are drawn.
    expected : FloatArray
        (n,) expected end scores.
    sd : FloatArray
        (n,) standard deviations of the end given the start.

    Returns
    -------
    dict[int, FloatArray]
        By percentile (points, 2): start and gain, starts rising; students with the same start are averaged.

    Raises
    ------
    Refused
        Where nobody is drawn.
    """
    if not start.size:
        raise Refused("no student has an expected score")
    values, place, counts = np.unique(start, return_inverse=True, return_counts=True)
    place = place.reshape(-1)
    gain = np.bincount(place, weights=expected - start) / counts
    spread = np.bincount(place, weights=sd) / counts
    some = np.unique(np.linspace(0, values.size - 1, min(values.size, MOST_POINTS)).round().astype(np.int64))
    return {p: np.column_stack([values[some], gain[some] + float(ndtri(p / 100)) * spread[some]]) for p in PERCENTILES}
