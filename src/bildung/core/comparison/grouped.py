"""Mean scores of groups side by side, with small groups hidden."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.intervals import Interval, mean_interval
from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused
from bildung.core.school.privacy import LEAST, hidden_groups

UNKNOWN = "not known"


@dataclass(frozen=True, kw_only=True)
class GroupScore:
    """The scores of one group.

    Attributes
    ----------
    group : str
        Its name.
    n : int | None
        None where hidden, so that it cannot be subtracted either.
    mean : float | None
        Of the shares of the possible points, with its 95% t-interval; both None where hidden.
    ci95 : Interval | None
        t-interval of the mean, 95%.
    hidden : bool
        Whether it is too small to be shown.
    """

    group: str
    n: int | None
    mean: float | None
    ci95: Interval | None
    hidden: bool


@dataclass(frozen=True)
class Grouped:
    """Scores by group.

    Attributes
    ----------
    groups : tuple[GroupScore, ...]
        Largest first, hidden ones last.
    n : int
        Counted students of all groups.
    mean : float | None
        Over all of them.
    least : int
        Fewest students that are shown.
    """

    groups: tuple[GroupScore, ...]
    n: int
    mean: float | None
    least: int


def group_scores(share: FloatArray, group: Sequence[str], least: int = LEAST) -> Grouped:
    """Mean scores of groups, small ones hidden.

    Parameters
    ----------
    share : FloatArray
        (n,) of the possible points, one a counted student.
    group : Sequence[str]
        Each one's group, empty where not known.
    least : int
        Fewest students that are shown.

    Returns
    -------
    Grouped
    """
    if share.size != len(group):
        raise Refused(f"{share.size} shares for {len(group)} students")
    names = np.array([g or UNKNOWN for g in group], dtype=object)
    distinct = sorted(set(names.tolist()))
    sizes = [int((names == name).sum()) for name in distinct]
    found = []
    for name, n, hidden in zip(distinct, sizes, hidden_groups(sizes, least), strict=True):
        if hidden:
            found.append(GroupScore(group=name, n=None, mean=None, ci95=None, hidden=True))
            continue
        mine = share[names == name]
        mean = float(mine.mean())
        sd = float(mine.std(ddof=1)) if n > 1 else 0.0
        found.append(GroupScore(group=name, n=n, mean=mean, ci95=mean_interval(mean, sd, n, 0.0, 1.0), hidden=False))
    found.sort(key=lambda g: (g.hidden, -(g.n or 0), g.group))
    return Grouped(tuple(found), int(share.size), float(share.mean()) if share.size else None, least)
