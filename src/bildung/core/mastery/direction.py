"""Whether students' latest work on a standard is better or worse than before, items of different difficulty allowed for."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import betainc

from bildung.core.data.arrays import BoolArray, FloatArray, IntArray

APART, SURE = 0.15, 0.975
LEAST_BEFORE, LEAST_LATE, MOST_LATE = 5.0, 5.0, 8.0
NODES = 200
HOPELESS = 1.2  # normal deviate under which no probability reaches what an arrow asks
HAIR = 1e-9
AT_ONCE = 4096


@dataclass(frozen=True)
class Directions:
    """What the latest work says beside all before; all arrays (cells,).

    Attributes
    ----------
    way : IntArray
        1 rising, -1 falling, 0 no direction is claimed.
    judged : BoolArray
        Whether there is enough on both sides to claim one.
    late : FloatArray
        Share beyond usual p of the latest; NaN where there is too little.
    before : FloatArray
        Of all before.
    """

    way: IntArray
    judged: BoolArray
    late: FloatArray
    before: FloatArray


@dataclass(frozen=True)
class _Side:
    """Points earned and lost, and the mean usual p; all arrays (cells,)."""

    earned: FloatArray
    lost: FloatArray
    usual: FloatArray

    @property
    def beyond(self) -> FloatArray:
        """Share beyond usual p."""
        found: FloatArray = self.earned / (self.earned + self.lost) - self.usual
        return found

    @property
    def spread(self) -> FloatArray:
        """Variance of Beta(½ + earned, ½ + lost)."""
        a, b = 0.5 + self.earned, 0.5 + self.lost
        found: FloatArray = a * b / ((a + b) ** 2 * (a + b + 1))
        return found

    def take(self, cells: IntArray) -> _Side:
        """Of some cells."""
        return _Side(self.earned[cells], self.lost[cells], self.usual[cells])


def directions(cell: IntArray, earned: FloatArray, possible: FloatArray, p: FloatArray, cells: int) -> Directions:
    """Latest items of each cell, from the last backwards until they hold min(8, max(5, a third of all points)), against those before.

    Parameters
    ----------
    cell : IntArray
        (n,) of each scored item, in order of cells, and of time within each.
    earned : FloatArray
        (n,) points.
    possible : FloatArray
        (n,) most points.
    p : FloatArray
        (n,) usual p; a cell with a NaN is judged by its shares alone.
    cells : int
        How many there are.

    Returns
    -------
    Directions
    """
    total = np.bincount(cell, possible, cells)
    wanted = np.minimum(MOST_LATE, np.maximum(LEAST_LATE, total / 3))
    through = np.cumsum(possible)
    start = np.r_[0.0, through][np.searchsorted(cell, np.arange(cells))]
    after = total[cell] - (through - start[cell])
    late = after < wanted[cell] - HAIR
    unknown = np.bincount(cell, np.isnan(p), cells) > 0
    known = np.where(unknown[cell], 0.0, p)
    sides = [_side(cell[part], earned[part], possible[part], known[part], cells) for part in (late, ~late)]
    judged = (sides[0].earned + sides[0].lost >= LEAST_LATE - HAIR) & (
        sides[1].earned + sides[1].lost >= LEAST_BEFORE - HAIR
    )
    way = np.zeros(cells, dtype=np.int64)
    at = np.flatnonzero(judged)
    apart = sides[0].take(at).beyond - sides[1].take(at).beyond
    far = np.abs(apart) > APART + HAIR
    at, apart = at[far], apart[far]
    near, other = sides[0].take(at), sides[1].take(at)
    likely = np.abs(apart) > HOPELESS * np.sqrt(near.spread + other.spread)
    for first in range(0, at.size, AT_ONCE):
        part = np.flatnonzero(likely[first : first + AT_ONCE]) + first
        higher = _probability(near.take(part), other.take(part))
        way[at[part]] = np.where(
            (apart[part] > 0) & (higher >= SURE), 1, np.where((apart[part] < 0) & (higher <= 1 - SURE), -1, 0)
        )
    beyond = [np.full(cells, np.nan) for _ in sides]
    some = np.flatnonzero(judged)
    for target, side in zip(beyond, sides, strict=True):
        target[some] = side.take(some).beyond
    return Directions(way, judged, *beyond)


def _side(cell: IntArray, earned: FloatArray, possible: FloatArray, p: FloatArray, cells: int) -> _Side:
    got, most = np.bincount(cell, earned, cells), np.bincount(cell, possible, cells)
    usual = np.bincount(cell, p * possible, cells) / np.where(most > 0, most, 1.0)
    return _Side(got.astype(np.float64), (most - got).astype(np.float64), usual)


def _probability(late: _Side, before: _Side) -> FloatArray:
    """That the late share less its usual p is above that before, by independent Beta(½ + earned, ½ + lost)."""
    edges = np.linspace(0, 1, NODES + 1)
    mass = np.diff(betainc(0.5 + before.earned[:, None], 0.5 + before.lost[:, None], edges), axis=1)
    middle = (edges[1:] + edges[:-1]) / 2
    cut = np.clip(middle - before.usual[:, None] + late.usual[:, None], 0.0, 1.0)
    above = 1 - betainc(0.5 + late.earned[:, None], 0.5 + late.lost[:, None], cut)
    found: FloatArray = (mass * above).sum(axis=1)
    return found
