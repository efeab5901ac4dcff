"""What became of standards between two days: gained, confirmed again, lapsed, in progress."""

from __future__ import annotations

from typing import Literal, get_args

import numpy as np

from bildung.core.data.arrays import IntArray
from bildung.core.mastery.states import MASTERED

Change = Literal["", "gained", "confirmed again", "lapsed", "in progress"]
CHANGES: tuple[Change, ...] = get_args(Change)


def changes(history: IntArray, day: IntArray, count: IntArray, first: int, last: int) -> IntArray:
    """Of each cell with evidence in these days, what that did to mastery.

    Gained: mastered then and not before; confirmed again: before and then; lapsed: before and not then; in progress: neither.

    Parameters
    ----------
    history : IntArray
        (cells, most occasions) states after each occasion.
    day : IntArray
        (cells, most occasions) ordinal days.
    count : IntArray
        (cells,) occasions.
    first : int
        Ordinal of the first day.
    last : int
        Of the last.

    Returns
    -------
    IntArray
        (cells,) place in CHANGES.
    """
    cells, most = day.shape
    there = np.arange(most) < count[:, None]
    before = (there & (day < first)).sum(axis=1)
    until = (there & (day <= last)).sum(axis=1)
    rows = np.arange(cells)
    padded = np.concatenate([np.zeros((cells, 1), dtype=np.int64), history], axis=1)
    was, now = padded[rows, before] >= MASTERED, padded[rows, until] >= MASTERED
    found = np.where(now, np.where(was, 2, 1), np.where(was, 3, 4))
    return np.where(until > before, found, 0)
