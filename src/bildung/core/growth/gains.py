"""Gains and whether they are more than error (Jacobson & Truax 1991)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.arrays import FloatArray, IntArray

RELIABLE = 1.645  # passed by 1 in 10 unchanged students, up or down


@dataclass(frozen=True)
class Gains:
    """gain (n,): end minus start. error (n,): √(se1² + se2²), NaN-free: 0 where unknown. change (n,): the gain
    in errors, 0 where unknown. verdict (n,): 1 reliable rise, -1 reliable fall, 0 neither or unknown."""

    gain: FloatArray
    error: FloatArray
    change: FloatArray
    verdict: IntArray


def gains(
    start: FloatArray,
    end: FloatArray,
    start_error: FloatArray,
    end_error: FloatArray,
    expected: float | FloatArray = 0.0,
) -> Gains:
    """All (n,). Errors of 0 are unknown. expected: gain that would be no surprise."""
    gain = end - start
    known = (start_error > 0) & (end_error > 0)
    error = np.where(known, np.sqrt(start_error**2 + end_error**2), 0.0)
    change = np.where(known, (gain - expected) / np.where(known, error, 1.0), 0.0)
    verdict = np.where(change > RELIABLE, 1, np.where(change < -RELIABLE, -1, 0)).astype(np.int64)
    return Gains(gain, error, change, verdict)
