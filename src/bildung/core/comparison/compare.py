"""Several groups (classes, teachers, schools, years) side by side, each against all others: by item, or by standard."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.intervals import Interval, mean_interval, wilson
from bildung.core.classical.measured import Measured, measured_groups, measured_items
from bildung.core.comparison.matched import Matched, adjust, mantel, mantel_haenszel
from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.errors import Refused
from bildung.core.progress import Tell

CALLED = 0.05
LARGE = 0.15


@dataclass(frozen=True)
class GroupItem:
    """An item in one group.

    p with its 95% interval: Wilson for right or wrong, else by t.

    Attributes
    ----------
    item : str
        Its name.
    n : int
        Students who reached it.
    p : float | None
        Share of its points, 0 to 1.
    ci95 : Interval | None
        Wilson's interval for right or wrong, else by t.
    """

    item: str
    n: int
    p: float | None
    ci95: Interval | None


@dataclass(frozen=True)
class ComparedGroup:
    """One group of a comparison.

    Attributes
    ----------
    group : str
        Its name.
    n : int
        Students with a total.
    mean : float | None
        Their points.
    items : tuple[GroupItem, ...]
        Its items.
    """

    group: str
    n: int
    mean: float | None
    items: tuple[GroupItem, ...]


@dataclass(frozen=True, kw_only=True)
class CompareFinding:
    """Something that differs between groups.

    Attributes
    ----------
    item : str
        The item.
    group : str | None
        The group, None where it is about all.
    finding : str
        Low_everywhere (group None), low_in_one, high_in_one, large_but_unproven.
    difference : float | None
        p of the group minus p of all others; the rest is matched on the score.
    ci95 : Interval | None
        p of the group minus p of all others; the rest is matched on the score.
    odds_ratio : float | None
        Matched on the score.
    d_dif : float | None
        Matched on the score, on the delta scale.
    d_dif_se : float | None
        Its standard error.
    p_value : float | None
        Of no difference.
    p_adjusted : float | None
        The same, adjusted for how many were tested.
    """

    item: str
    group: str | None
    finding: str
    difference: float | None
    ci95: Interval | None
    odds_ratio: float | None
    d_dif: float | None
    d_dif_se: float | None
    p_value: float | None
    p_adjusted: float | None


@dataclass(frozen=True)
class Comparison:
    """Groups held against each other.

    Attributes
    ----------
    groups : tuple[ComparedGroup, ...]
        By name.
    findings : tuple[CompareFinding, ...]
        What differs.
    """

    groups: tuple[ComparedGroup, ...]
    findings: tuple[CompareFinding, ...]


@dataclass(frozen=True)
class GroupCounts:
    """One item by group: all (groups, rows) who reached it; total (groups, rows, levels) those with a total."""

    everybody: IntArray
    total: IntArray
    points: FloatArray


def numbered(labels: Sequence[str], counted: BoolArray) -> tuple[list[str], IntArray]:
    """Groups in alphabetical order and each counted student's place among them; -1 without one."""
    mine = [label for label, here in zip(labels, counted, strict=True) if here]
    names = sorted({label for label in mine if label})
    place = {name: at for at, name in enumerate(names)}
    return names, np.array([place.get(label, -1) for label in mine], dtype=np.int64)


def count_by_group(
    analysis: TestAnalysis, what: Measured, member: IntArray, groups: int, level: IntArray, levels: int
) -> GroupCounts:
    """Counts of what was earned by group and level.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    what : Measured
        What was measured.
    member : IntArray
        (counted,) each student's group, -1 without one.
    groups : int
        How many groups.
    level : IntArray
        (counted,) what students are matched on.
    levels : int
        How many levels.

    Returns
    -------
    GroupCounts
    """
    size = len(what.points)
    met = (what.row >= 0) & (member >= 0)
    everybody = np.bincount((member * size + what.row)[met], minlength=groups * size).reshape(groups, size)
    whole = met & analysis.scores.complete
    cells = ((member * size + what.row) * levels + level)[whole]
    total = np.bincount(cells, minlength=groups * size * levels).reshape(groups, size, levels)
    return GroupCounts(everybody, total, np.array(what.points))


