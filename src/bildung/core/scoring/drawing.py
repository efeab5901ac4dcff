"""An order of responses that tells nothing of their students, and which of them are scored twice: both by a seed."""

from __future__ import annotations

import functools
import hashlib


@functools.lru_cache(maxsize=50_000)  # a queue of 2,000 draws the same lots again for each response that is scored
def lot(seed: int, place: int, sitting: int) -> float:
    """A number from 0 to below 1 that a response draws, the same each time.

    Parameters
    ----------
    seed : int
        Of the scoring of an item in a window.
    place : int
        Id of the item on its form.
    sitting : int
        Id of the attempt.

    Returns
    -------
    float
    """
    digest = hashlib.sha256(f"{seed}:{place}:{sitting}".encode()).digest()
    return int.from_bytes(digest[:8], "big") / 2**64


def scored_twice(seed: int, place: int, sitting: int, share: float) -> bool:
    """Whether a response is among the share that is scored twice; those drawn for a smaller share are among them for a larger.

    Parameters
    ----------
    seed : int
        As of `lot`.
    place : int
        As of `lot`.
    sitting : int
        As of `lot`.
    share : float
        Of the responses, from 0 to 1.

    Returns
    -------
    bool
    """
    return share > 0 and lot(~seed, place, sitting) < share
