"""Option curves: how each answer's share moves with the standing on the rest of the test.

Local-linear kernel regression of each answer's indicator on the normal score of the rest score's
mid-rank, after Ramsay (1991).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from bildung.core.classical.joint import OTHER, Joint
from bildung.core.classical.ranks import mid_ranks
from bildung.core.data.arrays import FloatArray
from bildung.core.data.responses import FIRST, OMITTED

GRID = np.linspace(-2.0, 2.0, 25)
LEAST = 10


@dataclass(frozen=True)
class OptionCurves:
    """How often each answer is given along the standing on the rest.

    Attributes
    ----------
    x : tuple[float, ...]
        (points,) normal scores of standing on the rest.
    behind : tuple[float, ...]
        (points,) effective number of students at each.
    curves : tuple[tuple[str, tuple[float, ...]], ...]
        Answer ("" is omitted) and its share at each point, 0..1.
    bandwidth : float
        Of the smoothing, in normal scores.
    """

    x: tuple[float, ...]
    behind: tuple[float, ...]
    curves: tuple[tuple[str, tuple[float, ...]], ...]
    bandwidth: float


def option_curves(joint: Joint) -> OptionCurves | None:
    """Curves within the data's range; None for fewer than 10 students or a rest score without spread."""
    n = joint.n_r
    if n < LEAST:
        return None
    held = joint.weights > 0
    weights, rest = joint.weights[held], np.round(joint.rest[held], 9)
    rows = np.broadcast_to(np.arange(joint.points.size)[:, None], held.shape)[held]
    at = ndtri(mid_ranks(weights, rest))
    if float(at.max() - at.min()) <= 1e-9:
        return None
    bandwidth = 1.1 * n ** (-0.2)
    grid = GRID[(at.min() <= GRID) & (at.max() >= GRID)]
    if grid.size < 2:
        grid = np.linspace(float(at.min()), float(at.max()), 5)
    off = at[None, :] - grid[:, None]
    kernel = weights[None, :] * np.exp(-0.5 * (off / bandwidth) ** 2)
    s0, s1, s2 = kernel.sum(axis=1), (kernel * off).sum(axis=1), (kernel * off**2).sum(axis=1)
    behind = s0**2 / np.maximum((kernel**2 / weights[None, :]).sum(axis=1), 1e-300)
    spread = s0 * s2 - s1**2
    local = kernel * (s2[:, None] - s1[:, None] * off)
    flat = spread <= 1e-12 * s0**2  # one distinct place within reach: the local mean
    smoother: FloatArray = np.where(flat[:, None], kernel / s0[:, None], local / np.where(flat, 1.0, spread)[:, None])
    curves = []
    first_merged = joint.points.size - joint.merged
    for row in [*range(FIRST, first_merged), OMITTED]:
        share = smoother @ (rows == row).astype(np.float64)
        label = "" if row == OMITTED else joint.labels[row - FIRST]
        curves.append((label, tuple(float(v) for v in np.clip(share, 0.0, 1.0))))
    if joint.merged:
        share = smoother @ (rows >= first_merged).astype(np.float64)
        curves.insert(-1, (OTHER, tuple(float(v) for v in np.clip(share, 0.0, 1.0))))
    return OptionCurves(tuple(map(float, grid)), tuple(map(float, behind)), tuple(curves), bandwidth)
