"""Which scored points count as evidence: by the kind of test, by decision, and of a test that was taken again."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, get_args

import numpy as np

from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.errors import Refused

Counts = Literal["yes", "no", "ask"]
Retakes = Literal["adds", "replaces", "better"]
COUNTS, RETAKES = get_args(Counts), get_args(Retakes)
KINDS: Mapping[str, Counts] = {
    "starting": "yes",
    "benchmark": "yes",
    "unit": "yes",
    "closing": "yes",
    "task": "yes",
    "spot": "ask",
    "mirror": "no",
    "": "yes",
    "live": "yes",
    "score": "yes",
    "observation": "yes",
}
"""What counts until a framework says otherwise, by kind of test; live: rounds whose holder said that they count."""


def checked_counts(said: Mapping[str, str]) -> dict[str, Counts]:
    """The usual rule with some kinds changed.

    Parameters
    ----------
    said : Mapping[str, str]
        By kind of test: yes, no or ask.

    Returns
    -------
    dict[str, Counts]

    Raises
    ------
    Refused
        For a kind there is not, or another word.
    """
    found = dict(KINDS)
    for kind, word in said.items():
        if kind not in KINDS:
            raise Refused(f"there is no kind of test {kind!r}; there are {', '.join(k for k in KINDS if k)}")
        if word not in COUNTS:
            raise Refused(f"{kind or 'other tests'}: {word!r} is none of {', '.join(COUNTS)}")
        if word == "ask" and kind in ("live", "score", "observation"):
            raise Refused(f"{kind}: yes or no, as it was said when it was entered")
        found[kind] = word  # type: ignore[assignment]
    return found


def set_aside(
    cell: IntArray, test: IntArray, attempt: IntArray, earned: FloatArray, possible: FloatArray, way: Retakes
) -> BoolArray:
    """Rows that do not count, as the same test was taken again.

    Parameters
    ----------
    cell : IntArray
        (n,) student and standard of each scored item.
    test : IntArray
        (n,) which test; attempts at one test share it.
    attempt : IntArray
        (n,) its attempts, in order of time.
    earned : FloatArray
        (n,) points.
    possible : FloatArray
        (n,) most points.
    way : Retakes
        adds: all of them count. replaces: the last counts. better: the one with the higher share counts, the last where
        they are alike.

    Returns
    -------
    BoolArray
        (n,)
    """
    nothing = np.zeros(cell.size, dtype=np.bool_)
    if way == "adds" or not cell.size:
        return nothing
    group = cell * (int(test.max()) + 1) + test
    _, of_attempt = np.unique(attempt, return_inverse=True)
    place = group * (int(of_attempt.max()) + 1) + of_attempt.reshape(-1)
    found, first, of_tries = np.unique(place, return_index=True, return_inverse=True)
    of_tries, tries = of_tries.reshape(-1), found.size
    of_group = group[first]
    if not (of_group[1:] == of_group[:-1]).any():
        return nothing
    share = np.bincount(of_tries, earned, tries) / np.bincount(of_tries, possible, tries)
    # shares compared with a hair, so that alike is alike
    worth = np.round(share, 9) if way == "better" else np.zeros(tries)
    order = np.lexsort((attempt[first], worth, of_group))
    last = np.r_[of_group[order][1:] != of_group[order][:-1], True]
    kept = np.zeros(tries, dtype=np.bool_)
    kept[order[last]] = True
    aside: BoolArray = ~kept[of_tries]
    return aside
