"""Gains and whether they are more than error (Jacobson & Truax 1991)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray

RELIABLE = 1.645  # passed by 1 in 10 unchanged students, up or down


@dataclass(frozen=True)
class Gains:
    """What each student gained.

    Attributes
    ----------
    gain : FloatArray
        (n,) end minus start.
    error : FloatArray
        (n,) √(se1² + se2²), NaN where an error is unknown.
    change : FloatArray
        (n,) the gain less the expected one, in errors; 0 where unknown, infinite beyond an error of 0.
    verdict : IntArray
        (n,) 1 reliable rise, -1 reliable fall, 0 neither or unknown.
    """

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
    """All (n,). Errors that are unknown are NaN; 0 is an error like another. expected: gain that would be no surprise."""
    gain = end - start
    error = np.sqrt(start_error**2 + end_error**2)
    off = gain - expected
    exact = error == 0
    with np.errstate(invalid="ignore"):
        change = np.where(exact, np.where(off == 0, 0.0, np.copysign(np.inf, off)), off / np.where(exact, 1.0, error))
    change = np.where(np.isnan(error), 0.0, change)
    verdict = np.where(change > RELIABLE, 1, np.where(change < -RELIABLE, -1, 0)).astype(np.int64)
    return Gains(gain, error, change, verdict)
