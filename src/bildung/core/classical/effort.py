"""Time and effort: how long items took, who did not get to the end, which answers came too fast to be meant.

A rapid guess is an answer given in less than 10% of the item's median time, at most 10 seconds (Wise & Ma 2012); the
share of a student's answers that are not rapid is the response time effort (Wise & Kong 2005).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.data.arrays import BoolArray, FloatArray
from bildung.core.data.responses import FIRST, NOT_PRESENTED, NOT_REACHED, Answers, ResponseTable
from bildung.core.errors import Refused

RAPID_SHARE, RAPID_MOST = 0.10, 10.0
LITTLE_EFFORT = 0.90
LEAST_TIMES = 5


@dataclass(frozen=True, kw_only=True)
class ItemTime:
    """How long an item took, and what rapid answers do to it.

    Attributes
    ----------
    item : str
        Its name.
    n : int
        Answers with a known time.
    median : float | None
        Seconds.
    quartiles : tuple[float, float] | None
        Seconds.
    threshold : float | None
        Seconds under which an answer is rapid; None with fewer than 5 times.
    rapid : int
        Answers under it.
    p : float | None
        Share of its points, of those who reached it.
    p_all : float | None
        The same of everybody presented it.
    rapid_p : float | None
        Share of the points that rapid answers got.
    p_without : float | None
        p of the others; None where nobody is left.
    reached : float | None
        Share of those presented the item who got to it.
    """

    item: str
    n: int
    median: float | None
    quartiles: tuple[float, float] | None
    threshold: float | None
    rapid: int
    p: float | None
    p_all: float | None
    rapid_p: float | None
    p_without: float | None
    reached: float | None


@dataclass(frozen=True)
class TotalWithout:
    """Totals of those who are left.

    n, mean (share of the points presented), sd and alpha of the totals; alpha over those who keep all items.

    Attributes
    ----------
    n : int
        How many.
    mean : float | None
        Of the shares of the points presented.
    sd : float | None
        Of those shares.
    alpha : float | None
        Over those who keep all items.
    """

    n: int
    mean: float | None
    sd: float | None
    alpha: float | None


@dataclass(frozen=True, kw_only=True)
class Effort:
    """How many answers were too fast to be meant.

    Attributes
    ----------
    items : tuple[ItemTime, ...]
        By item.
    rapid : BoolArray
        (students, items).
    effort : FloatArray
        (students,) share of answers with a known time that are not rapid, NaN-free: 1 where none is known.
    known : BoolArray
        (students,) whether any time is.
    seconds : FloatArray
        (students,) altogether.
    little : int
        Students whose effort is under 0.90.
    unfinished : float | None
        Median seconds of those who did not get to the last item they were presented; None where nobody of known
        time did not.
    all : TotalWithout
        The totals with everything, without the rapid answers, and without the students of little effort.
    answers_left_out : TotalWithout
        The totals with everything, without the rapid answers, and without the students of little effort.
    students_left_out : TotalWithout
        The totals with everything, without the rapid answers, and without the students of little effort.
    """

    items: tuple[ItemTime, ...]
    rapid: BoolArray
    effort: FloatArray
    known: BoolArray
    seconds: FloatArray
    little: int
    unfinished: float | None
    all: TotalWithout
    answers_left_out: TotalWithout
    students_left_out: TotalWithout


def effort(analysis: TestAnalysis, seconds: FloatArray) -> Effort:
    """Time and effort of the counted students.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    seconds : FloatArray
        (counted students, items) spent on each item, NaN where not known.

    Returns
    -------
    Effort
    """
    n, k = analysis.table.n, len(analysis.items)
    if seconds.shape != (n, k):
        raise Refused(f"times of {seconds.shape} for {n} students by {k} items")
    answered = np.stack([a.codes >= FIRST for a in analysis.table.answers], axis=1) if k else np.zeros((n, 0), bool)
    timed = answered & np.isfinite(seconds)
    rapid = np.zeros((n, k), dtype=np.bool_)
    items = []
    for at, found in enumerate(analysis.items):
        mine = seconds[timed[:, at], at]
        median = quartiles = threshold = None
        if mine.size:
            low, middle, high = (float(q) for q in np.percentile(mine, (25, 50, 75)))
            median, quartiles = middle, (low, high)
        if median is not None and mine.size >= LEAST_TIMES:
            threshold = min(RAPID_SHARE * median, RAPID_MOST)
            rapid[:, at] = timed[:, at] & (np.nan_to_num(seconds[:, at], nan=np.inf) < threshold)
        answers = analysis.table.answers[at]
        share = answers.code_points[answers.codes] / found.item.points
        met = ~np.isin(answers.codes, (NOT_REACHED, NOT_PRESENTED))
        kept = met & ~rapid[:, at]
        figures = found.figures
        items.append(
            ItemTime(
                item=found.item.name,
                n=int(timed[:, at].sum()),
                median=median,
                quartiles=quartiles,
                threshold=threshold,
                rapid=int(rapid[:, at].sum()),
                p=figures.p,
                p_all=figures.p_all,
                rapid_p=_mean(share[rapid[:, at]]),
                p_without=_mean(share[kept]) if rapid[:, at].any() else figures.p,
                reached=None if not figures.presented else 1 - figures.n_not_reached / figures.presented,
            )
        )
    of = timed.sum(axis=1)
    shares = np.where(of > 0, 1 - rapid.sum(axis=1) / np.maximum(of, 1), 1.0)
    known = of > 0
    little = known & (shares < LITTLE_EFFORT)
    seconds_of = np.nansum(np.where(np.isfinite(seconds), seconds, 0.0), axis=1)
    stopped = known & _stopped(analysis.table)
    return Effort(
        items=tuple(items),
        rapid=rapid,
        effort=shares,
        known=known,
        seconds=seconds_of,
        little=int(little.sum()),
        unfinished=float(np.median(seconds_of[stopped])) if stopped.any() else None,
        all=_total(analysis),
        answers_left_out=_total(
            analysis if not rapid.any() else analyse(_without(analysis.table, rapid), analysis.settings)
        ),
        students_left_out=_total(
            analysis if not little.any() else analyse(analysis.table.take(~little), analysis.settings)
        ),
    )


def _stopped(table: ResponseTable) -> BoolArray:
    """(students,) whether the last item that a student was presented was not reached."""
    stopped = np.zeros(table.n, dtype=np.bool_)
    for a in table.answers:
        stopped = np.where(a.codes == NOT_PRESENTED, stopped, a.codes == NOT_REACHED)
    return stopped


def _without(table: ResponseTable, rapid: BoolArray) -> ResponseTable:
    """Rapid answers as if those items had not been presented."""
    answers = []
    for at, a in enumerate(table.answers):
        codes = a.codes.copy()
        codes[rapid[:, at]] = NOT_PRESENTED
        answers.append(Answers(codes, a.labels, a.points))
    return ResponseTable(table.items, tuple(answers), table.status, table.parts)


def _total(analysis: TestAnalysis) -> TotalWithout:
    scores = analysis.scores
    kept = scores.complete & (scores.possible > 0)
    share = scores.earned[kept] / scores.possible[kept]
    n = int(share.size)
    return TotalWithout(n, _mean(share), float(share.std(ddof=1)) if n > 1 else None, analysis.reliability.alpha)


def _mean(values: FloatArray) -> float | None:
    return float(values.mean()) if values.size else None
