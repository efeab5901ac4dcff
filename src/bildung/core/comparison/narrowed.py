"""A narrowed view of an administration: its own figures, with flags that rest on everybody who took the test.

A class of 24 is too few to tell whether an item separates; the grade of 400 that sat it with them is not. What is wrong
with an item is wrong with it in every class, so it is judged on everybody, and how far this class got on the class.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bildung.core.classical.analysis import ItemAnalysis, TestAnalysis
from bildung.core.classical.flags import by_weight
from bildung.core.classical.measured import Measured, measured_item
from bildung.core.data.arrays import BoolArray

OWN = ("below_the_watch_line",)  # what is said of the students, not of the item


def flagged_by(view: TestAnalysis, whole: TestAnalysis) -> TestAnalysis:
    """A view with the flags and verdicts of the whole, which holds its sittings and more.

    `view` with the flags and verdicts of `whole`, which holds its sittings and more. A flag that speaks of how far
    students got is the view's own where its students are enough to say so.

    Parameters
    ----------
    view : TestAnalysis
        The narrower.
    whole : TestAnalysis
        The wider.

    Returns
    -------
    TestAnalysis

    Raises
    ------
    ValueError
        Where the items differ.
    """
    theirs = {item.item.name: item for item in whole.items}
    if set(theirs) != {item.item.name for item in view.items}:
        raise ValueError("the two analyses are of different items")
    return replace(view, items=tuple(_flagged(item, theirs[item.item.name], view) for item in view.items))


def _flagged(mine: ItemAnalysis, whole: ItemAnalysis, view: TestAnalysis) -> ItemAnalysis:
    flags = list(whole.flags)
    if mine.figures.n >= view.settings.least_description:
        flags = [f for f in flags if f.flag not in OWN] + [f for f in mine.flags if f.flag in OWN]
    return replace(mine, flags=by_weight(flags), sound=whole.sound, judged_on=whole.figures.n)


@dataclass(frozen=True)
class WiderGroup:
    """A wider group that a narrowed view is held against.

    Attributes
    ----------
    name : str
        What it is.
    n : int
        Students in it.
    p : list[float | None]
        Of each item, in the order of the test, None where nobody in the group reached it.
    """

    name: str
    n: int
    p: list[float | None]


def levels(whole: TestAnalysis, groups: Sequence[tuple[str, BoolArray]]) -> list[WiderGroup]:
    """P of every item in each wider group, narrowest first.

    p of every item in each group of counted rows of `whole`, narrowest first; of groups with the same rows only the one
    that is named last, and widest.

    Parameters
    ----------
    whole : TestAnalysis
        The test over all of them.
    groups : Sequence[tuple[str, BoolArray]]
        Name and (counted,) rows.

    Returns
    -------
    list[WiderGroup]
    """
    found = [
        (name, rows)
        for at, (name, rows) in enumerate(groups)
        if not any(np.array_equal(rows, other) for _, other in groups[at + 1 :])
    ]
    items = [measured_item(whole, at) for at in range(len(whole.items))]
    return [WiderGroup(name, int(rows.sum()), [_share(item, rows) for item in items]) for name, rows in found]


def _share(item: Measured, rows: BoolArray) -> float | None:
    met = item.row[rows]
    met = met[met >= 0]
    return float(np.array(item.points)[met].mean() / item.maximum) if met.size and item.maximum > 0 else None
