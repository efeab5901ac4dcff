"""Whether an item has changed between two administrations (methods.md, section 2)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.intervals import Z95, Interval
from bildung.core.classical.items import right_or_wrong
from bildung.core.comparison.compare import newcombe
from bildung.core.comparison.matched import Matched, mantel, mantel_haenszel
from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.data.responses import FIRST, OMITTED
from bildung.core.errors import Refused

LEAST_COMMON = 2


@dataclass(frozen=True, kw_only=True)
class Drift:
    """How an item moved between two administrations.

    Attributes
    ----------
    item : str
        Its name.
    p_change : float | None
        Later minus earlier share, with Newcombe's interval for 0/1 items.
    p_change_ci95 : Interval | None
        Newcombe's interval for 0/1 items.
    r_change : float | None
        Of the item-rest correlation, with an interval by Fisher's z.
    r_change_ci95 : Interval | None
        An interval by Fisher's z.
    matched : Matched
        Later against earlier among students of equal score on the common items; its d_dif is below 0 where the item
        became harder than the others did.
    """

    item: str
    p_change: float | None
    p_change_ci95: Interval | None
    r_change: float | None
    r_change_ci95: Interval | None
    matched: Matched


def drift(earlier: TestAnalysis, later: TestAnalysis) -> tuple[Drift, ...]:
    """One entry for each item that both have, in the later order. Refused under two common items."""
    before = {item.item.name: at for at, item in enumerate(earlier.items)}
    common = [(before[item.item.name], at) for at, item in enumerate(later.items) if item.item.name in before]
    if len(common) < LEAST_COMMON:
        raise Refused(f"{len(common)} items in common; at least {LEAST_COMMON} are needed")
    scores = (_common_score(earlier, [a for a, _ in common]), _common_score(later, [b for _, b in common]))
    values, level = np.unique(np.concatenate(scores), return_inverse=True)
    levels = np.split(level.reshape(-1), [scores[0].size])
    return tuple(_one(earlier, later, a, b, levels, values.size) for a, b in common)


def _common_score(analysis: TestAnalysis, places: list[int]) -> FloatArray:
    score = np.zeros(analysis.table.n)
    for at in places:
        answers = analysis.table.answers[at]
        score += answers.code_points[answers.codes]
    return np.round(score, 9)


def _counts(analysis: TestAnalysis, at: int, level: IntArray, levels: int, points: FloatArray) -> IntArray:
    """(points, levels) over students with a total who reached the item."""
    answers = analysis.table.answers[at]
    met = (answers.codes == OMITTED) | (answers.codes >= FIRST)
    used = met & analysis.scores.complete
    row = np.searchsorted(points, answers.code_points[answers.codes[used]])
    return np.bincount(row * levels + level[used], minlength=points.size * levels).reshape(points.size, levels)


def _one(earlier: TestAnalysis, later: TestAnalysis, a: int, b: int, levels: list[IntArray], size: int) -> Drift:
    first, last = earlier.items[a], later.items[b]
    points = np.unique(np.concatenate([earlier.table.answers[a].code_points, later.table.answers[b].code_points]))
    one, two = _counts(earlier, a, levels[0], size, points), _counts(later, b, levels[1], size, points)
    p_ci = None
    if right_or_wrong(last.joint):
        right = points >= last.item.points
        found = mantel_haenszel(one[right].sum(axis=0), one.sum(axis=0), two[right].sum(axis=0), two.sum(axis=0))
        if last.figures.n and first.figures.n and last.figures.p is not None and first.figures.p is not None:
            p_ci = newcombe(
                last.figures.p * last.figures.n, last.figures.n, first.figures.p * first.figures.n, first.figures.n
            )
    else:
        found = mantel(one, two, points)
    p = None if last.figures.p is None or first.figures.p is None else last.figures.p - first.figures.p
    r_ci = r = None
    if last.figures.r_rest is not None and first.figures.r_rest is not None:
        r = last.figures.r_rest - first.figures.r_rest
        r_ci = _r_change(last.figures.r_rest, last.figures.n_r, first.figures.r_rest, first.figures.n_r)
    return Drift(item=last.item.name, p_change=p, p_change_ci95=p_ci, r_change=r, r_change_ci95=r_ci, matched=found)


def _r_change(r1: float, n1: int, r2: float, n2: int) -> Interval | None:
    """r1 - r2 from the two Fisher intervals, put together as Newcombe does for shares (Zou 2007)."""
    if n1 < 4 or n2 < 4 or abs(r1) >= 1 or abs(r2) >= 1:
        return None

    def bounds(r: float, n: int) -> Interval:
        z, half = math.atanh(r), Z95 / math.sqrt(n - 3)
        return math.tanh(z - half), math.tanh(z + half)

    (l1, u1), (l2, u2) = bounds(r1, n1), bounds(r2, n2)
    return r1 - r2 - math.hypot(r1 - l1, u2 - r2), r1 - r2 + math.hypot(u1 - r1, r2 - l2)
