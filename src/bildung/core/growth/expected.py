"""The end score that a start lets expect, and how far each student passed it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused
from bildung.core.scales.norms import NormKey, NormStanding, NormTable

LEAST_LOCAL = 30


@dataclass(frozen=True)
class Expected:
    """What was expected at the end, given the start.

    Attributes
    ----------
    score : FloatArray
        (n,) expected end score.
    residual : FloatArray
        (n,) residual gain in standard deviations of the end given the start.
    source : str
        "table" or "local".
    """

    score: FloatArray
    residual: FloatArray
    source: str

    @property
    def like_start_percentile(self) -> FloatArray:
        """Percentile among students who started alike, 100·Φ(residual gain), (n,).

        (n,): 100·Φ(residual gain).

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
    score, residual = np.empty(start.size), np.empty(start.size)
    what = f"the norm table for {start_key[0] or 'the subject'}, grade {start_key[1]},"
    for first, last in np.unique(np.column_stack([start_week, end_week]), axis=0):
        mine = (start_week == first) & (end_week == last)
        rho = correlations.at(float(first), float(last), "the correlation table")
        if start_key in table.moments and end_key in table.moments:
            m1, s1 = table.moments[start_key].at(float(first), what)
            m2, s2 = table.moments[end_key].at(float(last), what)
            score[mine] = m2 + rho * s2 / s1 * (start[mine] - m1)
            residual[mine] = (end[mine] - score[mine]) / (s2 * np.sqrt(1 - rho**2))
        else:
            z = rho * start_standing.z[mine]
            score[mine] = table.points[end_key].score_at(100 * ndtr(z), float(last), what)
            residual[mine] = (end_standing.z[mine] - z) / np.sqrt(1 - rho**2)
    return Expected(score, residual, "table")


def expected_locally(start: FloatArray, end: FloatArray) -> Expected:
    """Expectation by least squares of end on start among these students, residual sd over n - 2.

    Least squares of end on start among these students (n,), residual sd over n-2.

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
    return Expected(score, residual, "local")
