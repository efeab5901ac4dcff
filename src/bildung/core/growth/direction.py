"""A measure that may have been set the wrong way round: it falls while all others of its subject rise."""

from __future__ import annotations

from collections.abc import Sequence

from bildung.core.classical.intervals import Interval

LEAST_OTHERS = 1


def wrong_way(gain: Interval, others: Sequence[Interval]) -> bool:
    """Whether the mean gain lies below 0 with its interval, and those of all others above.

    Parameters
    ----------
    gain : Interval
        95% interval of the mean gain, in the direction that was set as better.
    others : Sequence[Interval]
        Of the other measures of the subject, between the same occasions or the nearest.

    Returns
    -------
    bool
    """
    return len(others) >= LEAST_OTHERS and gain[1] < 0 and all(low > 0 for low, _ in others)
