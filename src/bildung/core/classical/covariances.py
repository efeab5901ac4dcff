"""Item covariances and what is needed with them for reliability, in one pass over the answers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.classical.scores import Scores
from bildung.core.data.arrays import FloatArray
from bildung.core.data.responses import ResponseTable

SPECK = 1e-12  # of the mean: what rounding can leave of a constant
CHUNK = 16384  # students at a time: the points of 60 items then stay in the processor's cache


@dataclass(frozen=True)
class Covariances:
    """Covariances over the n students with a total to whom all items were presented.

    Attributes
    ----------
    n : int
        How many students.
    matrix : FloatArray
        (items, items), points² over n-1.
    means : FloatArray
        Mean points by item.
    influence_sd : float | None
        s of the distribution-free interval of alpha (Yuan, Guarnaccia & Hayslip 2003), None where alpha is
        undefined. share_full: mean of the points over the maximum, by item.
    """

    n: int
    matrix: FloatArray
    means: FloatArray
    influence_sd: float | None

    @property
    def total_variance(self) -> float:
        """Variance of the totals, points² over n - 1."""
        return float(self.matrix.sum())

    @property
    def item_variances(self) -> FloatArray:
        """Variances of the items, (items,), points² over n - 1."""
        return np.diag(self.matrix).copy()


def covariances(table: ResponseTable, scores: Scores) -> Covariances:
    """Means by counting, then products of the points less their means: what varies little around a large number is not lost in it.

    In chunks.

    Parameters
    ----------
    table : ResponseTable
        Answers of the students to the items.
    scores : Scores
        Totals of the students.

    Returns
    -------
    Covariances
    """
    full = scores.full
    chosen = table if full.all() else table.take(full)
    n, k = chosen.n, len(chosen.items)
    lookup = [answers.code_points for answers in chosen.answers]
    counts = [np.bincount(a.codes, minlength=at.size) for at, a in zip(lookup, chosen.answers, strict=True)]
    means = np.array([float(c @ at) / max(n, 1) for c, at in zip(counts, lookup, strict=True)])
    if n < 2:
        return Covariances(n, np.zeros((k, k)), means, None)
    off = [at - mean for at, mean in zip(lookup, means, strict=True)]
    products, totals, squares = np.zeros((k, k)), np.empty(n), np.empty(n)
    for start in range(0, n, CHUNK):
        rows = slice(start, start + CHUNK)
        block = np.stack([at[a.codes[rows]] for at, a in zip(off, chosen.answers, strict=True)])
        products += block @ block.T
        totals[rows] = block.sum(axis=0)
        squares[rows] = np.einsum("ij,ij->j", block, block)
    matrix = products / (n - 1)
    # rounding leaves specks where an item has no variance
    flat = np.diag(products) <= n * (SPECK * np.maximum(1.0, np.abs(means))) ** 2
    matrix[flat, :] = matrix[:, flat] = 0.0
    total_variance = float(matrix.sum())
    if total_variance <= 0 or k < 2:
        return Covariances(n, matrix, means, None)
    ratio = float(np.trace(matrix)) / total_variance
    h = -(k / (k - 1)) * (squares - ratio * totals**2) / total_variance
    return Covariances(n, matrix, means, float(np.sqrt(h @ h)) / n)