def matched(counts: GroupCounts, reference: IntArray, focal: IntArray, binary: bool, maximum: float) -> Matched:
    """Two groups held against each other, matched on the score.

    Parameters
    ----------
    counts : GroupCounts
        By group.
    reference : IntArray
        (rows, levels).
    focal : IntArray
        (rows, levels).
    binary : bool
        Whether it is right or wrong.
    maximum : float
        Most points that can be earned.

    Returns
    -------
    Matched
    """
    if binary:
        right = counts.points >= maximum
        return mantel_haenszel(
            reference[right].sum(axis=0), reference.sum(axis=0), focal[right].sum(axis=0), focal.sum(axis=0)
        )
    return mantel(reference, focal, counts.points)


def point_levels(analysis: TestAnalysis) -> tuple[IntArray, int]:
    """Each counted student's place among the distinct totals in points."""
    values, level = np.unique(np.round(analysis.scores.level_earned, 9), return_inverse=True)
    return level.reshape(-1)[analysis.scores.level].astype(np.int64), int(values.size)


def shares_by_group(what: Measured, labels: Sequence[str]) -> list[GroupItem]:
    """P of each group with its interval, groups in alphabetical order.

    Parameters
    ----------
    what : Measured
        What was measured.
    labels : Sequence[str]
        (counted,).

    Returns
    -------
    list[GroupItem]
    """
    names, member = numbered(labels, np.ones(len(labels), dtype=np.bool_))
    size = len(what.points)
    met = (what.row >= 0) & (member >= 0)
    counts = np.bincount((member * size + what.row)[met], minlength=len(names) * size).reshape(len(names), size)
    return [_group_item(what, counts[g]) for g in range(len(names))]


def _group_item(what: Measured, counts: IntArray) -> GroupItem:
    points, n = np.array(what.points), int(counts.sum())
    p = float(counts @ points) / n / what.maximum if n else None
    return GroupItem(what.name, n, p, _interval(counts, points, what.maximum, what.binary))


def compare(
    analysis: TestAnalysis,
    labels: Sequence[str],
    counted: BoolArray,
    standards: Mapping[str, Sequence[int]] | None = None,
    tell: Tell | None = None,
) -> Comparison:
    """Groups held against each other, item by item.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    labels : Sequence[str]
        (rows of the file,).
    counted : BoolArray
        (rows of the file,).
    standards : Mapping[str, Sequence[int]] | None
        Places of items by name, to compare on those instead of on single items.
    tell : Tell | None
        Told how far it is.

    Returns
    -------
    Comparison

    Raises
    ------
    Refused
        With fewer than two groups.
    """
    names, member = numbered(labels, counted)
    if len(names) < 2:
        raise Refused(f"{len(names)} group; a comparison needs at least two")
    k = len(names)
    level, levels = point_levels(analysis)
    watch = analysis.settings.watch_line
    whole = analysis.scores.complete & (member >= 0)
    n_total = np.bincount(member[whole], minlength=k)
    sums = np.bincount(member[whole], weights=analysis.scores.earned[whole], minlength=k)
    items: list[list[GroupItem]] = [[] for _ in names]
    tests: list[tuple[str, int, float, Interval | None, Matched]] = []
    everywhere: list[str] = []
    several = list(measured_items(analysis) if standards is None else measured_groups(analysis, standards))
    for at, what in enumerate(several):
        if tell:
            tell("side by side", at, len(several))
        counts = count_by_group(analysis, what, member, k, level, levels)
        binary, maximum = what.binary, what.maximum
        n = counts.everybody.sum(axis=1)
        all_total = counts.total.sum(axis=0)
        low = True
        for g in range(k):
            mine = _group_item(what, counts.everybody[g])
            items[g].append(mine)
            low = low and mine.ci95 is not None and mine.ci95[1] < watch
            others = counts.everybody.sum(axis=0) - counts.everybody[g]
            if n[g] == 0 or others.sum() == 0:
                continue
            m = matched(counts, all_total - counts.total[g], counts.total[g], binary, maximum)
            rest = float(others @ counts.points) / int(others.sum()) / maximum
            ci = _difference(counts.everybody[g], others, counts.points, maximum, binary)
            tests.append((what.name, g, (mine.p or 0.0) - rest, ci, m))
        if low:
            everywhere.append(what.name)
    proved = adjust([m.p_value for *_, m in tests if m.p_value is not None])
    adjusted = iter(proved)
    findings = [
        CompareFinding(
            item=name,
            group=None,
            finding="low_everywhere",
            difference=None,
            ci95=None,
            odds_ratio=None,
            d_dif=None,
            d_dif_se=None,
            p_value=None,
            p_adjusted=None,
        )
        for name in everywhere
    ]
    for name, g, difference, ci, m in tests:
        p_adjusted = next(adjusted) if m.p_value is not None else None
        verdict = _verdict(difference, m, p_adjusted)
        # low everywhere asks to look at the question; what a group does beside that is still said where it is called out
        if verdict and (name not in everywhere or verdict != "large_but_unproven"):
            findings.append(
                CompareFinding(
                    item=name,
                    group=names[g],
                    finding=verdict,
                    difference=difference,
                    ci95=ci,
                    odds_ratio=m.odds_ratio,
                    d_dif=m.d_dif,
                    d_dif_se=m.d_dif_se,
                    p_value=m.p_value,
                    p_adjusted=p_adjusted,
                )
            )
    groups = tuple(
        ComparedGroup(name, int(n_total[g]), float(sums[g] / n_total[g]) if n_total[g] else None, tuple(items[g]))
        for g, name in enumerate(names)
    )
    return Comparison(groups, tuple(findings))


