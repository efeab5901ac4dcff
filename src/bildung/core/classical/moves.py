"""What moves between two analyses of the same students: before and after a correction, or a change that is only tried."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.data.arrays import BoolArray, FloatArray, IntArray


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


@dataclass(frozen=True)
class FlagMoved:
    """A flag that one of the two analyses has and the other has not.

    Attributes
    ----------
    item : str
        Its name.
    flag : str
        The flag.
    gone : bool
        Whether the second analysis is without it.
    """

    item: str
    flag: str
    gone: bool


@dataclass(frozen=True, kw_only=True)
class Moves:
    """What moves for the students of one administration.

    Attributes
    ----------
    alpha : Moved
        Of the test; where an item is dropped the mean is of fewer points.
    mean : Moved
        As alpha.
    sd : Moved
        As alpha.
    points : Moved
        Most that can be earned.
    n : int
        Students with a total before and after.
    up : int
        Of them, who have more: points, or the share of them where the test is worth other points than before.
    down : int
        Who have less.
    most : float
        The largest change, in points or, where the points differ, as a share.
    line : float
        The share at which students cross.
    over : int
        Who cross the line upwards.
    under : int
        Who cross it downwards.
    level_up : int
        Who reach a higher performance level.
    level_down : int
        Who fall to a lower one.
    settled : int
        Who have a total now and had none, as something waited for a score.
    unsettled : int
        Who had a total and have none now.
    flags : tuple[FlagMoved, ...]
        Flags that come or go.
    changed : BoolArray
        (students,) whose points or total moved at all.
    """

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
    level_up: int
    level_down: int
    settled: int
    unsettled: int
    flags: tuple[FlagMoved, ...]
    changed: BoolArray


def moves(before: TestAnalysis, after: TestAnalysis, line: float | None = None, cuts: Sequence[float] = ()) -> Moves:
    """What moves from one analysis to the other.

    Parameters
    ----------
    before : TestAnalysis
        As things stand.
    after : TestAnalysis
        Of the same students in the same order, otherwise scored.
    line : float | None
        Share of the points, the watch line unless named.
    cuts : Sequence[float]
        Shares of the points between performance levels, rising.

    Returns
    -------
    Moves
    """
    cut = before.settings.watch_line if line is None else line
    both = before.scores.complete & after.scores.complete
    was, now = shares(before, both), shares(after, both)
    by_share = bool(np.any(before.scores.possible[both] != after.scores.possible[both]))
    change = now - was if by_share else after.scores.earned[both] - before.scores.earned[both]
    step = np.sign(_levels(now, cuts) - _levels(was, cuts))
    passed, passes = was >= cut - 1e-9, now >= cut - 1e-9
    changed = (
        (before.scores.complete != after.scores.complete)
        | (np.abs(before.scores.earned - after.scores.earned) > 1e-9)
        | (np.abs(before.scores.possible - after.scores.possible) > 1e-9)
    )
    return Moves(
        alpha=Moved(before.reliability.alpha, after.reliability.alpha),
        mean=Moved(before.distribution.mean, after.distribution.mean),
        sd=Moved(before.distribution.sd, after.distribution.sd),
        points=Moved(before.distribution.points, after.distribution.points),
        n=int(both.sum()),
        up=int((change > 1e-9).sum()),
        down=int((change < -1e-9).sum()),
        most=float(np.abs(change).max()) if change.size else 0.0,
        line=cut,
        over=int((~passed & passes).sum()),
        under=int((passed & ~passes).sum()),
        level_up=int((step > 0).sum()),
        level_down=int((step < 0).sum()),
        settled=int((~before.scores.complete & after.scores.complete).sum()),
        unsettled=int((before.scores.complete & ~after.scores.complete).sum()),
        flags=_flags(before, after),
        changed=changed,
    )


def _levels(share: FloatArray, cuts: Sequence[float]) -> IntArray:
    return np.searchsorted(np.array(cuts, dtype=np.float64), share + 1e-9, side="right").astype(np.int64)


def shares(analysis: TestAnalysis, rows: BoolArray) -> FloatArray:
    """Each student's share of the points that were asked of them.

    Parameters
    ----------
    analysis : TestAnalysis
        Of an administration.
    rows : BoolArray
        (students,) of whom.

    Returns
    -------
    FloatArray
    """
    earned, possible = analysis.scores.earned[rows], analysis.scores.possible[rows]
    share: FloatArray = np.divide(earned, possible, out=np.zeros_like(earned), where=possible > 0)
    return share


def _flags(before: TestAnalysis, after: TestAnalysis) -> tuple[FlagMoved, ...]:
    was = {(found.item.name, flag.flag) for found in before.items for flag in found.flags if flag.weight != "note"}
    now = {(found.item.name, flag.flag) for found in after.items for flag in found.flags if flag.weight != "note"}
    return tuple(FlagMoved(*one, gone=one in was) for one in sorted(was ^ now))
