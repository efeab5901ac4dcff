"""The end score that a start lets expect, and how far each student passed it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr, ndtri

from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused
from bildung.core.scales.norms import NormKey, NormStanding, NormTable, Points

LEAST_LOCAL = 30
NEAR = 0.05  # in normal scores: over which the slope of a table of points is taken


@dataclass(frozen=True, kw_only=True)
class Expected:
    """What was expected at the end, given the start.

    Attributes
    ----------
    score : FloatArray
        (n,) expected end score.
    residual : FloatArray
        (n,) residual gain in standard deviations of the end given the start.
    slope : FloatArray
        (n,) how much the expected end score rises for a point at the start; NaN where a table is held at its outermost point.
    sd : FloatArray
        (n,) standard deviation of the end given the start, in score units; NaN as above.
    start_mean : FloatArray
        (n,) mean start of those whom the expectation is made from.
    start_sd : FloatArray
        (n,) their standard deviation.
    source : str
        "table" or "local".
    """

    score: FloatArray
    residual: FloatArray
    slope: FloatArray
    sd: FloatArray
    start_mean: FloatArray
    start_sd: FloatArray
    source: str

    @property
    def like_start_percentile(self) -> FloatArray:
        """Percentile among students who started alike, 100·Φ(residual gain), (n,).

        Returns
        -------
        FloatArray
        """
        found: FloatArray = 100 * ndtr(self.residual)
        return found


def expected_from_table(
    table: NormTable,
    start_key: NormKey,
    end_key: NormKey,
    start: FloatArray,
    end: FloatArray,
    start_week: FloatArray,
    end_week: FloatArray,
    start_standing: NormStanding,
    end_standing: NormStanding,
) -> Expected:
    """By the table's correlation for the start's grade. All (n,); Refused for weeks beyond the tables."""
    correlations = table.correlations[start_key]
    score, residual, slope, sd, mean, spread = (np.empty(start.size) for _ in range(6))
    what = f"the norm table for {start_key[0] or 'the subject'}, grade {start_key[1]},"
    for first, last in np.unique(np.column_stack([start_week, end_week]), axis=0):
        mine = (start_week == first) & (end_week == last)
        rho = correlations.at(float(first), float(last), "the correlation table")
        left = np.sqrt(1 - rho**2)
        if start_key in table.moments and end_key in table.moments:
            m1, s1 = table.moments[start_key].at(float(first), what)
            m2, s2 = table.moments[end_key].at(float(last), what)
            score[mine] = m2 + rho * s2 / s1 * (start[mine] - m1)
            slope[mine], sd[mine], mean[mine], spread[mine] = rho * s2 / s1, s2 * left, m1, s1
            residual[mine] = (end[mine] - score[mine]) / (s2 * left)
        else:
            z1 = start_standing.z[mine]
            z = rho * z1
            points = table.points[end_key]
            score[mine] = points.score_at(100 * ndtr(z), float(last), what)
            residual[mine] = (end_standing.z[mine] - z) / left
            of_end = _per_z(points, z, float(last), what)
            begin = table.points[start_key]
            of_start = _per_z(begin, z1, float(first), what)
            with np.errstate(divide="ignore", invalid="ignore"):
                slope[mine] = np.where(of_start > 0, rho * of_end / of_start, np.nan)
            sd[mine] = np.where(of_end > 0, of_end * left, np.nan)
            low, middle, high = begin.score_at(100 * ndtr(np.array([-1.0, 0.0, 1.0])), float(first), what)
            mean[mine], spread[mine] = middle, (high - low) / 2
    return Expected(
        score=score, residual=residual, slope=slope, sd=sd, start_mean=mean, start_sd=spread, source="table"
    )


def _per_z(points: Points, z: FloatArray, week: float, what: str) -> FloatArray:
    """Points of score for a normal score, around each."""
    ends = [points.score_at(100 * ndtr(z + side), week, what) for side in (-NEAR, NEAR)]
    found: FloatArray = (ends[1] - ends[0]) / (2 * NEAR)
    low, high = ndtri(points.percentiles[[0, -1]] / 100)
    found[(z < low) | (z > high)] = 0.0
    return found


def expected_locally(start: FloatArray, end: FloatArray) -> Expected:
    """Expectation by least squares of end on start among these students, residual sd over n - 2.

    Parameters
    ----------
    start : FloatArray
        (n,).
    end : FloatArray
        (n,).

    Returns
    -------
    Expected

    Raises
    ------
    Refused
        Under 30, or without spread at the start.
    """
    n = start.size
    if n < LEAST_LOCAL:
        raise Refused(f"{n} students of this grade; a local expectation needs {LEAST_LOCAL}")
    off = start - start.mean()
    spread = float(off @ off)
    if spread <= 1e-12:
        raise Refused("all start scores are equal")
    slope = float(off @ end) / spread
    score = end.mean() + slope * off
    sd = float(np.sqrt(((end - score) ** 2).sum() / (n - 2)))
    residual = (end - score) / sd if sd > 1e-12 else np.zeros(n)
    return Expected(
        score=score,
        residual=residual,
        slope=np.full(n, slope),
        sd=np.full(n, sd if sd > 1e-12 else np.nan),
        start_mean=np.full(n, float(start.mean())),
        start_sd=np.full(n, float(start.std(ddof=1))),
        source="local",
    )
