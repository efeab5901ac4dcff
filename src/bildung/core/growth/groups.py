"""Growth of groups, with shrinkage where there are enough of them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from bildung.core.data.arrays import FloatArray, IntArray

Interval = tuple[float, float]
LEAST_GROUPS = 5


@dataclass(frozen=True, kw_only=True)
class GroupGrowth:
    """Growth of one group; gain and means in score units, residual gains in standard deviations of the end given the start.

    Attributes
    ----------
    n : int
        Students.
    mean_start : float
        At the start.
    mean_end : float
        At the end.
    mean_gain : float
        End less start.
    gain_ci95 : Interval | None
        Its interval, 95%.
    mean_residual_gain : float | None
        None where nobody could be expected of.
    residual_gain_ci95 : Interval | None
        Its interval, 95%.
    mean_residual_gain_shrunken : float | None
        Drawn toward the mean of all groups.
    shrunken_se : float | None
        Its standard error.
    median_like_start_percentile : float | None
        Median of the students.
    share_met_expected : float | None
        Share whose gain reached what was expected.
    effect_size : float | None
        Mean gain in standard deviations of the start.
    judged : int
        Students behind the residual figures.
    """

    n: int
    mean_start: float
    mean_end: float
    mean_gain: float
    gain_ci95: Interval | None
    mean_residual_gain: float | None
    residual_gain_ci95: Interval | None
    mean_residual_gain_shrunken: float | None
    shrunken_se: float | None
    median_like_start_percentile: float | None
    share_met_expected: float | None
    effect_size: float | None
    judged: int = 0

    def why(self) -> dict[str, str]:
        """The reason of each figure that is missing."""
        reasons = {
            "gain_ci95": "fewer than two students",
            "effect_size": "the start scores have no spread",
            "residual_gain_ci95": "fewer than two students with an expected score",
            "mean_residual_gain_shrunken": f"fewer than {LEAST_GROUPS} groups with an expected score, or no spread within them",
        }
        if not self.judged:
            nobody = "no student of this group has an expected score"
            reasons |= dict.fromkeys(
                (
                    "mean_residual_gain",
                    "residual_gain_ci95",
                    "mean_residual_gain_shrunken",
                    "median_like_start_percentile",
                    "share_met_expected",
                ),
                nobody,
            )
        return {name: reason for name, reason in reasons.items() if getattr(self, name) is None}


def t_interval(values: FloatArray) -> Interval | None:
    """Mean ± t·s/√n; None for fewer than two values."""
    n = values.size
    if n < 2:
        return None
    half = float(stdtrit(n - 1, 0.975)) * float(values.std(ddof=1)) / math.sqrt(n)
    mean = float(values.mean())
    return mean - half, mean + half


def between_variance(means: FloatArray, errors: FloatArray, most: int = 200) -> float:
    """Τ², the variance between groups, by restricted maximum likelihood with Fisher scoring.

    τ² by restricted maximum likelihood, Fisher scoring.

    Parameters
    ----------
    means : FloatArray
        (groups,).
    errors : FloatArray
        (groups,) their variances.
    most : int
        Steps that may be taken.

    Returns
    -------
    float
    """
    tau = max(float(means.var(ddof=1) - errors.mean()), 0.0)
    for _ in range(most):
        w = 1 / (tau + errors)
        total = float(w.sum())
        mu = float(w @ means) / total
        w2, w3 = float((w**2).sum()), float((w**3).sum())
        slope = 0.5 * (float((w**2) @ (means - mu) ** 2) - total + w2 / total)
        curve = 0.5 * (w2 - 2 * w3 / total + w2**2 / total**2)
        step = slope / curve
        after = max(tau + step, 0.0)
        if abs(after - tau) < 1e-12 * (1 + tau):
            return after
        tau = after
    return tau


def shrink(values: FloatArray, member: IntArray, groups: int) -> list[tuple[float, float]] | None:
    """Shrunken mean and standard error of each group; None under five groups.

    Variance B·σ²/n + (1-B)²·var(μ̂).

    Parameters
    ----------
    values : FloatArray
        (n,).
    member : IntArray
        (n,) place of each value's group, all present.
    groups : int
        How many groups.

    Returns
    -------
    list[tuple[float, float]] | None
    """
    if groups < LEAST_GROUPS or values.size <= groups:
        return None
    n = np.bincount(member, minlength=groups).astype(np.float64)
    means = np.bincount(member, weights=values, minlength=groups) / n
    within = float(((values - means[member]) ** 2).sum()) / (values.size - groups)
    if within <= 0:
        return None
    errors = within / n
    tau = between_variance(means, errors)
    w = 1 / (tau + errors)
    mu, var_mu = float(w @ means) / float(w.sum()), 1 / float(w.sum())
    b = tau / (tau + errors)
    variance = b * errors + (1 - b) ** 2 * var_mu
    return [(float(mu + bi * (m - mu)), math.sqrt(float(v))) for bi, m, v in zip(b, means, variance, strict=True)]


def group_growth(
    labels: Sequence[str],
    start: FloatArray,
    end: FloatArray,
    residual: FloatArray,
    known: IntArray,
    percentile: FloatArray,
    sd_start: FloatArray,
) -> dict[str, GroupGrowth]:
    """Growth by label, in alphabetical order; students without a label leave.

    Parameters
    ----------
    labels : Sequence[str]
        Group of each, (n,).
    start : FloatArray
        Scores, (n,).
    end : FloatArray
        Scores, (n,).
    residual : FloatArray
        (n,), used where known is 1.
    known : IntArray
        Where an expectation could be made, (n,).
    percentile : FloatArray
        (n,), used where known is 1.
    sd_start : FloatArray
        (n,) of the norm, or of the matched students.

    Returns
    -------
    dict[str, GroupGrowth]
    """
    names = sorted({label for label in labels if label})
    place = {name: at for at, name in enumerate(names)}
    member = np.array([place.get(label, -1) for label in labels], dtype=np.int64)
    has = (member >= 0) & (known == 1)
    present = np.unique(member[has])
    renumbered = np.searchsorted(present, member[has])
    shrunken = shrink(residual[has], renumbered.astype(np.int64), present.size)
    found = {}
    by_group = np.split(np.argsort(member, kind="stable"), np.cumsum(np.bincount(member + 1, minlength=len(names) + 1)))
    for at, name in enumerate(names):
        mine = by_group[at + 1]  # the first holds those without a label
        judged = mine[has[mine]]
        gain = end[mine] - start[mine]
        r = residual[judged]
        own = int(np.searchsorted(present, at)) if judged.size else None
        small = shrunken[own] if shrunken is not None and own is not None else (None, None)
        found[name] = GroupGrowth(
            n=int(mine.size),
            mean_start=float(start[mine].mean()),
            mean_end=float(end[mine].mean()),
            mean_gain=float(gain.mean()),
            gain_ci95=t_interval(gain),
            mean_residual_gain=float(r.mean()) if r.size else None,
            residual_gain_ci95=t_interval(r),
            mean_residual_gain_shrunken=small[0],
            shrunken_se=small[1],
            median_like_start_percentile=float(np.median(percentile[judged])) if r.size else None,
            share_met_expected=float((r >= 0).mean()) if r.size else None,
            effect_size=float((gain / sd_start[mine]).mean()) if (sd_start[mine] > 0).all() else None,
            judged=int(judged.size),
        )
    return found
