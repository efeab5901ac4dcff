"""Intervals and bounds that several figures share. All take and return plain floats."""

from __future__ import annotations

import math
from statistics import NormalDist

NORMAL = NormalDist()
Z95 = NORMAL.inv_cdf(0.975)
Z95_ONE_SIDED = NORMAL.inv_cdf(0.95)

Interval = tuple[float, float]


def wilson(successes: float, n: float, z: float = Z95) -> Interval:
    """Score interval of a share (Wilson 1927); n > 0."""
    share = successes / n
    center = (share + z * z / (2 * n)) / (1 + z * z / n)
    half = z / (1 + z * z / n) * math.sqrt(share * (1 - share) / n + z * z / (4 * n * n))
    low = 0.0 if successes == 0 else max(0.0, center - half)
    high = 1.0 if successes == n else min(1.0, center + half)
    return low, high


def mean_interval(mean: float, sd: float, n: float, low: float, high: float) -> Interval | None:
    """Interval of a mean, mean ± t·s/√n, cut to what is possible; None without variance or with fewer than two cases.

    mean ± t·s/√n, cut to [low, high];

    Parameters
    ----------
    mean : float
        The mean.
    sd : float
        Standard deviation over n - 1.
    n : float
        Cases.
    low : float
        The least that is possible.
    high : float
        The most.

    Returns
    -------
    Interval | None
    """
    if n < 2 or sd <= 0:
        return None
    from scipy.special import stdtrit

    half = float(stdtrit(n - 1, 0.975)) * sd / math.sqrt(n)
    return max(low, mean - half), min(high, mean + half)


def fisher_interval(r: float, n: float, z: float = Z95) -> Interval | None:
    """Interval of a correlation by Fisher's z; None for n < 4; no width where |r| is 1."""
    if n < 4:
        return None
    if abs(r) >= 1.0:
        return r, r
    center, half = math.atanh(r), z / math.sqrt(n - 3)
    return math.tanh(center - half), math.tanh(center + half)


def fisher_bound(r: float, n: float, side: int) -> float:
    """One-sided 95% bound of a correlation: upper for side 1, lower for side -1; n >= 4."""
    if abs(r) >= 1.0:
        return r
    return math.tanh(math.atanh(r) + side * Z95_ONE_SIDED / math.sqrt(n - 3))
