"""Points by a rubric: a level of each criterion, or points of the whole where there is none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bildung.core.errors import Refused


@dataclass(frozen=True)
class RubricScale:
    """What can be given.

    Attributes
    ----------
    criteria : tuple[tuple[float, ...], ...]
        By criterion the points of its levels; without a rubric one criterion of whole points from 0 to the maximum.
    maximum : float
        Most points of the response.
    """

    criteria: tuple[tuple[float, ...], ...]
    maximum: float


def scale_of(levels: Sequence[Sequence[float]], maximum: float) -> RubricScale:
    """The scale of a rubric, levels from the lowest to the highest.

    Parameters
    ----------
    levels : Sequence[Sequence[float]]
        Points of the levels by criterion; empty without a rubric.
    maximum : float
        Most points of the response.

    Returns
    -------
    RubricScale

    Raises
    ------
    Refused
        Where the best levels are not worth the maximum together, or a criterion has a level twice.
    """
    if not levels:
        return RubricScale((tuple(float(n) for n in range(int(maximum) + 1)),), maximum)
    criteria = tuple(tuple(sorted(set(some))) for some in levels)
    for number, (some, kept) in enumerate(zip(levels, criteria, strict=True), 1):
        if len(some) != len(kept):
            raise Refused(f"criterion {number} of the rubric has two levels with the same points")
    best = sum(some[-1] for some in criteria)
    if abs(best - maximum) > 1e-9:
        raise Refused(
            f"the best levels of the rubric are worth {best:g} points together; the response is worth {maximum:g}"
        )
    return RubricScale(criteria, maximum)


def points_of(scale: RubricScale, given: Sequence[float]) -> float:
    """What the points by criterion are worth together.

    Parameters
    ----------
    scale : RubricScale
        What can be given.
    given : Sequence[float]
        Points by criterion.

    Returns
    -------
    float

    Raises
    ------
    Refused
        Where a criterion has no points, or points that are no level of it.
    """
    if len(given) != len(scale.criteria):
        n = len(scale.criteria)
        raise Refused(f"the rubric has {n} {'criterion' if n == 1 else 'criteria'}; give points for each")
    for number, (points, levels) in enumerate(zip(given, scale.criteria, strict=True), 1):
        if points not in levels:
            allowed = ", ".join(f"{level:g}" for level in levels)
            raise Refused(f"{points:g} is no level of criterion {number}; its levels are {allowed}")
    return float(sum(given))
