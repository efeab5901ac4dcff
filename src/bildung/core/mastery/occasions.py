"""Evidence of many students on many standards, as the filter reads it: occasions in time, with how likely each share makes them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray

CELLS = 200
LONG = 2.0  # possible points from which a response weighs no more: it is not that many trials
FLATTER = 1.2  # shares of a mixed population are flatter than one student's curve (Zeger, Liang & Albert 1988)
HELD = 0.02  # usual p is held within this and its complement
EDGES = np.sin(np.linspace(0, np.pi / 2, CELLS + 1)) ** 2  # of the cells, equal in arcsin of the root
SHARES = np.sin((np.arange(CELLS) + 0.5) / CELLS * np.pi / 2) ** 2
LOGITS = np.log(SHARES / (1 - SHARES))
SEED = 20260803  # of the numbers by which equal occasions are found


@dataclass(frozen=True)
class Items:
    """Items as evidence of a standard, one row for each item and standard; all arrays (items,).

    Attributes
    ----------
    possible : FloatArray
        Most points, above 0.
    main : FloatArray
        1 for the item's main standard, 0.5 for one that it also touches.
    p : FloatArray
        Usual p of the item, NaN where it is not known.
    usual : FloatArray
        Usual p of the standard's items, NaN where it is not known.
    """

    possible: FloatArray
    main: FloatArray
    p: FloatArray
    usual: FloatArray

    @property
    def weight(self) -> FloatArray:
        """Of each row's points.

        Returns
        -------
        FloatArray
        """
        found: FloatArray = self.main * np.minimum(1.0, LONG / self.possible)
        return found


@dataclass(frozen=True)
class Evidence:
    """Scored points, one row for each item that a student answered; all arrays (n,).

    Attributes
    ----------
    cell : IntArray
        Which student and standard, from 0.
    day : IntArray
        Of the occasion, as a proleptic ordinal.
    item : IntArray
        Row of `items`.
    earned : FloatArray
        Points.
    items : Items
        What the rows are of.
    """

    cell: IntArray
    day: IntArray
    item: IntArray
    earned: FloatArray
    items: Items


@dataclass(frozen=True)
class Occasions:
    """Cells by occasion, in time; arrays are (cells, most occasions), padded with -1 patterns.

    Attributes
    ----------
    pattern : IntArray
        Row of `likelihood`, -1 where there is no such occasion.
    day : IntArray
        Ordinal day, 0 where there is none.
    earned : FloatArray
        Weighted points Σwx.
    possible : FloatArray
        Weighted possible points Σwm.
    raw_earned : FloatArray
        Points.
    raw_possible : FloatArray
        Possible points.
    likelihood : FloatArray
        (patterns, 200) of each share, largest 1.
    count : IntArray
        (cells,) occasions.
    """

    pattern: IntArray
    day: IntArray
    earned: FloatArray
    possible: FloatArray
    raw_earned: FloatArray
    raw_possible: FloatArray
    likelihood: FloatArray
    count: IntArray


def curve(p: FloatArray, usual: FloatArray) -> FloatArray:
    """P_j(π) at the cells' shares, (n, 200): how often items of usual p are right where the usual item is with π.

    Parameters
    ----------
    p : FloatArray
        (n,) NaN counts as usual.
    usual : FloatArray
        (n,) of the standard, NaN counts as usual.

    Returns
    -------
    FloatArray
    """
    known = ~np.isnan(p) & ~np.isnan(usual)
    shift = np.zeros(p.size)
    shift[known] = FLATTER * (_logit(p[known]) - _logit(usual[known]))
    found: FloatArray = 1 / (1 + np.exp(-(LOGITS[None, :] + shift[:, None])))
    return found


def _logit(p: FloatArray) -> FloatArray:
    held = np.clip(p, HELD, 1 - HELD)
    found: FloatArray = np.log(held / (1 - held))
    return found


def occasions(evidence: Evidence, cells: int) -> Occasions:
    """Put rows together by cell and day; order within a day does not matter.

    Equal occasions, which whole classes share, have one likelihood.

    Parameters
    ----------
    evidence : Evidence
        All of it.
    cells : int
        How many cells there are; those without evidence have no occasion.

    Returns
    -------
    Occasions
    """
    e = evidence
    span = int(e.day.max()) + 1 if e.day.size else 1
    place = e.cell * span + e.day
    order = np.argsort(place, kind="stable")
    place, item, earned = place[order], e.item[order], e.earned[order]
    first = np.flatnonzero(np.r_[True, place[1:] != place[:-1]]) if place.size else np.zeros(0, dtype=np.int64)
    of_cell, of_day = place[first] // span, place[first] % span
    count = np.bincount(of_cell, minlength=cells).astype(np.int64)
    most = int(count.max()) if first.size else 0
    column = np.arange(first.size) - np.repeat(np.cumsum(count) - count, count)
    weight, possible = e.items.weight[item], e.items.possible[item]
    wide = []
    for part in (weight * earned, weight * possible, earned, possible):
        target = np.zeros((cells, most))
        target[of_cell, column] = np.add.reduceat(part, first) if first.size else part
        wide.append(target)
    pattern, likelihood = _patterns(item, earned, first, e.items)
    patterns, days = np.full((cells, most), -1, dtype=np.int64), np.zeros((cells, most), dtype=np.int64)
    patterns[of_cell, column], days[of_cell, column] = pattern, of_day
    return Occasions(
        pattern=patterns,
        day=days,
        earned=wide[0],
        possible=wide[1],
        raw_earned=wide[2],
        raw_possible=wide[3],
        likelihood=likelihood,
        count=count,
    )


def _patterns(item: IntArray, earned: FloatArray, first: IntArray, items: Items) -> tuple[IntArray, FloatArray]:
    """Occasions of the same rows are one pattern: its number by occasion, and the likelihood of each.

    Equal rows are found by the sum of random numbers of 64 bits, in which order does not matter.
    """
    if not first.size:
        return np.zeros(0, dtype=np.int64), np.zeros((0, CELLS))
    scores, of_score = np.unique(earned, return_inverse=True)
    kind = item * scores.size + of_score.reshape(-1)
    drawn = np.random.default_rng(SEED).integers(0, 2**63, items.possible.size * scores.size, dtype=np.uint64)
    _, at, pattern = np.unique(np.add.reduceat(drawn[kind], first), return_index=True, return_inverse=True)
    ends = np.r_[first[1:], item.size]
    size = (ends - first)[at]
    rows = np.repeat(first[at] - np.r_[0, np.cumsum(size)[:-1]], size) + np.arange(int(size.sum()))
    kinds, of_kind = np.unique(kind[rows], return_inverse=True)
    log = _logs(items, kinds // scores.size, scores[kinds % scores.size])[of_kind.reshape(-1)]
    total = np.add.reduceat(log, np.r_[0, np.cumsum(size)[:-1]], axis=0)
    total -= total.max(axis=1, keepdims=True)
    return pattern.reshape(-1).astype(np.int64), np.exp(total)


def _logs(items: Items, item: IntArray, earned: FloatArray) -> FloatArray:
    """Log likelihood of each item and score, (n, 200)."""
    right = curve(items.p[item], items.usual[item])
    weight, possible = items.weight[item], items.possible[item]
    found: FloatArray = (weight * earned)[:, None] * np.log(right)
    found += (weight * (possible - earned))[:, None] * np.log1p(-right)
    return found
