"""Whether a student's latest work on a standard is better or worse than before, items of different difficulty allowed for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import betainc

APART, SURE = 0.15, 0.975
LEAST_BEFORE, LEAST_LATE, MOST_LATE = 5.0, 5.0, 8.0
NODES = 200


@dataclass(frozen=True)
class Piece:
    """One scored item in time.

    Attributes
    ----------
    earned : float
        Points.
    possible : float
        Most points.
    p : float
        Usual p of the item, NaN where it is not known.
    """

    earned: float
    possible: float
    p: float


@dataclass(frozen=True)
class Direction:
    """What the latest pieces say beside all before.

    Attributes
    ----------
    way : int
        1 rising, -1 falling, 0 no direction is claimed.
    late : float | None
        Share beyond usual p of the latest; None where there is too little.
    before : float | None
        Of all before.
    """

    way: int
    late: float | None
    before: float | None


NONE = Direction(0, None, None)


def direction(pieces: Sequence[Piece]) -> Direction:
    """Latest pieces, from the last backwards until they hold min(8, max(5, a third of all points)), against those before.

    Parameters
    ----------
    pieces : Sequence[Piece]
        In time.

    Returns
    -------
    Direction
    """
    total = sum(p.possible for p in pieces)
    wanted = min(MOST_LATE, max(LEAST_LATE, total / 3))
    late: list[Piece] = []
    for piece in reversed(pieces):
        if sum(p.possible for p in late) >= wanted - 1e-9:
            break
        late.append(piece)
    before = list(pieces[: len(pieces) - len(late)])
    if sum(p.possible for p in late) < LEAST_LATE - 1e-9 or sum(p.possible for p in before) < LEAST_BEFORE - 1e-9:
        return NONE
    sides = [_side(late), _side(before)]
    apart = sides[0][0] - sides[1][0]
    if abs(apart) <= APART + 1e-9:
        return Direction(0, sides[0][0], sides[1][0])
    higher = _probability(sides[0], sides[1])
    way = 1 if apart > 0 and higher >= SURE else -1 if apart < 0 and higher <= 1 - SURE else 0
    return Direction(way, sides[0][0], sides[1][0])


def _side(pieces: Sequence[Piece]) -> tuple[float, float, float, float]:
    """Share beyond usual p, points earned and lost, and the mean usual p (0 where none is known)."""
    possible = sum(p.possible for p in pieces)
    usual = sum(0.0 if np.isnan(p.p) else p.p * p.possible for p in pieces) / possible
    earned = sum(p.earned for p in pieces)
    return earned / possible - usual, earned, possible - earned, usual


def _probability(late: tuple[float, float, float, float], before: tuple[float, float, float, float]) -> float:
    """That the late share less its usual p is above that before, by independent Beta(½ + earned, ½ + lost)."""
    edges = np.linspace(0, 1, NODES + 1)
    mass = np.diff(betainc(0.5 + before[1], 0.5 + before[2], edges))
    middle = (edges[1:] + edges[:-1]) / 2
    cut = np.clip(middle - before[3] + late[3], 0.0, 1.0)
    return float(mass @ (1 - betainc(0.5 + late[1], 0.5 + late[2], cut)))
