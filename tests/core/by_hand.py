"""The same figures the slow way, in plain Python, student by student: what the fast way is held against."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence


def correlation(x: Sequence[float], y: Sequence[float]) -> float | None:
    if len(set(x)) < 2 or len(set(y)) < 2:
        return None
    return statistics.correlation(x, y)


def fractional_share(ranked: Sequence[tuple[float, float]], low: float, high: float) -> tuple[float, float]:
    """Sum of values and of weights in the slice low..high (shares of n) of (standing, value); ties in part."""
    n = len(ranked)
    total = weight = 0.0
    for standing, value in ranked:
        below = sum(1 for other, _ in ranked if other < standing)
        equal = sum(1 for other, _ in ranked if other == standing)
        overlap = max(0.0, min(below + equal, high * n) - max(below, low * n))
        total += value * overlap / equal
        weight += overlap / equal
    return total, weight


def alpha(points: Sequence[Sequence[float]]) -> float:
    k = len(points[0])
    items = [statistics.variance([row[j] for row in points]) for j in range(k)]
    return k / (k - 1) * (1 - sum(items) / statistics.variance([sum(row) for row in points]))


def wilson(successes: int, n: int) -> tuple[float, float]:
    """Roots of (p̂ - p)² = z²p(1-p)/n, solved as a quadratic."""
    z2 = statistics.NormalDist().inv_cdf(0.975) ** 2
    share = successes / n
    a, b, c = 1 + z2 / n, -(2 * share + z2 / n), share * share
    root = math.sqrt(max(0.0, b * b - 4 * a * c))
    return (-b - root) / (2 * a), (-b + root) / (2 * a)
