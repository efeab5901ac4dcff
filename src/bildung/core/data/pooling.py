"""Several administrations as one table: some items of each, one administration below the other.

What was omitted and what was not reached is a matter of the form that was sat, so tables are settled before they are cut.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bildung.core.data.arrays import CodeArray, IntArray
from bildung.core.data.responses import AWAITING, FIRST, Answers, ItemColumn, ResponseTable, Status
from bildung.core.errors import Refused


def restricted(table: ResponseTable, places: Sequence[int]) -> ResponseTable:
    """The items at some places, in this order.

    The items at these places, in this order. A sitting is waiting only where one of them awaits a score; a sitting
    without any answer to the whole form stays blank.

    Parameters
    ----------
    table : ResponseTable
        Answers of the students to the items.
    places : Sequence[int]
        From 0.

    Returns
    -------
    ResponseTable

    Raises
    ------
    Refused
        Without an item.
    """
    if not places:
        raise Refused("a response table needs at least one item")
    answers = tuple(table.answers[at] for at in places)
    status = table.status.copy()
    waiting = status == Status.WAITING
    if waiting.any():
        still = np.any([a.codes == AWAITING for a in answers], axis=0)
        status[waiting & ~still] = Status.SAT
    items = tuple(table.items[at] for at in places)
    return ResponseTable(items, answers, status, tuple(dict.fromkeys(item.part for item in items)))


def stacked(tables: Sequence[ResponseTable]) -> ResponseTable:
    """Tables of the same items one below the other.

    All tables hold the same items (by name, kind and points) in the same order; parts and standards are those of the
    first.

    Parameters
    ----------
    tables : Sequence[ResponseTable]
        At least one.

    Returns
    -------
    ResponseTable

    Raises
    ------
    Refused
        Otherwise.
    """
    if not tables:
        raise Refused("nothing to stack")
    first = tables[0]
    if len(tables) == 1:
        return first
    for table in tables[1:]:
        if [_identity(item) for item in table.items] != [_identity(item) for item in first.items]:
            raise Refused("tables of different items cannot be stacked; restrict them to the common ones first")
    answers = tuple(_joined([table.answers[at] for table in tables]) for at in range(len(first.items)))
    return ResponseTable(first.items, answers, np.concatenate([table.status for table in tables]), first.parts)


def _identity(item: ItemColumn) -> tuple[str, str, float, tuple[str, ...]]:
    return item.name, item.kind, item.points, item.options


def _joined(some: Sequence[Answers]) -> Answers:
    """Labels in the order in which they are first met."""
    if all(a.labels == some[0].labels for a in some):
        return Answers(np.concatenate([a.codes for a in some]), some[0].labels, some[0].points)
    place: dict[str, int] = {}
    points: list[float] = []
    columns: list[IntArray] = []
    for a in some:
        lookup = np.arange(FIRST + len(a.labels), dtype=np.int64)
        for at, label in enumerate(a.labels):
            if label not in place:
                place[label] = len(place)
                points.append(float(a.points[at]))
            lookup[FIRST + at] = FIRST + place[label]
        columns.append(lookup[a.codes])
    codes = np.concatenate(columns)
    narrow: CodeArray = codes.astype(np.uint8) if FIRST + len(place) <= 256 else codes.astype(np.int32)
    return Answers(narrow, tuple(place), np.array(points, dtype=np.float64))
