"""What the others let expect of a part of them: a local expectation says nothing about the group it was made from."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.growth.expected import LEAST_LOCAL


@dataclass(frozen=True)
class Line:
    """A regression of end on start.

    Attributes
    ----------
    n : int
        Students that it is made from.
    slope : float
        For a point at the start.
    intercept : float
        At a start of 0.
    sd : float
        Of what is left, over n − 2.
    start_mean : float
        Of their starts.
    start_sd : float
        Of their starts, over n − 1.
    """

    n: int
    slope: float
    intercept: float
    sd: float
    start_mean: float
    start_sd: float


class Sums:
    """Sums of a grade, from which the regression without any part of it is had at once."""

    def __init__(self, start: FloatArray, end: FloatArray) -> None:
        self.start_center, self.end_center = float(start.mean()), float(end.mean())
        self._rows = np.column_stack([start - self.start_center, end - self.end_center])
        self._all = self._of(np.arange(start.size))

    def _of(self, rows: IntArray) -> FloatArray:
        x, y = self._rows[rows, 0], self._rows[rows, 1]
        return np.array([rows.size, x.sum(), y.sum(), x @ x, x @ y, y @ y])

    def without(self, part: IntArray) -> Line | None:
        """The regression of all but these rows; None where fewer than 30 are left, or they have no spread.

        Parameters
        ----------
        part : IntArray
            Rows of the part.

        Returns
        -------
        Line | None
        """
        n, x, y, xx, xy, yy = (self._all - self._of(part)).tolist()
        if n < LEAST_LOCAL:
            return None
        mx, my = x / n, y / n
        sxx, sxy, syy = xx - n * mx**2, xy - n * mx * my, yy - n * my**2
        if sxx <= 1e-9 * max(1.0, xx):
            return None
        slope = sxy / sxx
        left = max(syy - slope * sxy, 0.0)
        sd = float(np.sqrt(left / (n - 2)))
        if sd <= 1e-9:
            return None
        start_mean = mx + self.start_center
        intercept = my + self.end_center - slope * start_mean
        return Line(int(n), slope, intercept, sd, start_mean, float(np.sqrt(sxx / (n - 1))))
