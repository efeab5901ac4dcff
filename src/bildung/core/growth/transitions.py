"""Movement between ordered levels, where steps are not equal and no average is taken."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import bdtr

from bildung.core.classical.intervals import Interval, wilson
from bildung.core.data.arrays import IntArray


@dataclass(frozen=True)
class Transitions:
    """From level to level.

    Attributes
    ----------
    counts : IntArray
        (levels, levels) students by level at the start and at the end.
    up : int
        Who ended on a higher level.
    same : int
        Who ended on the same.
    down : int
        Who ended on a lower one.
    up_ci95 : Interval | None
        95% interval of the share who rose (Wilson 1927); None without students.
    p : float | None
        Two-sided sign test of rises against falls; None where nobody moved.
    """

    counts: IntArray
    up: int
    same: int
    down: int
    up_ci95: Interval | None
    p: float | None

    @property
    def n(self) -> int:
        """Students.

        Returns
        -------
        int
        """
        return self.up + self.same + self.down


def transitions(start: IntArray, end: IntArray, levels: int) -> Transitions:
    """Movement of students between ordered levels.

    Parameters
    ----------
    start : IntArray
        (n,) places from 0.
    end : IntArray
        (n,) places from 0.
    levels : int
        How many there are.

    Returns
    -------
    Transitions
    """
    counts = np.zeros((levels, levels), dtype=np.int64)
    np.add.at(counts, (start, end), 1)
    up, down = int((end > start).sum()), int((end < start).sum())
    n = int(start.size)
    moved = up + down
    p = None if moved == 0 else min(1.0, 2 * float(bdtr(min(up, down), moved, 0.5)))
    return Transitions(counts, up, n - moved, down, wilson(up, n) if n else None, p)
