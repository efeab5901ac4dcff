"""Student growth percentiles from a cohort (after Betebenner 2009)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import BSpline
from scipy.linalg import qr

from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused
from bildung.core.growth.quantile import quantile_path

LEAST, ROUGH = 200, 1_000
TAUS = (np.arange(100) + 0.5) / 100
DEGREE = 3


@dataclass(frozen=True, kw_only=True)
class GrowthPercentiles:
    """Growth percentiles of a cohort.

    Attributes
    ----------
    sgp : FloatArray
        (n,) 1..99. taus (100,), coefficients (100, p).
    taus : FloatArray
        (100,).
    coefficients : FloatArray
        (100, p).
    knots : FloatArray
        What fitted quantiles are drawn from.
    rough : bool
        Whether the cohort is under 1,000.
    """

    sgp: FloatArray
    taus: FloatArray
    coefficients: FloatArray
    knots: FloatArray
    rough: bool

    def quantiles(self, start: FloatArray) -> FloatArray:
        """Fitted end scores, (starts, 100), made monotone by rearrangement for drawing.

        (starts, 100): fitted end scores, made monotone by rearrangement for drawing.

        Parameters
        ----------
        start : FloatArray
            Start scores.

        Returns
        -------
        FloatArray
        """
        return np.sort(basis(start, self.knots) @ self.coefficients.T, axis=1)


def knots_of(start: FloatArray) -> FloatArray:
    """Full knot vector: interior at the 20th, 40th, 60th and 80th percentiles, coinciding ones dropped."""
    low, high = float(start.min()), float(start.max())
    inner = np.unique(np.percentile(start, (20, 40, 60, 80)))
    inner = inner[(inner > low) & (inner < high)]
    return np.concatenate([np.full(DEGREE + 1, low), inner, np.full(DEGREE + 1, high)])


def basis(start: FloatArray, knots: FloatArray) -> FloatArray:
    """Cubic B-splines that add to one, (n, p); held at the ends of the range.

    (n, p): cubic B-splines that add to one; held at the ends of the range.

    Parameters
    ----------
    start : FloatArray
        (n,).
    knots : FloatArray
        Where pieces meet.

    Returns
    -------
    FloatArray
    """
    held = np.clip(start, knots[0], knots[-1])
    dense: FloatArray = BSpline.design_matrix(held, knots, DEGREE).toarray()
    return dense


def growth_percentiles(start: FloatArray, end: FloatArray) -> GrowthPercentiles:
    """Growth percentiles of one cohort.

    Students with the same pair of scores are one weighted point, so that whole-number scores are quick and the order of
    rows cannot matter.

    Parameters
    ----------
    start : FloatArray
        (n,) of one cohort.
    end : FloatArray
        (n,) of one cohort.

    Returns
    -------
    GrowthPercentiles

    Raises
    ------
    Refused
        Under 200.
    """
    n = start.size
    if n < LEAST:
        raise Refused(f"{n} students of this grade; growth percentiles need {LEAST}")
    if float(start.max() - start.min()) <= 1e-9 * max(1.0, float(np.abs(start).max())):
        raise Refused("all start scores are equal")
    pairs, place, weights = np.unique(np.column_stack([start, end]), axis=0, return_inverse=True, return_counts=True)
    knots = knots_of(start)
    x, y, w = basis(pairs[:, 0], knots), pairs[:, 1], weights.astype(np.float64)
    # with few distinct starts the splines depend on each other: fit on as many as are independent
    pivots = qr(x, mode="economic", pivoting=True)
    rank = int((np.abs(np.diag(pivots[1])) > 1e-8 * np.abs(pivots[1][0, 0])).sum())
    fitted_on = x[:, np.sort(pivots[2][:rank])]
    back = np.linalg.pinv(x)  # from fitted values to coefficients of all splines
    sd = float(end.std(ddof=1)) or 1.0
    center = float(end.mean())
    scaled = (y - center) / sd
    below = np.zeros(y.size)
    coefficients = np.zeros((TAUS.size, x.shape[1]))
    for at, beta in enumerate(quantile_path(fitted_on, scaled, w, TAUS)):
        fitted = fitted_on @ beta
        below += fitted <= scaled + 1e-6
        coefficients[at] = back @ (fitted * sd + center)
    sgp = np.clip(below, 1, 99)[place.reshape(-1)]
    return GrowthPercentiles(sgp=sgp, taus=TAUS, coefficients=coefficients, knots=knots, rough=n < ROUGH)
