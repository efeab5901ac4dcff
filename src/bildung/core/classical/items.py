"""Item statistics (methods.md, section 2): facility, relation to the rest of the test, discrimination."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.intervals import NORMAL, Interval, fisher_interval, mean_interval, wilson
from bildung.core.classical.joint import Joint, weighted_correlation
from bildung.core.classical.ranks import slices
from bildung.core.data.responses import NOT_PRESENTED, NOT_REACHED, OMITTED

UPPER_SHARE = 0.27


@dataclass(frozen=True, kw_only=True)
class ItemStatistics:
    """Figures of one item; None where undefined, with the reason in `why`.

    Attributes
    ----------
    n : int
        Students who reached it.
    n_r : int
        Those of them with a total.
    n_omitted : int
        Students who left it out.
    n_not_reached : int
        Students who did not get to it.
    n_not_presented : int
        Students who were not given it.
    p : float | None
        Shares 0..1 of the item's points.
    p_all : float | None
        Shares 0..1 of the item's points.
    p_ci95 : Interval | None
        Interval of p, 95%.
    sd : float | None
        Points (n-1). Correlations -1..1.
    r_rest : float | None
        Correlation with the rest of the test.
    r_rest_ci95 : Interval | None
        Its interval, 95%.
    r_total : float | None
        Correlation with the total.
    biserial : float | None
        Biserial correlation with the rest.
    d27 : float | None
        Shares 0..1 of the item's points.
    why : dict[str, str]
        Reasons by figure.
    """

    n: int
    n_r: int
    n_omitted: int
    n_not_reached: int
    n_not_presented: int
    p: float | None
    p_all: float | None
    p_ci95: Interval | None
    sd: float | None
    r_rest: float | None
    r_rest_ci95: Interval | None
    r_total: float | None
    biserial: float | None
    d27: float | None
    why: dict[str, str]

    @property
    def presented(self) -> int:
        """How many students were given it."""
        return self.n + self.n_not_reached


def item_statistics(joint: Joint) -> ItemStatistics:
    """All figures of one item from its joint count. Kelley (1939) for d27, Henrysson (1963) for r_rest."""
    item, why = joint.item, dict[str, str]()
    met = joint.reached_rows
    everybody = np.where(met, joint.everybody, 0).astype(np.float64)
    n = int(everybody.sum())
    not_reached = int(joint.everybody[NOT_REACHED])
    points = joint.points
    p = p_all = sd = None
    p_ci95: Interval | None = None
    if n:
        mean = float(everybody @ points) / n
        p = mean / item.points
        p_all = mean * n / (n + not_reached) / item.points
        spread = float(everybody @ (points - mean) ** 2)
        sd = math.sqrt(spread / (n - 1)) if n > 1 else None
        if right_or_wrong(joint):
            p_ci95 = wilson(float(everybody[points > 0].sum()), n)
        else:
            interval = mean_interval(mean, sd or 0.0, n, 0.0, item.points)
            p_ci95 = None if interval is None else (interval[0] / item.points, interval[1] / item.points)
            if p_ci95 is None:
                why["p_ci95"] = "all scores are equal, or fewer than two students"
        if sd is None:
            why["sd"] = "fewer than two students"
    else:
        for name in ("p", "p_all", "p_ci95", "sd"):
            why[name] = "no one reached the item"
    weights = joint.weights
    n_r = joint.n_r
    r_rest = r_total = biserial = d27 = None
    if n_r < 4:
        why["r_rest"] = why["r_total"] = f"only {n_r} students with a total reached the item; 4 are needed"
    else:
        r_rest = weighted_correlation(weights, points[:, None], joint.rest)
        r_total = weighted_correlation(weights, points[:, None], joint.scores.level_earned[None, :])
        if r_rest is None:
            why["r_rest"] = "all students scored the same on the item, or on the rest of the test"
        if r_total is None:
            why["r_total"] = "all students scored the same on the item, or on the test"
    r_rest_ci95 = None if r_rest is None else fisher_interval(r_rest, n_r)
    if r_rest_ci95 is None:
        why["r_rest_ci95"] = why.get("r_rest", "too few students")
    if not right_or_wrong(joint):
        why["biserial"] = "the item is not scored right or wrong"
    elif r_rest is None:
        why["biserial"] = why["r_rest"]
    else:
        right = float(weights[points > 0].sum()) / n_r
        biserial = r_rest * math.sqrt(right * (1 - right)) / NORMAL.pdf(NORMAL.inv_cdf(right))
    if n_r:
        by_level = weights.sum(axis=0)
        ends = slices(by_level, joint.scores.standing, np.array([0, UPPER_SHARE, 1 - UPPER_SHARE, 1.0]))
        earned = (weights * points[:, None]).sum(axis=0)
        size = UPPER_SHARE * n_r
        d27 = float((ends[2] - ends[0]) @ earned) / size / item.points
    else:
        why["d27"] = "no student with a total reached the item"
    return ItemStatistics(
        n=n,
        n_r=n_r,
        n_omitted=int(joint.everybody[OMITTED]),
        n_not_reached=not_reached,
        n_not_presented=int(joint.everybody[NOT_PRESENTED]),
        p=p,
        p_all=p_all,
        p_ci95=p_ci95,
        sd=sd,
        r_rest=r_rest,
        r_rest_ci95=r_rest_ci95,
        r_total=r_total,
        biserial=biserial,
        d27=d27,
        why=why,
    )


def right_or_wrong(joint: Joint) -> bool:
    """Whether the item is a 0/1 item: everybody was scored right or wrong, whatever its points.

    One scored by a person is only where it is worth one point.
    """
    whole = bool(np.all((joint.points == 0) | (joint.points == joint.item.points)))
    return whole and (joint.item.kind != "points" or joint.item.points == 1)
