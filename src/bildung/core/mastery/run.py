"""Runs of evidence: how long the present share has held, and what it is (product partition; forward filter).

Between occasions the share has changed, and starts from the prior anew, with a chance that grows with instructional days
(Barry & Hartigan 1993; Chib 1998; Adams & MacKay 2007).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.mastery.occasions import CELLS, EDGES, SHARES, Occasions
from bildung.core.mastery.rules import MasteryRules

AT_ONCE = 192  # cells of one step, as many as a processor's cache holds


@dataclass(frozen=True)
class Filtered:
    """What each occasion leaves believed; arrays are (cells, most occasions), NaN or -1 beyond a cell's last.

    Attributes
    ----------
    above : FloatArray
        Posterior probability that the share is at or above the line.
    mean : FloatArray
        Posterior mean of the share.
    begins : IntArray
        Place of the occasion at which the run begins that is likeliest then.
    posterior : FloatArray
        (cells, 200) after the last occasion.
    """

    above: FloatArray
    mean: FloatArray
    begins: IntArray
    posterior: FloatArray


def hazards(days: IntArray, half_life: float) -> FloatArray:
    """Chance that the share has changed over so many instructional days, at least one.

    Parameters
    ----------
    days : IntArray
        Of instruction between two occasions.
    half_life : float
        Days after which it is one half.

    Returns
    -------
    FloatArray
    """
    found: FloatArray = 1 - 2 ** (-np.maximum(1, days) / half_life)
    return found


def over(line: float) -> FloatArray:
    """Part of each cell that lies at or above the line, (200,); the cell that holds it is split in the root's arcsine."""
    edges = np.arcsin(np.sqrt(EDGES))
    at = float(np.arcsin(np.sqrt(line)))
    found: FloatArray = np.clip((edges[1:] - at) / np.diff(edges), 0.0, 1.0)
    return found


def filtered(found: Occasions, between: IntArray, rules: MasteryRules) -> Filtered:
    """Run the filter over all cells; equal sequences are worked out once.

    Parameters
    ----------
    found : Occasions
        Of all cells.
    between : IntArray
        (cells, most occasions) instructional days since the occasion before; the first does not count.
    rules : MasteryRules
        Line and half-life.

    Returns
    -------
    Filtered
    """
    cells, most = found.pattern.shape
    above, mean = np.full((cells, most), np.nan), np.full((cells, most), np.nan)
    begins = np.full((cells, most), -1, dtype=np.int64)
    posterior = np.full((cells, CELLS), 1 / CELLS)
    for length in range(1, most + 1):
        mine = np.flatnonzero(found.count == length)
        if not mine.size:
            continue
        at, inverse = _alike(found.pattern[mine, :length], between[mine, 1:length])
        told = [np.empty((at.size, length)), np.empty((at.size, length))]
        begin, last = np.empty((at.size, length), dtype=np.int64), np.empty((at.size, CELLS))
        for start in range(0, at.size, AT_ONCE):
            rows = mine[at[start : start + AT_ONCE]]
            part = slice(start, start + AT_ONCE)
            told[0][part], told[1][part], begin[part], last[part] = _steps(
                found.pattern[rows, :length], between[rows, 1:length], found.likelihood, rules
            )
        above[mine, :length], mean[mine, :length] = told[0][inverse], told[1][inverse]
        begins[mine, :length], posterior[mine] = begin[inverse], last[inverse]
    return Filtered(above, mean, begins, posterior)


def _alike(pattern: IntArray, between: IntArray) -> tuple[IntArray, IntArray]:
    """Equal sequences once: where the first of each stands, and which one each is."""
    key = np.zeros(pattern.shape[0], dtype=np.uint64)
    for column in (*pattern.T, *between.T):
        key = (key ^ column.astype(np.uint64)) * np.uint64(0x9E3779B97F4A7C15)
        key ^= key >> np.uint64(29)
    _, at, inverse = np.unique(key, return_index=True, return_inverse=True)
    return at, inverse.reshape(-1)


def _steps(
    pattern: IntArray, between: IntArray, likelihood: FloatArray, rules: MasteryRules
) -> tuple[FloatArray, FloatArray, IntArray, FloatArray]:
    """Of sequences of one length: (n, length) probability, mean and begin of the run, and the last posterior."""
    n, length = pattern.shape
    worth = np.column_stack([over(rules.line), SHARES, np.ones(CELLS)])
    runs = np.empty((n, length, CELLS))
    above, mean = np.empty((n, length)), np.empty((n, length))
    begins = np.empty((n, length), dtype=np.int64)
    total, now = np.ones(n), np.empty((n, CELLS))
    for t in range(length):
        seen = likelihood[pattern[:, t]]
        if t == 0:
            np.divide(seen, CELLS, out=runs[:, 0])
        else:
            # scaled by the total before, so that nothing becomes too small over many occasions
            h = hazards(between[:, t - 1], rules.half_life)
            runs[:, :t] *= (((1 - h) / total)[:, None] * seen)[:, None, :]
            np.multiply((h / CELLS)[:, None], seen, out=runs[:, t])
        here = runs[:, : t + 1]
        mass = here @ worth[:, 2]
        # ties go to the earliest, as argmax does; a hair is no difference
        begins[:, t] = (mass >= mass.max(axis=1, keepdims=True) * (1 - 1e-12)).argmax(axis=1)
        now = here.sum(axis=1)
        sums = now @ worth
        total = sums[:, 2]
        above[:, t], mean[:, t] = sums[:, 0] / total, sums[:, 1] / total
    return above, mean, begins, now / total[:, None]


def interval(posterior: FloatArray, width: float = 0.90) -> tuple[FloatArray, FloatArray]:
    """Equal-tailed intervals of the share from cells, (n,) low and high ends, linear within a cell's arcsine.

    Parameters
    ----------
    posterior : FloatArray
        (n, 200).
    width : float
        Probability that lies within.

    Returns
    -------
    tuple[FloatArray, FloatArray]
    """
    total = np.concatenate([np.zeros((posterior.shape[0], 1)), np.cumsum(posterior, axis=1)], axis=1)
    angles = np.linspace(0, np.pi / 2, CELLS + 1)
    ends = []
    for tail in ((1 - width) / 2, (1 + width) / 2):
        at = np.array([np.interp(tail, row, angles) for row in total])
        ends.append(np.sin(at) ** 2)
    return ends[0], ends[1]
