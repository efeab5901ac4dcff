"""Small groups: which figures of a comparison are hidden so that nobody is recognized in them.

A group under the least size is hidden. If what is hidden could be found by subtracting the shown groups from
the whole, the smallest shown group is hidden as well (complementary suppression), until the hidden groups
together reach the least size and are at least two. Method: methods.md, section on what is shown.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

import numpy as np

from bildung.core.data.arrays import BoolArray
from bildung.core.errors import Refused

LEAST = 5


def alias_numbers(people: Sequence[int]) -> list[int]:
    """A number from 0 for each person of a view, to show in place of the name.

    The same people get the same numbers on a screen and in every file that is made of it. The order says nothing: it is
    that of a digest of the ids, neither of the alphabet nor of what the people achieved.

    Parameters
    ----------
    people : Sequence[int]
        Their ids.

    Returns
    -------
    list[int]
    """
    ordered = sorted(set(people), key=lambda id: hashlib.sha256(str(id).encode()).digest())
    number = {id: at for at, id in enumerate(ordered)}
    return [number[id] for id in people]


def hidden_groups(sizes: Sequence[int], least: int = LEAST) -> list[bool]:
    """Which groups of one whole are hidden.

    The whole is taken to be known. Ties among the smallest go to the first.

    Parameters
    ----------
    sizes : Sequence[int]
        Students a group, 0 or more; an empty group hides nobody.
    least : int
        Fewest students that are shown.

    Returns
    -------
    list[bool]
    """
    if any(size < 0 for size in sizes):
        raise Refused("a group has no negative size")
    hidden = [0 < size < least for size in sizes]
    while any(hidden):
        behind = [size for size, is_hidden in zip(sizes, hidden, strict=True) if is_hidden]
        if len(behind) > 1 and sum(behind) >= least:
            break
        shown = [(size, at) for at, size in enumerate(sizes) if size > 0 and not hidden[at]]
        if not shown:
            break
        hidden[min(shown)[1]] = True
    return hidden


def widening(view: BoolArray, groups: Sequence[BoolArray], strangers: BoolArray, least: int = LEAST) -> list[bool]:
    """Which of several groups, each holding the one before, may be shown beside a view that all of them hold.

    Subtracting one shown group from the next must leave no strangers, or at least `least` of them. All arrays are
    (students,).

    Parameters
    ----------
    view : BoolArray
        (students,).
    groups : Sequence[BoolArray]
        Each (students,).
    strangers : BoolArray
        Students whom the reader does not see by name. Method: as `hidden_groups`, for nested groups.
    least : int
        Fewest strangers that may be left.

    Returns
    -------
    list[bool]
    """
    shown, last = [], view
    for rows in groups:
        added = int(np.count_nonzero(rows & ~last & strangers))
        shown.append(added == 0 or added >= least)
        if shown[-1]:
            last = rows
    return shown
