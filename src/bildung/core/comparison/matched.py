"""Two groups compared on an item among students of equal score (methods.md, section 4).

Mantel & Haenszel (1959) with the continuity correction floored at 0; standard error of the log odds
ratio by Robins, Breslow & Greenland (1986); D-DIF scale of Holland & Thayer (1988); for partial credit
Mantel (1963) without continuity correction and the standardized mean difference.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray

D_SCALE = -2.35


@dataclass(frozen=True, kw_only=True)
class Matched:
    """Two groups matched on the score.

    Strata without both groups or without both outcomes are dropped.

    Attributes
    ----------
    odds_ratio : float | None
        Odds of the reference over the focal group. d_dif below 0: harder for the focal group.
    chi2 : float | None
        Mantel-Haenszel, with correction.
    p_value : float | None
        Of no difference.
    d_dif : float | None
        On the delta scale; below 0 is harder for the focal group.
    d_dif_se : float | None
        Its standard error.
    std_p_difference : float | None
        Focal minus reference, share.
    smd : float | None
        The same in points. None where undefined, with the reason in `why`.
    strata_used : int
        Scores with both groups and both outcomes.
    strata_dropped : int
        The others.
    why : str | None
        The reason where a figure is None.
    """

    odds_ratio: float | None
    chi2: float | None
    p_value: float | None
    d_dif: float | None
    d_dif_se: float | None
    std_p_difference: float | None
    smd: float | None
    strata_used: int
    strata_dropped: int
    why: str | None = None


def chi2_tail(chi2: float) -> float:
    """Upper tail of χ² with one degree of freedom."""
    return math.erfc(math.sqrt(max(chi2, 0.0) / 2))


def mantel_haenszel(
    reference_right: FloatArray, reference: FloatArray, focal_right: FloatArray, focal: FloatArray
) -> Matched:
    """A 0/1 item. All arrays (strata,): students right and in all, by group."""
    total, right = reference + focal, reference_right + focal_right
    used = (reference > 0) & (focal > 0) & (right > 0) & (right < total)
    occupied = int((total > 0).sum())
    dropped = occupied - int(used.sum())
    if not used.any():
        return Matched(
            odds_ratio=None,
            chi2=None,
            p_value=None,
            d_dif=None,
            d_dif_se=None,
            std_p_difference=None,
            smd=None,
            strata_used=0,
            strata_dropped=dropped,
            why="no score was reached by both groups with both outcomes",
        )
    a, n_r, c, n_f = (x[used].astype(np.float64) for x in (reference_right, reference, focal_right, focal))
    b, d, t = n_r - a, n_f - c, n_r + n_f
    m1, m0 = a + c, b + d
    expected = n_r * m1 / t
    variance = n_r * n_f * m1 * m0 / (t**2 * (t - 1))
    spread = float(variance.sum())
    chi2 = max(abs(float((a - expected).sum())) - 0.5, 0.0) ** 2 / spread if spread > 0 else None
    share = float((n_f * (c / n_f - a / n_r)).sum() / n_f.sum())
    r, s = a * d / t, b * c / t
    sum_r, sum_s = float(r.sum()), float(s.sum())
    p_value = None if chi2 is None else chi2_tail(chi2)
    if sum_r <= 0 or sum_s <= 0:
        why = "the odds ratio is 0 or infinite: one group is always right, or always wrong, where the other is not"
        return Matched(
            odds_ratio=None,
            chi2=chi2,
            p_value=p_value,
            d_dif=None,
            d_dif_se=None,
            std_p_difference=share,
            smd=share,
            strata_used=int(used.sum()),
            strata_dropped=dropped,
            why=why,
        )
    p, q = (a + d) / t, (b + c) / t
    var = (
        float((p * r).sum()) / (2 * sum_r**2)
        + float((p * s + q * r).sum()) / (2 * sum_r * sum_s)
        + float((q * s).sum()) / (2 * sum_s**2)
    )
    odds = sum_r / sum_s
    return Matched(
        odds_ratio=odds,
        chi2=chi2,
        p_value=p_value,
        d_dif=D_SCALE * math.log(odds),
        d_dif_se=abs(D_SCALE) * math.sqrt(var),
        std_p_difference=share,
        smd=share,
        strata_used=int(used.sum()),
        strata_dropped=dropped,
    )


def mantel(reference: IntArray, focal: IntArray, points: FloatArray) -> Matched:
    """A partial-credit item. reference, focal: (points, strata) counts; points: (points,) what each row earns."""
    n_r, n_f = reference.sum(axis=0).astype(np.float64), focal.sum(axis=0).astype(np.float64)
    both = (reference + focal).astype(np.float64)
    t = n_r + n_f
    y1, y2 = points @ both, (points**2) @ both
    used = (n_r > 0) & (n_f > 0) & (t * y2 - y1**2 > 1e-9)
    dropped = int((t > 0).sum()) - int(used.sum())
    if not used.any():
        return Matched(
            odds_ratio=None,
            chi2=None,
            p_value=None,
            d_dif=None,
            d_dif_se=None,
            std_p_difference=None,
            smd=None,
            strata_used=0,
            strata_dropped=dropped,
            why="no score was reached by both groups with different outcomes",
        )
    n_r, n_f, t, y1, y2 = n_r[used], n_f[used], t[used], y1[used], y2[used]
    observed_f, observed_r = points @ focal[:, used], points @ reference[:, used]
    variance = float((n_r * n_f / (t**2 * (t - 1)) * (t * y2 - y1**2)).sum())
    chi2 = float((observed_f - n_f * y1 / t).sum()) ** 2 / variance if variance > 0 else None
    smd = float((n_f * (observed_f / n_f - observed_r / n_r)).sum() / n_f.sum())
    most = float(points.max())
    return Matched(
        odds_ratio=None,
        chi2=chi2,
        p_value=None if chi2 is None else chi2_tail(chi2),
        d_dif=None,
        d_dif_se=None,
        std_p_difference=smd / most if most else None,
        smd=smd,
        strata_used=int(used.sum()),
        strata_dropped=dropped,
    )


def adjust(p_values: list[float]) -> list[float]:
    """Benjamini & Hochberg (1995) adjusted p-values, in the order given."""
    m = len(p_values)
    order = sorted(range(m), key=lambda at: p_values[at], reverse=True)
    adjusted, least = [0.0] * m, 1.0
    for rank, at in enumerate(order):
        least = min(least, p_values[at] * m / (m - rank))
        adjusted[at] = least
    return adjusted
