"""Standards as a tree: the order they are read in, and what cannot be a tree."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from bildung.core.errors import Refused
from bildung.core.grades import grade_code

K = TypeVar("K", bound=Hashable)


@dataclass(frozen=True)
class PlacedStandard(Generic[K]):
    """A standard in its tree.

    Attributes
    ----------
    key : K
        What it is known by.
    depth : int
        0 at the top.
    leaf : bool
        Has nothing below it, so that items are made for it.
    """

    key: K
    depth: int
    leaf: bool


def in_order(parents: Mapping[K, K | None], position: Mapping[K, float]) -> list[PlacedStandard[K]]:
    """All nodes depth first, siblings by position and then as given.

    Parameters
    ----------
    parents : Mapping[K, K | None]
        Node to the one above, None at the top; one that is not among the nodes counts as none.
    position : Mapping[K, float]
        By node.

    Returns
    -------
    list[PlacedStandard[K]]

    Raises
    ------
    Refused
        Where a node stands below itself.
    """
    below: dict[K | None, list[K]] = {}
    for key, parent in parents.items():
        below.setdefault(parent if parent in parents else None, []).append(key)
    for siblings in below.values():
        siblings.sort(key=lambda key: position.get(key, 0.0))
    found: list[PlacedStandard[K]] = []
    waiting: list[tuple[K, int]] = [(key, 0) for key in reversed(below.get(None, []))]
    while waiting:
        key, depth = waiting.pop()
        children = below.get(key, [])
        found.append(PlacedStandard(key, depth, not children))
        waiting += [(child, depth + 1) for child in reversed(children)]
    if len(found) < len(parents):
        reached = {placed.key for placed in found}
        lost = next(key for key in parents if key not in reached)
        raise Refused(f"{lost} stands below itself")
    return found


def grade_span(grades: Sequence[str]) -> tuple[str, str]:
    """First and last of the grades, K before 1; ("", "") for none."""
    known = sorted({grade_code(g) for g in grades if g.strip()}, key=_rank)
    return (known[0], known[-1]) if known else ("", "")


def _rank(grade: str) -> tuple[int, str]:
    return (-1, "") if grade == "K" else (int(grade), "") if grade.isdecimal() else (1000, grade)


def grades_between(first: str, last: str) -> list[str]:
    """Every grade of a span; one that is no number stands for itself."""
    if not first:
        return []
    if first == last or not last:
        return [first]
    low, high = (_rank(g)[0] for g in (first, last))
    if high >= 1000 or low >= 1000 or high < low:
        return [first, last]
    return ["K" if n < 0 else str(n) for n in range(low, high + 1) if n != 0]
