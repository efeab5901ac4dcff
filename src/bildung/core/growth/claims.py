"""What may be said of one student's growth: more or less than students with the same starting score, or that it cannot be told."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import bdtr, ndtr, ndtri

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.errors import Refused
from bildung.core.growth.gains import RELIABLE
from bildung.core.scales.levels import ONE_SE_68

SURE = 0.90
RATE = 0.05  # of unchanged students who pass as a reliable rise, and as many as a fall


def residual_errors(start_error: FloatArray, end_error: FloatArray, slope: FloatArray, sd: FloatArray) -> FloatArray:
    """Standard errors of residual gains, √(se2² + b²·se1²)/σ_e; NaN where a part is unknown.

    Parameters
    ----------
    start_error : FloatArray
        (n,) standard errors of the start scores, NaN where unknown.
    end_error : FloatArray
        (n,) of the end scores.
    slope : FloatArray
        (n,) of the expected end score in the start score.
    sd : FloatArray
        (n,) of the end given the start, score units.

    Returns
    -------
    FloatArray
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        found: FloatArray = np.sqrt(end_error**2 + slope**2 * start_error**2) / sd
    return found


@dataclass(frozen=True)
class Claims:
    """What may be said against students with the same starting score.

    Attributes
    ----------
    claim : IntArray
        (n,) 1 more, -1 less, 0 cannot be told.
    probability : FloatArray
        (n,) that the true residual gain lies above that of like starters; NaN where the error is unknown or does not fit.
    misfit : IntArray
        (n,) 1 where the errors are larger than the spread that the expectation leaves.
    """

    claim: IntArray
    probability: FloatArray
    misfit: IntArray


def claims(residual: FloatArray, error: FloatArray) -> Claims:
    """More or less than like starters from a probability of 0.90 on, Φ(√((1−v)/v)·g) with v = se_g².

    Parameters
    ----------
    residual : FloatArray
        (n,) residual gains g.
    error : FloatArray
        (n,) their standard errors, NaN where unknown.

    Returns
    -------
    Claims
    """
    v = error**2
    misfit = v >= 1
    with np.errstate(divide="ignore", invalid="ignore"):
        z = np.where(v > 0, np.sqrt(np.maximum(1 - v, 0.0) / v) * residual, np.copysign(np.inf, residual))
    z = np.where((v == 0) & (residual == 0), 0.0, z)
    probability = np.where(misfit | np.isnan(v), np.nan, ndtr(z))
    with np.errstate(invalid="ignore"):
        claim = np.where(probability >= SURE, 1, np.where(probability <= 1 - SURE, -1, 0)).astype(np.int64)
    return Claims(claim, probability, misfit.astype(np.int64))


def beyond_expected(residual: FloatArray, error: FloatArray) -> IntArray:
    """Who ended reliably ahead of or behind the expected score: (x2 − E)/√(se2² + (b·se1)²) beyond ±1.645.

    Parameters
    ----------
    residual : FloatArray
        (n,) residual gains.
    error : FloatArray
        (n,) their standard errors, NaN where unknown.

    Returns
    -------
    IntArray
        (n,) 1 ahead, -1 behind, 0 neither or unknown.
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        off = np.where(error > 0, residual / error, np.copysign(np.inf, residual) * (residual != 0))
    off = np.where(np.isnan(error), 0.0, off)
    return np.where(off > RELIABLE, 1, np.where(off < -RELIABLE, -1, 0)).astype(np.int64)


def percentile_band(residual: FloatArray, error: FloatArray) -> tuple[FloatArray, FloatArray]:
    """The 68 % band of percentiles among like starters, 100·Φ(g ± 0.994·se_g).

    Parameters
    ----------
    residual : FloatArray
        (n,) residual gains; of growth percentiles Φ⁻¹(SGP/100).
    error : FloatArray
        (n,) their standard errors.

    Returns
    -------
    tuple[FloatArray, FloatArray]
        (n,) low and high ends, NaN where the error is unknown.
    """
    return 100 * ndtr(residual - ONE_SE_68 * error), 100 * ndtr(residual + ONE_SE_68 * error)


def as_residual(sgp: FloatArray) -> FloatArray:
    """Growth percentiles as normal scores, Φ⁻¹(SGP/100).

    Parameters
    ----------
    sgp : FloatArray
        (n,) from 1 to 99.

    Returns
    -------
    FloatArray
    """
    found: FloatArray = ndtri(sgp / 100)
    return found


@dataclass(frozen=True, kw_only=True)
class Chance:
    """How many unchanged students would pass as reliable rises, and as many as falls.

    Attributes
    ----------
    n : int
        Students with both errors.
    rises : int
        Reliable rises among them.
    falls : int
        Reliable falls.
    expected : float
        How many of either kind chance brings.
    upper95 : int
        The least count that chance does not pass in 95 of 100.
    """

    n: int
    rises: int
    falls: int
    expected: float
    upper95: int

    @property
    def rises_told(self) -> bool:
        """Whether there are more rises than chance brings, so that students may be named."""
        return self.rises > self.upper95

    @property
    def falls_told(self) -> bool:
        """As `rises_told`, of falls."""
        return self.falls > self.upper95


def chance(verdict: IntArray, error: FloatArray) -> Chance:
    """What chance brings among reliable rises and falls: binomial, 0.05 of the students with both errors.

    Parameters
    ----------
    verdict : IntArray
        (n,) 1 reliable rise, -1 reliable fall, 0 neither.
    error : FloatArray
        (n,) of the gain, NaN where unknown.

    Returns
    -------
    Chance

    Raises
    ------
    Refused
        Where nobody has both errors.
    """
    known = ~np.isnan(error)
    n = int(known.sum())
    if n == 0:
        raise Refused("no student has a standard error in both windows")
    upper = int(np.searchsorted(bdtr(np.arange(n + 1), n, RATE), 0.95))
    return Chance(
        n=n,
        rises=int((verdict[known] == 1).sum()),
        falls=int((verdict[known] == -1).sum()),
        expected=RATE * n,
        upper95=upper,
    )
