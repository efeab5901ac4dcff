"""Runs of evidence: how long the present share has held, and what it is (product partition; forward filter).

Between occasions the share has changed, and starts from the prior anew, with a chance that grows with instructional days
(Barry & Hartigan 1993; Chib 1998; Adams & MacKay 2007).
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.mastery.occasions import CELLS, EDGES, SHARES, Occasions
from bildung.core.mastery.rules import MasteryRules

AT_ONCE = 16_384  # cells of one step; few enough that stretches which they share are still in the cache
SCALED = 4  # occasions after which likelihoods are scaled, so that nothing becomes too small over many
THREADS = 2


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
    """

    above: FloatArray
    mean: FloatArray
    begins: IntArray


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
    """Run the filter over all cells.

    A run from occasion s to t has the marginal likelihood Z(s, t), the sum over the shares of the prior times all likelihoods in
    it. Of whole classes many runs are alike, so each is worked out once; the rest is sums of Z by the chances of change.

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
    if not most:
        return Filtered(above, mean, begins)
    worth = np.column_stack([np.ones(CELLS), over(rules.line), SHARES]) / CELLS
    order = np.argsort(found.pattern[:, 0], kind="stable")
    order = order[found.count[order] > 0]

    def step(start: int) -> None:
        rows = order[start : start + AT_ONCE]
        width = int(found.count[rows].max())
        h = hazards(between[rows, :width], rules.half_life)
        told = _mixed(_stretches(found, rows, width, worth), h)
        has = np.arange(width) < found.count[rows, None]
        for target, part in zip((above, mean, begins), told, strict=True):
            target[rows, :width] = np.where(has, part, target[rows, :width])

    starts = range(0, order.size, AT_ONCE)
    if len(starts) < 2:
        list(map(step, starts))
    else:
        # blocks share no row, and the arithmetic leaves the interpreter alone
        with ThreadPoolExecutor(THREADS) as pool:
            list(pool.map(step, starts))
    return Filtered(above, mean, begins)


def _stretches(found: Occasions, rows: IntArray, width: int, worth: FloatArray) -> FloatArray:
    """(width, width, rows, 3) by first and last occasion: log Z, and the posterior of one share over it: at or above the line, mean."""
    told = np.full((width, width, rows.size, 3), np.nan)
    told[..., 0] = -np.inf
    for first in range(width):
        node, shape, scale = np.zeros(rows.size, dtype=np.int64), np.ones((1, CELLS)), np.zeros(1)
        for last in range(first, width):
            here = np.flatnonzero(found.count[rows] > last)
            pattern = found.pattern[rows[here], last]
            key, inverse = np.unique(node[here] * found.likelihood.shape[0] + pattern, return_inverse=True)
            before, seen = np.divmod(key, found.likelihood.shape[0])
            shape = shape.take(before, axis=0)
            shape *= found.likelihood.take(seen, axis=0)
            scale = scale[before]
            if (last - first) % SCALED == SCALED - 1:
                most = shape.max(axis=1)
                shape /= most[:, None]
                scale = scale + np.log(most)
            sums = shape @ worth
            sums[:, 1:] /= sums[:, :1]
            sums[:, 0] = np.log(sums[:, 0]) + scale
            node[here] = inverse.reshape(-1)
            told[first, last, here] = sums[inverse.reshape(-1)]
    return told


def _mixed(told: FloatArray, h: FloatArray) -> tuple[FloatArray, FloatArray, IntArray]:
    """Probability, mean and begin of the likeliest run after each occasion, (rows, width)."""
    width, n = told.shape[0], told.shape[2]
    above, mean = np.empty((n, width)), np.empty((n, width))
    begins = np.empty((n, width), dtype=np.int64)
    weight = np.zeros((width, n))  # log of how likely it is that a run began at an occasion and goes on
    total = np.zeros(n)
    for t in range(width):
        if t:
            weight[:t] += np.log1p(-h[:, t])
            weight[t] = np.log(h[:, t]) + total
        log = weight[: t + 1] + told[: t + 1, t, :, 0]
        most = log.max(axis=0)
        with np.errstate(invalid="ignore"):
            mass = np.exp(log - most)
        sums = mass.sum(axis=0)
        # ties go to the earliest, as argmax does; a hair is no difference
        begins[:, t] = (mass >= 1 - 1e-12).argmax(axis=0)
        above[:, t] = (mass * told[: t + 1, t, :, 1]).sum(axis=0) / sums
        mean[:, t] = (mass * told[: t + 1, t, :, 2]).sum(axis=0) / sums
        total = np.log(sums) + most
    return above, mean, begins


def posterior(found: Occasions, between: IntArray, rules: MasteryRules) -> FloatArray:
    """Belief on the share after the last occasion, (cells, 200); the prior where there is none.

    Parameters
    ----------
    found : Occasions
        Of the cells that are asked about.
    between : IntArray
        As for `filtered`.
    rules : MasteryRules
        Half-life.

    Returns
    -------
    FloatArray
    """
    cells, most = found.pattern.shape
    now = np.full((cells, CELLS), 1 / CELLS)
    for t in range(most):
        rows = np.flatnonzero(found.count > t)
        h = hazards(between[rows, t], rules.half_life)[:, None] if t else np.ones((rows.size, 1))
        belief = ((1 - h) * now[rows] + h / CELLS) * found.likelihood[found.pattern[rows, t]]
        now[rows] = belief / belief.sum(axis=1, keepdims=True)
    return now


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
