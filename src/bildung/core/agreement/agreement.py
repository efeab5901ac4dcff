"""Scorer agreement (methods.md, section 10)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.errors import Refused


@dataclass(frozen=True, kw_only=True)
class Agreement:
    """How far two markers agree on the same responses.

    Attributes
    ----------
    n : int
        Responses that both marked.
    exact : float
        Shares of responses marked alike, or within one.
    adjacent : float
        Shares of responses marked alike, or within one.
    difference : float
        Mean of second minus first. kappa (Cohen 1960), weighted: with quadratic weights (Cohen 1968); standard
        errors by Fleiss, Cohen & Everitt (1969). None where all marks are in one category.
    kappa : float | None
        Agreement beyond chance (Cohen 1960).
    kappa_se : float | None
        Its standard error (Fleiss, Cohen & Everitt 1969).
    weighted_kappa : float | None
        Kappa with quadratic weights (Cohen 1968).
    weighted_kappa_se : float | None
        Its standard error.
    """

    n: int
    exact: float
    adjacent: float
    difference: float
    kappa: float | None
    kappa_se: float | None
    weighted_kappa: float | None
    weighted_kappa_se: float | None


def agreement(first: IntArray, second: IntArray, categories: int) -> Agreement:
    """Agreement of two markers.

    Parameters
    ----------
    first : IntArray
        (n,) marks 0..categories-1 of the same responses.
    second : IntArray
        (n,) marks 0..categories-1 of the same responses.
    categories : int
        How many marks there are.

    Returns
    -------
    Agreement
    """
    n = first.size
    if n == 0 or second.size != n:
        raise Refused("both scorers need the same responses, at least one")
    if min(first.min(), second.min()) < 0 or max(first.max(), second.max()) >= categories:
        raise Refused(f"a mark outside 0..{categories - 1}")
    shares = np.bincount(first * categories + second, minlength=categories**2).reshape(categories, categories) / n
    apart = np.abs(np.subtract.outer(np.arange(categories), np.arange(categories)))
    plain, squared = (apart == 0).astype(np.float64), 1 - (apart / max(categories - 1, 1)) ** 2
    k, k_se = _kappa(shares, plain, n)
    w, w_se = _kappa(shares, squared, n)
    return Agreement(
        n=n,
        exact=float((first == second).mean()),
        adjacent=float((np.abs(first - second) <= 1).mean()),
        difference=float((second - first).mean()),
        kappa=k,
        kappa_se=k_se,
        weighted_kappa=w,
        weighted_kappa_se=w_se,
    )


def _kappa(shares: FloatArray, weights: FloatArray, n: int) -> tuple[float | None, float | None]:
    rows, columns = shares.sum(axis=1), shares.sum(axis=0)
    observed = float((weights * shares).sum())
    expected = float((weights * np.outer(rows, columns)).sum())
    if expected >= 1 - 1e-12:
        return None, None
    row_mean, column_mean = weights @ columns, rows @ weights
    kappa = (observed - expected) / (1 - expected)
    inner = weights * (1 - expected) - np.add.outer(row_mean, column_mean) * (1 - observed)
    spread = float((shares * inner**2).sum()) - (observed * expected - 2 * expected + observed) ** 2
    return kappa, math.sqrt(max(spread, 0.0) / n) / (1 - expected) ** 2


@dataclass(frozen=True, kw_only=True)
class Generalizability:
    """Variance components of responses by markers, one mark each.

    Variance components of responses × markers, one mark each.

    Attributes
    ----------
    response : float
        Variance of responses.
    marker : float
        Variance of markers.
    residual : float
        What is left.
    one : float
        Generalizability (relative) of one marker's mark and of the mean of two.
    two : float
        Generalizability (relative) of one marker's mark and of the mean of two.
    """

    response: float
    marker: float
    residual: float
    one: float
    two: float


def generalizability(marks: FloatArray) -> Generalizability:
    """Variance components of a complete table of marks (Cronbach, Gleser, Nanda & Rajaratnam 1972); negative ones are 0.

    Parameters
    ----------
    marks : FloatArray
        (responses, markers), complete (Cronbach, Gleser, Nanda & Rajaratnam 1972); negative components are 0.

    Returns
    -------
    Generalizability
    """
    n, m = marks.shape
    if n < 2 or m < 2:
        raise Refused("at least two responses and two scorers are needed")
    grand = marks.mean()
    ms_response = m * float(((marks.mean(axis=1) - grand) ** 2).sum()) / (n - 1)
    ms_marker = n * float(((marks.mean(axis=0) - grand) ** 2).sum()) / (m - 1)
    left = marks - marks.mean(axis=1, keepdims=True) - marks.mean(axis=0, keepdims=True) + grand
    ms_left = float((left**2).sum()) / ((n - 1) * (m - 1))
    response, marker = max((ms_response - ms_left) / m, 0.0), max((ms_marker - ms_left) / n, 0.0)

    def relative(markers: int) -> float:
        noise = response + ms_left / markers
        return response / noise if noise > 0 else 0.0

    return Generalizability(response=response, marker=marker, residual=ms_left, one=relative(1), two=relative(2))
