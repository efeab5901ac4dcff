"""Reliability of the total and what follows from it (methods.md, section 3)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.covariances import Covariances
from bildung.core.classical.factor import one_factor
from bildung.core.classical.intervals import Z95, Interval
from bildung.core.data.arrays import BoolArray, FloatArray
from bildung.core.data.responses import ItemColumn

LARGE = 60
ALMOST_NONE = 1e-9  # of the items' variances together: a total that varies less is the same for all
DISTRIBUTION_FREE = "distribution-free (Yuan, Guarnaccia & Hayslip 2003)"
FELDT = "Feldt (1965)"


@dataclass(frozen=True, kw_only=True)
class Reliability:
    """Coefficients over `n` students with a total to whom all items were presented; None with a reason in `why`.

    None with a reason in `why`. sum_item_variances (T) and total_variance (V): points² over n-1.

    Attributes
    ----------
    n : int
        How many students.
    sum_item_variances : float | None
        T, points² over n - 1.
    total_variance : float | None
        V, points² over n - 1.
    alpha : float | None
        Coefficient alpha (Cronbach 1951).
    alpha_ci95 : Interval | None
        Its interval, 95%.
    alpha_ci_method : str | None
        How that was made.
    kr21 : float | None
        Kuder-Richardson 21.
    lambda2 : float | None
        Guttman's lambda 2.
    split_half : float | None
        Odd against even, stepped up.
    omega : float | None
        Omega of one factor.
    stratified_alpha : float | None
        Alpha stratified by part.
    alpha_without : tuple[float | None, ...]
        By item, None where undefined.
    why : dict[str, str]
        Reasons by figure.
    """

    n: int
    sum_item_variances: float | None
    total_variance: float | None
    alpha: float | None
    alpha_ci95: Interval | None
    alpha_ci_method: str | None
    kr21: float | None
    lambda2: float | None
    split_half: float | None
    omega: float | None
    stratified_alpha: float | None
    alpha_without: tuple[float | None, ...]
    why: dict[str, str]


def alpha_from(item_variances: float, total_variance: float, k: int) -> float:
    """Alpha from variances, k/(k - 1)·(1 - T/V) (Cronbach 1951).

    k/(k-1)·(1 - T/V) (Cronbach 1951); k >= 2 and V > 0.

    Parameters
    ----------
    item_variances : float
        T, their sum.
    total_variance : float
        V, above 0.
    k : int
        Items, at least 2.

    Returns
    -------
    float
    """
    return k / (k - 1) * (1 - item_variances / total_variance)


def spearman_brown(reliability: float, factor: float) -> float:
    """Reliability of a test `factor` times as long (Spearman 1910, Brown 1910)."""
    return factor * reliability / (1 + (factor - 1) * reliability)


def feldt_interval(alpha: float, n: int, k: int) -> Interval:
    """Exact under normal scores and parallel items (Feldt 1965); n >= 2, k >= 2."""
    from scipy.special import fdtri

    first, second = n - 1, (n - 1) * (k - 1)
    high = 1 - (1 - alpha) * float(fdtri(first, second, 0.025))
    low = 1 - (1 - alpha) * float(fdtri(first, second, 0.975))
    return low, high


def reliability(cov: Covariances, items: Sequence[ItemColumn]) -> Reliability:
    """All coefficients from the item covariances."""
    k, matrix, why = len(items), cov.matrix, dict[str, str]()
    nothing = (None,) * k
    names = ("alpha", "alpha_ci95", "kr21", "lambda2", "split_half", "omega", "stratified_alpha")
    reason = None
    if cov.n < 2:
        reason = "fewer than two students with a total were presented all items"
    elif k < 2:
        reason = "the test has one item"
    elif cov.total_variance <= ALMOST_NONE * float(cov.item_variances.sum()) or cov.total_variance <= 0:
        reason = "all students have the same total"
    variances = cov.item_variances
    t, v = float(variances.sum()), cov.total_variance
    if reason:
        without = _alpha_without(matrix, t, v) if cov.n >= 2 else nothing
        return Reliability(
            n=cov.n,
            sum_item_variances=None,
            total_variance=None,
            alpha=None,
            alpha_ci95=None,
            alpha_ci_method=None,
            kr21=None,
            lambda2=None,
            split_half=None,
            omega=None,
            stratified_alpha=None,
            alpha_without=without,
            why=dict.fromkeys(names, reason),
        )
    alpha = alpha_from(t, v, k)
    if cov.n >= LARGE:
        method = DISTRIBUTION_FREE
        interval = _distribution_free(alpha, cov.influence_sd)
    else:
        method = FELDT
        interval = feldt_interval(alpha, cov.n, k)
    if interval is None:
        why["alpha_ci95"] = "alpha is 1"
    off = matrix - np.diag(variances)
    lambda2 = (float(off.sum()) + math.sqrt(k / (k - 1) * float((off**2).sum()))) / v
    ones = all(item.points == 1 for item in items)
    kr21 = None
    if ones:
        mean, biased = float(cov.means.sum()), v * (cov.n - 1) / cov.n
        kr21 = k / (k - 1) * (1 - mean * (k - mean) / (k * biased))
    else:
        why["kr21"] = "an item is worth other than 1 point"
    odd = np.arange(k) % 2 == 0
    split = _split_half(matrix, odd)
    if split is None:
        why["split_half"] = "one half has no variance"
    omega = _omega(matrix)
    if omega is None:
        why["omega"] = "fewer than three items vary, or their correlations are singular"
    stratified, why_not = _stratified(matrix, items, v)
    if why_not:
        why["stratified_alpha"] = why_not
    return Reliability(
        n=cov.n,
        sum_item_variances=t,
        total_variance=v,
        alpha=alpha,
        alpha_ci95=interval,
        alpha_ci_method=method,
        kr21=kr21,
        lambda2=lambda2,
        split_half=split,
        omega=omega,
        stratified_alpha=stratified,
        alpha_without=_alpha_without(matrix, t, v),
        why=why,
    )


def _distribution_free(alpha: float, s: float | None) -> Interval | None:
    """1 - exp(ln(1 - alpha) ± 1.96·s/(1 - alpha))."""
    if s is None or alpha >= 1:
        return None
    center, half = math.log(1 - alpha), Z95 * s / (1 - alpha)
    return 1 - math.exp(center + half), 1 - math.exp(center - half)


def _alpha_without(matrix: FloatArray, t: float, v: float) -> tuple[float | None, ...]:
    k = matrix.shape[0]
    without: list[float | None] = [None] * k
    if k < 3:
        return tuple(without)
    own = np.diag(matrix)
    left = v - 2 * matrix.sum(axis=0) + own
    without = [
        alpha_from(t - float(gone), float(rest), k - 1) if rest > ALMOST_NONE * (t - float(gone)) and rest > 0 else None
        for gone, rest in zip(own, left, strict=True)
    ]
    return tuple(without)


def _split_half(matrix: FloatArray, first: BoolArray) -> float | None:
    """Odd against even items in form order, stepped up to full length."""
    a, b = float(matrix[np.ix_(first, first)].sum()), float(matrix[np.ix_(~first, ~first)].sum())
    if a <= 1e-12 or b <= 1e-12:
        return None
    r = float(matrix[np.ix_(first, ~first)].sum()) / math.sqrt(a * b)
    return None if r <= -1 else spearman_brown(r, 2)


def _omega(matrix: FloatArray) -> float | None:
    """(Σλ)²/((Σλ)² + Σψ) of one factor on the covariances (McDonald 1999)."""
    vary = np.diag(matrix) > 1e-12
    if int(vary.sum()) < 3:
        return None
    part = matrix[np.ix_(vary, vary)]
    sd = np.sqrt(np.diag(part))
    solution = one_factor(part / np.outer(sd, sd))
    if solution is None:
        return None
    loadings, unique = solution
    common = float((sd * loadings).sum()) ** 2
    return common / (common + float((sd**2 * unique).sum()))


def _stratified(matrix: FloatArray, items: Sequence[ItemColumn], v: float) -> tuple[float | None, str]:
    """1 - Σ V_part·(1 - alpha_part)/V (Rajaratnam, Cronbach & Gleser 1965)."""
    parts: dict[str, list[int]] = {}
    for at, item in enumerate(items):
        parts.setdefault(item.part, []).append(at)
    if len(parts) < 2:
        return None, "the test has one section"
    lost = 0.0
    for name, places in parts.items():
        if len(places) < 2:
            return None, f"part {name!r} has one item"
        block = matrix[np.ix_(places, places)]
        variance = float(block.sum())
        if variance > 1e-12:
            lost += variance * (1 - alpha_from(float(np.trace(block)), variance, len(places)))
    return 1 - lost / v, ""