def _verdict(difference: float, m: Matched, p_adjusted: float | None) -> str | None:
    direction = m.d_dif if m.d_dif is not None else m.smd
    if direction is None or direction == 0:
        return None
    if p_adjusted is not None and p_adjusted <= CALLED:
        return "low_in_one" if direction < 0 else "high_in_one"
    if abs(difference) >= LARGE and difference * direction > 0:
        return "large_but_unproven"
    return None


def _moments(counts: IntArray, points: FloatArray) -> tuple[int, float, float]:
    n = int(counts.sum())
    mean = float(counts @ points) / n if n else 0.0
    variance = float(counts @ (points - mean) ** 2) / (n - 1) if n > 1 else 0.0
    return n, mean, variance


def _interval(counts: IntArray, points: FloatArray, maximum: float, binary: bool) -> Interval | None:
    n, mean, variance = _moments(counts, points)
    if n == 0:
        return None
    if binary:
        return wilson(float(counts[points > 0].sum()), n)
    found = mean_interval(mean, math.sqrt(variance), n, 0.0, maximum)
    return None if found is None else (found[0] / maximum, found[1] / maximum)


def _difference(mine: IntArray, others: IntArray, points: FloatArray, maximum: float, binary: bool) -> Interval | None:
    """Newcombe (1998), method 10, for 0/1 items; Welch's interval otherwise."""
    (n1, m1, v1), (n2, m2, v2) = _moments(mine, points), _moments(others, points)
    if binary:
        return newcombe(float(mine[points > 0].sum()), n1, float(others[points > 0].sum()), n2)
    if n1 < 2 or n2 < 2 or v1 + v2 <= 0:
        return None
    from scipy.special import stdtrit

    e1, e2 = v1 / n1, v2 / n2
    df = (e1 + e2) ** 2 / (e1**2 / (n1 - 1) + e2**2 / (n2 - 1))
    half = float(stdtrit(df, 0.975)) * math.sqrt(e1 + e2)
    return (m1 - m2 - half) / maximum, (m1 - m2 + half) / maximum


def newcombe(x1: float, n1: int, x2: float, n2: int) -> Interval:
    """Interval of p1 - p2 from the two Wilson intervals (Newcombe 1998, method 10)."""
    p1, p2 = x1 / n1, x2 / n2
    (l1, u1), (l2, u2) = wilson(x1, n1), wilson(x2, n2)
    low = p1 - p2 - math.sqrt((p1 - l1) ** 2 + (u2 - p2) ** 2)
    high = p1 - p2 + math.sqrt((u1 - p1) ** 2 + (p2 - l2) ** 2)
    return low, high
