"""What a class is to be taught again: standards and items under the watch line, and who needs it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.intervals import Interval, mean_interval
from bildung.core.data.arrays import BoolArray
from bildung.core.data.responses import AWAITING, FIRST, NOT_PRESENTED
from bildung.core.precision.subscores import points_on

COMMON, LEAST_COMMON = 0.10, 2


@dataclass(frozen=True)
class CommonWrong:
    """A wrong answer that many gave: n of those who answered; rows: who, among the counted."""

    answer: str
    n: int
    share: float
    rows: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class LowItem:
    """An item that few got.

    Attributes
    ----------
    place : int
        From 0.
    item : str
        The item.
    n : int
        How many.
    p : float
        Of the class.
    flagged : bool
        Its key or wording wants a look first.
    wrong : tuple[CommonWrong, ...]
        Most given first.
    """

    place: int
    item: str
    n: int
    p: float
    flagged: bool
    wrong: tuple[CommonWrong, ...]


@dataclass(frozen=True, kw_only=True)
class LowStandard:
    """A standard that few have.

    Attributes
    ----------
    name : str
        Its name.
    n : int
        Students with points on it.
    points : float
        The most a student could earn on it.
    share : float
        Of the class, mean of the students' shares, with its 95% t-interval.
    ci95 : Interval | None
        Its interval, 95%.
    sure : bool
        Whether the interval lies under the line.
    need : tuple[tuple[int, float, float], ...]
        Rows of the students under the line, lowest first, with what each earned and could.
    items : tuple[LowItem, ...]
        Those under the line, hardest first.
    """

    name: str
    n: int
    points: float
    share: float
    ci95: Interval | None
    sure: bool
    need: tuple[tuple[int, float, float], ...]
    items: tuple[LowItem, ...]


def reteach(
    analysis: TestAnalysis, rows: BoolArray, standards: Mapping[str, Sequence[int]], line: float
) -> tuple[LowStandard, ...]:
    """What to teach again.

    Standards of the students `rows` ((counted,)) whose share, or one of whose items, is under the line; lowest first. Not
    reached earns nothing here: it has not been shown.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    rows : BoolArray
        Which students.
    standards : Mapping[str, Sequence[int]]
        Places of items by standard. Whether an item wants a look is judged over everybody in the analysis, not over
        the class: a class is too small for it.
    line : float
        The share under which it is low.

    Returns
    -------
    tuple[LowStandard, ...]
    """
    found = []
    for name, places in standards.items():
        earned, possible = points_on(analysis, places)
        low = []
        for at in places:
            answers, item = analysis.table.answers[at], analysis.items[at]
            open_ = rows & ~np.isin(answers.codes, (NOT_PRESENTED, AWAITING))
            n = int(open_.sum())
            p = float(answers.code_points[answers.codes][open_].sum()) / n / item.item.points if n else None
            if p is not None and p < line - 1e-9:
                flagged = any(flag.weight == "problem" for flag in item.flags)
                low.append(
                    LowItem(place=at, item=item.item.name, n=n, p=p, flagged=flagged, wrong=_wrong(analysis, at, open_))
                )
        kept = rows & (possible > 0)
        share = np.divide(earned, possible, out=np.zeros_like(earned), where=possible > 0)
        n = int(kept.sum())
        if not n:
            continue
        mean = float(share[kept].mean())
        if mean >= line - 1e-9 and not low:
            continue
        sd = float(share[kept].std(ddof=1)) if n > 1 else 0.0
        interval = mean_interval(mean, sd, n, 0.0, 1.0)
        need = [int(r) for r in np.flatnonzero(kept & (share < line - 1e-9))]
        need.sort(key=lambda r: (share[r], r))
        low.sort(key=lambda i: (i.p, i.place))
        found.append(
            LowStandard(
                name=name,
                n=n,
                points=sum(analysis.items[at].item.points for at in places),
                share=mean,
                ci95=interval,
                sure=interval is not None and interval[1] < line,
                need=tuple((r, float(earned[r]), float(possible[r])) for r in need),
                items=tuple(low),
            )
        )
    found.sort(key=lambda s: (s.share, s.name))
    return tuple(found)


def _wrong(analysis: TestAnalysis, at: int, rows: BoolArray) -> tuple[CommonWrong, ...]:
    """Wrong answers that at least two students and a tenth of the class gave."""
    answers, most = analysis.table.answers[at], analysis.items[at].item.points
    total = int(rows.sum())
    found = []
    for place, label in enumerate(answers.labels):
        if answers.points[place] >= most:
            continue
        who = np.flatnonzero(rows & (answers.codes == FIRST + place))
        if who.size >= LEAST_COMMON and who.size / total >= COMMON:
            found.append(CommonWrong(label, int(who.size), who.size / total, tuple(int(r) for r in who)))
    found.sort(key=lambda w: (-w.n, w.answer))
    return tuple(found)
