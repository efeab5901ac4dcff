"""What would move if an item were scored otherwise, or left out. Nothing is changed by asking."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.classical.moves import Moved, moves, shares
from bildung.core.data.arrays import FloatArray
from bildung.core.data.corrected import given_to_all
from bildung.core.data.pooling import restricted
from bildung.core.data.responses import Answers, ResponseTable
from bildung.core.errors import Refused

Way = Literal["key", "also", "everybody", "drop"]


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
    table = analysis.table
    if way == "drop":
        if len(table.items) < 2:
            raise Refused("the only item of a test cannot be dropped")
        other = restricted(table, [place for place in range(len(table.items)) if place != at])
    else:
        other = _rescored(table, at, way, answer)
    after = analyse(other, analysis.settings)
    then = None if way == "drop" else after.items[at]
    moved = moves(analysis, after, line)
    both = analysis.scores.complete & after.scores.complete
    now = analysis.items[at]
    return WhatIf(
        way=way,
        answer=answer,
        p=Moved(now.figures.p, then.figures.p if then else None),
        r_rest=Moved(now.figures.r_rest, then.figures.r_rest if then else None),
        alpha=moved.alpha,
        mean=moved.mean,
        sd=moved.sd,
        points=moved.points,
        n=moved.n,
        up=moved.up,
        down=moved.down,
        most=moved.most,
        line=moved.line,
        over=moved.over,
        under=moved.under,
        reordered=_tau(shares(analysis, both), shares(after, both)),
    )


def _rescored(table: ResponseTable, at: int, way: Way, answer: str) -> ResponseTable:
    item, answers = table.items[at], table.answers[at]
    points = answers.points.copy()
    changed = list(table.answers)
    if way == "everybody":
        changed[at] = given_to_all(answers, item.points, unreached=False)
    else:
        place = next((place for place, label in enumerate(answers.labels) if label == answer), None)
        if place is None:
            raise Refused(f"no one answered {answer!r} to {item.name}; choose one of the answers in its table")
        if way == "key":
            points[:] = 0.0
        points[place] = item.points
        changed[at] = Answers(answers.codes, answers.labels, points)
    keys = item.keys
    if item.kind == "choice" and way in ("key", "also"):
        keys = (answer,) if way == "key" else (*item.keys, answer)
    items = list(table.items)
    items[at] = replace(item, keys=keys)
    return ResponseTable(tuple(items), tuple(changed), table.status, table.parts)


def _tau(one: FloatArray, other: FloatArray) -> float | None:
    from scipy.stats import kendalltau

    if one.size < 2 or np.ptp(one) <= 1e-12 or np.ptp(other) <= 1e-12:
        return None
    return float(kendalltau(np.round(one, 9), np.round(other, 9)).statistic)
