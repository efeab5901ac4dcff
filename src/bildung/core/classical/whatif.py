"""What would move if an item were scored otherwise, or left out. Nothing is changed by asking."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.data.arrays import BoolArray, FloatArray
from bildung.core.data.pooling import restricted
from bildung.core.data.responses import FIRST, OMITTED, Answers, ResponseTable
from bildung.core.errors import Refused

Way = Literal["key", "also", "everybody", "drop"]


@dataclass(frozen=True)
class Moved:
    """A figure before and after.

    Attributes
    ----------
    before : float | None
        Of one figure.
    after : float | None
        Of one figure.
    """

    before: float | None
    after: float | None


@dataclass(frozen=True, kw_only=True)
class WhatIf:
    """What another key, or none, would change.

    Attributes
    ----------
    way : Way
        What was tried.
    answer : str
        What was tried.
    p : Moved
        Of the item, after None where it is dropped.
    r_rest : Moved
        Of the item, after None where it is dropped.
    alpha : Moved
        Of the test; where an item is dropped the mean is of fewer points.
    mean : Moved
        Of the test; where an item is dropped the mean is of fewer points.
    sd : Moved
        Of the test; where an item is dropped the mean is of fewer points.
    points : Moved
        Points.
    n : int
        How many.
    up : int
        Students who would earn more and fewer points.
    down : int
        Students who would earn more and fewer points.
    most : float
        The largest change, in points.
    line : float
        The share at which students cross.
    over : int
        Students who would cross the line upwards and downwards, by share of the points.
    under : int
        Students who would cross the line upwards and downwards, by share of the points.
    reordered : float | None
        Kendall's tau-b of the totals before and after; 1 where nobody changes places.
    """

    way: Way
    answer: str
    p: Moved
    r_rest: Moved
    alpha: Moved
    mean: Moved
    sd: Moved
    points: Moved
    n: int
    up: int
    down: int
    most: float
    line: float
    over: int
    under: int
    reordered: float | None


def what_if(analysis: TestAnalysis, item: str, way: Way, answer: str = "", line: float | None = None) -> WhatIf:
    """What would move if an item were scored in another way.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    item : str
        Its name.
    way : Way
        "key" makes `answer` the only right one, "also" right beside the key, "everybody" gives every student who
        reached the item its points, "drop" leaves it out.
    answer : str
        The answer that it is about.
    line : float | None
        Share of the points, the watch line unless named.

    Returns
    -------
    WhatIf

    Raises
    ------
    Refused
        For an answer that nobody gave, or for the only item of a test.
    """
    at = next((place for place, found in enumerate(analysis.items) if found.item.name == item), None)
    if at is None:
        raise Refused(f"there is no item {item!r} on this form")
    cut = analysis.settings.watch_line if line is None else line
    table = analysis.table
    if way == "drop":
        if len(table.items) < 2:
            raise Refused("the only item of a test cannot be dropped")
        other = restricted(table, [place for place in range(len(table.items)) if place != at])
    else:
        other = _rescored(table, at, way, answer)
    after = analyse(other, analysis.settings)
    then = None if way == "drop" else after.items[at]
    kept = analysis.scores.complete
    gone = after.scores.complete
    both = kept & gone
    change = after.scores.earned[both] - analysis.scores.earned[both]
    share_before, share_after = _shares(analysis, both), _shares(after, both)
    passed, passes = share_before >= cut - 1e-9, share_after >= cut - 1e-9
    if way == "drop":
        # points are not comparable with another total: by share
        change = share_after - share_before
    now = analysis.items[at]
    return WhatIf(
        way=way,
        answer=answer,
        p=Moved(now.figures.p, then.figures.p if then else None),
        r_rest=Moved(now.figures.r_rest, then.figures.r_rest if then else None),
        alpha=Moved(analysis.reliability.alpha, after.reliability.alpha),
        mean=Moved(analysis.distribution.mean, after.distribution.mean),
        sd=Moved(analysis.distribution.sd, after.distribution.sd),
        points=Moved(analysis.distribution.points, after.distribution.points),
        n=int(both.sum()),
        up=int((change > 1e-9).sum()),
        down=int((change < -1e-9).sum()),
        most=float(np.abs(change).max()) if change.size else 0.0,
        line=cut,
        over=int((~passed & passes).sum()),
        under=int((passed & ~passes).sum()),
        reordered=_tau(share_before, share_after),
    )


def _rescored(table: ResponseTable, at: int, way: Way, answer: str) -> ResponseTable:
    item, answers = table.items[at], table.answers[at]
    points = answers.points.copy()
    if way == "everybody":
        points[:] = item.points
    else:
        place = next((place for place, label in enumerate(answers.labels) if label == answer), None)
        if place is None:
            raise Refused(f"no one answered {answer!r} to {item.name}; choose one of the answers in its table")
        if way == "key":
            points[:] = 0.0
        points[place] = item.points
    changed = list(table.answers)
    changed[at] = Answers(answers.codes, answers.labels, points)
    if way == "everybody":
        # an omission cannot carry points: it becomes an answer of its own
        codes = answers.codes.astype(np.int32)
        codes[answers.codes == OMITTED] = FIRST + len(answers.labels)
        changed[at] = Answers(codes, (*answers.labels, ""), np.append(points, item.points))
    keys = item.keys
    if item.kind == "choice" and way in ("key", "also"):
        keys = (answer,) if way == "key" else (*item.keys, answer)
    items = list(table.items)
    items[at] = replace(item, keys=keys)
    return ResponseTable(tuple(items), tuple(changed), table.status, table.parts)


def _shares(analysis: TestAnalysis, rows: BoolArray) -> FloatArray:
    earned, possible = analysis.scores.earned[rows], analysis.scores.possible[rows]
    share: FloatArray = np.divide(earned, possible, out=np.zeros_like(earned), where=possible > 0)
    return share


def _tau(one: FloatArray, other: FloatArray) -> float | None:
    from scipy.stats import kendalltau

    if one.size < 2 or np.ptp(one) <= 1e-12 or np.ptp(other) <= 1e-12:
        return None
    return float(kendalltau(np.round(one, 9), np.round(other, 9)).statistic)
