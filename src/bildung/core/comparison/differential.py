"""Differential functioning of items between the two levels of an attribute (methods.md, section 4)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.intervals import Interval, wilson
from bildung.core.classical.measured import Measured, measured_item
from bildung.core.comparison.compare import count_by_group, matched, numbered, point_levels
from bildung.core.comparison.matched import Matched
from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.errors import Refused

LEAST, CLASSED = 50, 200
STRETCHES = 5


@dataclass(frozen=True)
class Side:
    """One group within a stretch: n students, the share of the points they got, its interval for right or wrong."""

    n: int
    p: float | None
    ci95: Interval | None


@dataclass(frozen=True)
class Stretch:
    """Students whose totals lie from `low` to `high` points."""

    low: float
    high: float
    reference: Side
    focal: Side


@dataclass(frozen=True)
class DifferentialItem:
    """Whether an item works alike for two groups.

    Attributes
    ----------
    item : str
        Its name.
    matched : Matched
        Both groups matched on the score.
    size : str | None
        Class A, B or C; None for partial credit, or for under 200 in a group.
    picture : tuple[Stretch, ...]
        Both groups among students of like score.
    """

    item: str
    matched: Matched
    size: str | None
    picture: tuple[Stretch, ...]


@dataclass(frozen=True, kw_only=True)
class Differential:
    """Whether items work alike for two groups.

    Attributes
    ----------
    reference : str
        The group that is held to.
    focal : str
        The other.
    n_reference : int
        Students in the first.
    n_focal : int
        Students in the second.
    items : tuple[DifferentialItem, ...]
        By item.
    """

    reference: str
    focal: str
    n_reference: int
    n_focal: int
    items: tuple[DifferentialItem, ...]


def size_class(m: Matched) -> str | None:
    """A: not proved or |D| < 1; C: |D| >= 1.5 and |D| - 1.645·SE > 1; B otherwise (Zieky 1993)."""
    if m.d_dif is None or m.d_dif_se is None or m.p_value is None:
        return None
    size = abs(m.d_dif)
    if m.p_value >= 0.05 or size < 1:
        return "A"
    return "C" if size >= 1.5 and size - 1.645 * m.d_dif_se > 1 else "B"


def differential(
    analysis: TestAnalysis, labels: Sequence[str], counted: BoolArray, reference: str | None = None
) -> Differential:
    """Differential functioning of every item.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    labels : Sequence[str]
        (rows of the file,). From 200 per group purified once by items of class C.
    counted : BoolArray
        (rows of the file,). From 200 per group purified once by items of class C.
    reference : str | None
        The first level in alphabetical order unless named.

    Returns
    -------
    Differential

    Raises
    ------
    Refused
        Unless there are exactly two levels with at least 50 students each.
    """
    names, member = numbered(labels, counted)
    if len(names) != 2:
        raise Refused(
            f"{len(names)} levels ({', '.join(names[:5]) or 'none'}); differential functioning needs exactly two"
        )
    if reference is not None and reference not in names:
        raise Refused(f"no level {reference!r}; there are {' and '.join(names)}")
    if reference == names[1]:
        names.reverse()
        member = np.where(member >= 0, 1 - member, -1)
    n = np.bincount(member[analysis.scores.complete & (member >= 0)], minlength=2)
    if n.min() < LEAST:
        few = int(n.argmin())
        raise Refused(f"{n[few]} students in {names[few]}; at least {LEAST} with a total are needed in each level")
    level, levels = point_levels(analysis)
    classed = bool(n.min() >= CLASSED)
    first = _round(analysis, member, [(level, levels)] * len(analysis.items), classed)
    large = [at for at, item in enumerate(first) if item.size == "C"]
    if large:
        first = _round(analysis, member, _purified(analysis, large), classed)
    return Differential(
        reference=names[0], focal=names[1], n_reference=int(n[0]), n_focal=int(n[1]), items=tuple(first)
    )


def _round(
    analysis: TestAnalysis, member: IntArray, levels: Sequence[tuple[IntArray, int]], classed: bool
) -> list[DifferentialItem]:
    found = []
    for at, item in enumerate(analysis.items):
        level, count = levels[at]
        what = measured_item(analysis, at)
        counts = count_by_group(analysis, what, member, 2, level, count)
        m = matched(counts, counts.total[0], counts.total[1], what.binary, item.item.points)
        found.append(
            DifferentialItem(
                item.item.name,
                m,
                size_class(m) if classed and what.binary else None,
                _picture(analysis, what, member, level),
            )
        )
    return found


def _picture(analysis: TestAnalysis, what: Measured, member: IntArray, level: IntArray) -> tuple[Stretch, ...]:
    """Both groups among students of like score, in up to five stretches with about as many students in each."""
    used = (what.row >= 0) & (member >= 0) & analysis.scores.complete
    if not used.any():
        return ()
    rows, levels, groups = what.row[used], level[used], member[used]
    share = np.array(what.points)[rows] / what.maximum
    score = analysis.scores.earned[used]
    # whole levels, so that students of equal score are in one stretch
    below = np.searchsorted(np.sort(levels), levels, side="left") / levels.size
    stretch = np.minimum((below * STRETCHES).astype(np.int64), STRETCHES - 1)
    found = []
    for at in range(STRETCHES):
        here = stretch == at
        if not here.any():
            continue
        sides = []
        for group in (0, 1):
            mine = share[here & (groups == group)]
            n = int(mine.size)
            p = float(mine.mean()) if n else None
            sides.append(Side(n, p, wilson(float(mine.sum()), n) if n and what.binary else None))
        found.append(Stretch(float(score[here].min()), float(score[here].max()), sides[0], sides[1]))
    return tuple(found)


def _purified(analysis: TestAnalysis, large: list[int]) -> list[tuple[IntArray, int]]:
    """Levels to match on without the items called C; the studied item is always in."""
    tables = [answers.code_points[answers.codes] for answers in analysis.table.answers]
    kept: FloatArray = analysis.scores.earned - sum((tables[at] for at in large), np.zeros(analysis.table.n))
    levels = []
    for at in range(len(tables)):
        score = kept + tables[at] if at in large else kept
        values, level = np.unique(np.round(score, 9), return_inverse=True)
        levels.append((level.reshape(-1).astype(np.int64), int(values.size)))
    return levels
