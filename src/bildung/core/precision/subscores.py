"""Scores on some of the items: by standard, depth, type or part, and how far each can be trusted by itself."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.intervals import Interval, mean_interval
from bildung.core.classical.reliability import alpha_from, feldt_interval
from bildung.core.data.arrays import FloatArray
from bildung.core.data.responses import AWAITING, NOT_PRESENTED
from bildung.core.precision.precision import part_scores

LEAST = 25


@dataclass(frozen=True, kw_only=True)
class SubScore:
    """One group of items.

    Attributes
    ----------
    name : str
        Its name.
    places : tuple[int, ...]
        From 0.
    points : float
        The most that can be earned.
    n : int
        Students who have a total and were presented one of the items at least.
    mean : float | None
        Of their shares of the points presented, 0..1, with its 95% t-interval.
    ci95 : Interval | None
        t-interval of the mean, 95%.
    sd : float | None
        Of those shares over n-1. alpha, alpha_ci95 (Feldt 1965) and sem (points): over students presented
        everything.
    alpha : float | None
        Over students presented everything.
    alpha_ci95 : Interval | None
        Its interval (Feldt 1965).
    sem : float | None
        In points.
    from_part : float | None
        Proportional reduction in mean squared error of the group's true score when it is predicted from the group
        alone and from the total (Haberman 2008).
    from_total : float | None
        Proportional reduction in mean squared error of the group's true score when it is predicted from the group
        alone and from the total (Haberman 2008).
    says_more : bool | None
        Whether the group says more of itself than the total does; None where that cannot be told.
    why : dict[str, str]
        Reasons of what is None.
    """

    name: str
    places: tuple[int, ...]
    points: float
    n: int
    mean: float | None
    ci95: Interval | None
    sd: float | None
    alpha: float | None
    alpha_ci95: Interval | None
    sem: float | None
    from_part: float | None
    from_total: float | None
    says_more: bool | None
    why: dict[str, str]


def points_on(analysis: TestAnalysis, places: Sequence[int]) -> tuple[FloatArray, FloatArray]:
    """Points that each student earned and could earn on some items: those presented to them and not awaiting a score.

    (counted,) points that each student earned and could earn on these items: those presented to them and not awaiting a
    score. Not reached earns nothing.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    places : Sequence[int]
        From 0.

    Returns
    -------
    tuple[FloatArray, FloatArray]
    """
    earned, possible = np.zeros(analysis.table.n), np.zeros(analysis.table.n)
    for at in places:
        answers = analysis.table.answers[at]
        open_ = ~np.isin(answers.codes, (NOT_PRESENTED, AWAITING))
        earned += np.where(open_, answers.code_points[answers.codes], 0.0)
        possible += np.where(open_, analysis.items[at].item.points, 0.0)
    return earned, possible


def sub_scores(analysis: TestAnalysis, groups: Mapping[str, Sequence[int]]) -> tuple[SubScore, ...]:
    """Scores by group of items.

    Groups that share items are judged one by one against the total.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    groups : Mapping[str, Sequence[int]]
        Places of items by name, in the order wanted; an item may be in none.

    Returns
    -------
    tuple[SubScore, ...]
    """
    matrix, n_full = analysis.covariances.matrix, analysis.covariances.n
    complete = analysis.scores.complete
    found = []
    for name, some in groups.items():
        places = tuple(some)
        earned, possible = points_on(analysis, places)
        kept = complete & (possible > 0)
        share = earned[kept] / possible[kept]
        n = int(share.size)
        why: dict[str, str] = {}
        mean = float(share.mean()) if n else None
        sd = float(share.std(ddof=1)) if n > 1 else None
        ci = None if mean is None or sd is None else mean_interval(mean, sd, n, 0.0, 1.0)
        if mean is None:
            why["mean"] = "no one with a total was presented any of these items"
        points = sum(analysis.items[at].item.points for at in places)
        alpha = interval = sem = from_part = from_total = None
        more: bool | None = None
        k = len(places)
        block = matrix[np.ix_(places, places)]
        variance = float(block.sum())
        if k < 2:
            why["alpha"] = "one item"
        elif n_full < 2 or variance <= 1e-12:
            why["alpha"] = "too few students, or all of them scored the same here"
        else:
            alpha = alpha_from(float(np.trace(block)), variance, k)
            interval = feldt_interval(alpha, n_full, k) if alpha < 1 else None
            sem = math.sqrt(variance * max(0.0, 1 - alpha))
            rest = [at for at in range(len(analysis.items)) if at not in set(places)]
            if not rest:
                why["says_more"] = "it is the whole test"
            elif n_full < LEAST:
                why["says_more"] = f"{n_full} students; {LEAST} are needed"
            elif alpha <= 0:
                why["says_more"] = "its items do not go together"
            else:
                own = next(
                    (p for p in part_scores(matrix, {name: list(places), "\0rest": rest}) if p.part == name), None
                )
                if own is None:
                    why["says_more"] = "its true score has no variance"
                else:
                    from_part, from_total, more = own.from_part, own.from_total, own.worth_reporting
        found.append(
            SubScore(
                name=name,
                places=places,
                points=points,
                n=n,
                mean=mean,
                ci95=ci,
                sd=sd,
                alpha=alpha,
                alpha_ci95=interval,
                sem=sem,
                from_part=from_part,
                from_total=from_total,
                says_more=more,
                why=why,
            )
        )
    return tuple(found)
