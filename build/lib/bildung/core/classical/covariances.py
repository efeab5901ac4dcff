"""Item covariances and what is needed with them for reliability, in one pass over the answers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.arrays import FloatArray
from bildung.core.classical.scores import Scores
from bildung.core.responses import ResponseTable

CHUNK = 16384  # students at a time: the points of 60 items then stay in the processor's cache


@dataclass(frozen=True)
class Covariances:
    """Over the n students with a total to whom all items were presented.

    matrix: (items, items), points² over n-1. influence_sd: s of the distribution-free interval of
    alpha (Yuan, Guarnaccia & Hayslip 2003), None where alpha is undefined. share_full: mean of the
    points over the maximum, by item.
    """

    n: int
    matrix: FloatArray
    means: FloatArray
    influence_sd: float | None

    @property
    def total_variance(self) -> float:
        return float(self.matrix.sum())

    @property
    def item_variances(self) -> FloatArray:
        return np.diag(self.matrix).copy()


def covariances(table: ResponseTable, scores: Scores) -> Covariances:
    """Two sweeps in chunks: sums and products first, then each student's part in T and V."""
    full = scores.full
    chosen = table if full.all() else table.take(full)
    earned = scores.earned if full.all() else scores.earned[full]
    n, k = chosen.n, len(chosen.items)
    sums, products = np.zeros(k), np.zeros((k, k))
    lookup = [answers.code_points for answers in chosen.answers]
    squares_too = any(not np.isin(points, (0.0, 1.0)).all() for points in lookup)
    for start in range(0, n, CHUNK):
        block = np.stack([at[a.codes[start : start + CHUNK]] for at, a in zip(lookup, chosen.answers, strict=True)])
        sums += block.sum(axis=1)
        products += block @ block.T
    if n < 2:
        return Covariances(n, np.zeros((k, k)), sums / max(n, 1), None)
    means = sums / n
    matrix = (products - n * np.outer(means, means)) / (n - 1)
    # rounding leaves specks where an item has no variance
    flat = np.diag(products) - n * means**2 <= 1e-9 * np.maximum(1.0, np.diag(products))
    matrix[flat, :] = matrix[:, flat] = 0.0
    total_variance = float(matrix.sum())
    if total_variance <= 0 or k < 2:
        return Covariances(n, matrix, means, None)
    ratio = float(np.trace(matrix)) / total_variance
    cross = np.zeros(n)
    squares = np.zeros(n) if squares_too else earned
    for points, answers, mean in zip(lookup, chosen.answers, means, strict=True):
        cross += (points * mean)[answers.codes]
        if squares_too:
            squares += (points**2)[answers.codes]
    t = squares - 2 * cross + float(means @ means)
    v = (earned - earned.mean()) ** 2
    h = -(k / (k - 1)) * (t - ratio * v) / total_variance
    return Covariances(n, matrix, means, float(np.sqrt(h @ h)) / n)
