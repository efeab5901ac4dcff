"""The distribution of the totals (methods.md, section 3)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.scores import Scores
from bildung.core.data.arrays import BoolArray, CodeArray
from bildung.core.data.responses import NOT_PRESENTED, NOT_REACHED, ResponseTable


@dataclass(frozen=True, kw_only=True)
class Distribution:
    """The totals of the n students with one, in points.

    Over the n students with a total, in points.

    Attributes
    ----------
    n : int
        Students with a total.
    k : int
        Items.
    points : float
        The most that anybody could earn.
    mean : float | None
        Mean.
    sd : float | None
        Standard deviation over n - 1.
    median : float | None
        Median.
    quartiles : tuple[float, float] | None
        First and third.
    min : float | None
        Lowest.
    max : float | None
        Highest.
    skewness : float | None
        Skewness, None where undefined.
    kurtosis : float | None
        Excess kurtosis, None where undefined.
    floor : float | None
        Share at 0 and at everything possible.
    ceiling : float | None
        Share at 0 and at everything possible.
    reached_last : float | None
        Shares 0..1 (speededness).
    reached_80 : float | None
        Shares 0..1 (speededness).
    histogram : tuple[tuple[float, int], ...]
        (score, students) for each distinct score.
    why : dict[str, str]
        Reasons by figure.
    """

    n: int
    k: int
    points: float
    mean: float | None
    sd: float | None
    median: float | None
    quartiles: tuple[float, float] | None
    min: float | None
    max: float | None
    skewness: float | None
    kurtosis: float | None
    floor: float | None
    ceiling: float | None
    reached_last: float | None
    reached_80: float | None
    histogram: tuple[tuple[float, int], ...]
    why: dict[str, str]


def distribution(table: ResponseTable, scores: Scores) -> Distribution:
    """Moments by exact counts per distinct score; quartiles by linear interpolation."""
    n, k = int(scores.complete.sum()), len(table.items)
    points = float(sum(item.points for item in table.items))
    names = ("mean", "sd", "median", "min", "max", "skewness", "kurtosis", "reached_last", "reached_80")
    if n == 0:
        why = dict.fromkeys(names, "no one has a total")
        return Distribution(
            n=0,
            k=k,
            points=points,
            mean=None,
            sd=None,
            median=None,
            quartiles=None,
            min=None,
            max=None,
            skewness=None,
            kurtosis=None,
            floor=None,
            ceiling=None,
            reached_last=None,
            reached_80=None,
            histogram=(),
            why=why,
        )
    earned, why = scores.earned[scores.complete], dict[str, str]()
    values, counts = np.unique(np.round(earned, 9), return_counts=True)
    mean = float(values @ counts) / n
    off = values - mean
    m2, m3, m4 = (float(counts @ off**power) / n for power in (2, 3, 4))
    sd = math.sqrt(m2 * n / (n - 1)) if n > 1 else None
    if sd is None:
        why["sd"] = "one student"
    skewness = kurtosis = None
    if n > 2 and m2 > 1e-12:
        skewness = m3 / m2**1.5 * math.sqrt(n * (n - 1)) / (n - 2)
    else:
        why["skewness"] = "fewer than three students, or no spread"
    if n > 3 and m2 > 1e-12:
        kurtosis = ((n + 1) * (m4 / m2**2 - 3) + 6) * (n - 1) / ((n - 2) * (n - 3))
    else:
        why["kurtosis"] = "fewer than four students, or no spread"
    low, median, high = (float(q) for q in np.percentile(earned, (25, 50, 75)))
    last, most = _reached(table, scores.complete)
    possible = scores.possible[scores.complete]
    return Distribution(
        n=n,
        k=k,
        points=points,
        mean=mean,
        sd=sd,
        median=median,
        quartiles=(low, high),
        min=float(values[0]),
        max=float(values[-1]),
        skewness=skewness,
        kurtosis=kurtosis,
        floor=float(np.mean(earned <= 0)),
        ceiling=float(np.mean(earned >= possible - 1e-9)),
        reached_last=last,
        reached_80=most,
        histogram=tuple((float(v), int(c)) for v, c in zip(values, counts, strict=True)),
        why=why,
    )


def _reached(table: ResponseTable, complete: BoolArray) -> tuple[float, float]:
    """Share who reached the last item presented to them, and who reached 80% of theirs by count."""
    n = int(complete.sum())
    if not any(_holds(a.codes, NOT_REACHED) for a in table.answers):
        return 1.0, 1.0
    presented, reached = np.zeros(table.n), np.zeros(table.n)
    at_last = np.ones(table.n, dtype=np.bool_)
    for answers in table.answers:
        shown = answers.codes != NOT_PRESENTED
        got_there = answers.codes != NOT_REACHED
        presented += shown
        reached += shown & got_there
        at_last = np.where(shown, got_there, at_last)
    return float(at_last[complete].sum()) / n, float((reached >= 0.8 * presented - 1e-9)[complete].sum()) / n


def _holds(codes: CodeArray, state: int) -> bool:
    return bool((codes == state).any())
