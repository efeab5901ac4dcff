"""What groups are compared on: an item, or several items together such as those of one standard."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.items import right_or_wrong
from bildung.core.data.arrays import IntArray
from bildung.core.data.responses import FIRST, OMITTED


@dataclass(frozen=True, kw_only=True)
class Measured:
    """An item, or several together, as measured of each counted student.

    Attributes
    ----------
    name : str
        Its name.
    row : IntArray
        (counted students,) place among `points`, -1 where the student did not meet it (of several items: not all of
        them).
    points : tuple[float, ...]
        (rows,) what may be earned, rising.
    maximum : float
        The most.
    binary : bool
        Right or wrong.
    """

    name: str
    row: IntArray
    points: tuple[float, ...]
    maximum: float
    binary: bool


def measured_items(analysis: TestAnalysis) -> list[Measured]:
    """Every item by itself."""
    return [measured_item(analysis, at) for at in range(len(analysis.items))]


def measured_item(analysis: TestAnalysis, at: int) -> Measured:
    """One item.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    at : int
        Its place.

    Returns
    -------
    Measured
    """
    found, answers = analysis.items[at], analysis.table.answers[at]
    points, row = np.unique(answers.code_points, return_inverse=True)
    rows = row.reshape(-1)[answers.codes].astype(np.int64)
    met = (answers.codes == OMITTED) | (answers.codes >= FIRST)
    return Measured(
        name=found.item.name,
        row=np.where(met, rows, -1),
        points=tuple(map(float, points)),
        maximum=found.item.points,
        binary=right_or_wrong(found.joint),
    )


def measured_groups(analysis: TestAnalysis, groups: Mapping[str, Sequence[int]]) -> list[Measured]:
    """Several items together, by name; counted are the students who met all items of a group.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    groups : Mapping[str, Sequence[int]]
        Places of items by name. Counted are the students who met all items of a group.

    Returns
    -------
    list[Measured]
    """
    found = []
    for name, places in groups.items():
        if len(places) == 1:
            one = measured_item(analysis, places[0])
            found.append(Measured(name=name, row=one.row, points=one.points, maximum=one.maximum, binary=one.binary))
            continue
        earned, met = np.zeros(analysis.table.n), np.ones(analysis.table.n, dtype=np.bool_)
        for at in places:
            answers = analysis.table.answers[at]
            earned += answers.code_points[answers.codes]
            met &= (answers.codes == OMITTED) | (answers.codes >= FIRST)
        points, row = np.unique(np.round(np.where(met, earned, 0.0), 9), return_inverse=True)
        maximum = sum(analysis.items[at].item.points for at in places)
        rows = np.where(met, row.reshape(-1), -1).astype(np.int64)
        found.append(Measured(name=name, row=rows, points=tuple(map(float, points)), maximum=maximum, binary=False))
    return found
