"""Which items students came back to."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence


def came_back(visits: Iterable[Sequence[int]], items: int) -> list[tuple[int, int]]:
    """How many students looked at each item, and how many of them more than once.

    A visit is a stretch of time during which the item was before the student without a break; leaving the page or going
    to another item ends it.

    Parameters
    ----------
    visits : Iterable[Sequence[int]]
        By student, the places of the items that they visited, in order, counted from 0. The same place twice in a row is
        a page that was left and come back to: one visit of the item.
    items : int
        How many items there are; a place beyond is not counted.

    Returns
    -------
    list[tuple[int, int]]
        By item: students who saw it, and those who came back to it from another item.
    """
    seen, back = Counter[int](), Counter[int]()
    for places in visits:
        moved = [place for at, place in enumerate(places) if not at or places[at - 1] != place]
        times = Counter(place for place in moved if 0 <= place < items)
        seen.update(times.keys())
        back.update(place for place, n in times.items() if n > 1)
    return [(seen[at], back[at]) for at in range(items)]
