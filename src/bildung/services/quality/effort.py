"""Time and effort: how long items took, who did not get to the end, which answers came too fast to be meant."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

import numpy as np

from bildung.core.classical.effort import LITTLE_EFFORT, Effort, ItemTime, TotalWithout, effort
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.items.shown import coefficient, percent
from bildung.services.forms.settings import settings as form_settings
from bildung.services.quality.handled import HandledItem, handled
from bildung.services.quality.judged import judge
from bildung.services.quality.mistakes import about_rows
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.wire import Id, listed

SPEEDED = 0.9  # share who got to the last item, under which it is asked why
TIME_LEFT = 0.75  # of the limit: whoever stopped before did not lack time


@dataclass(frozen=True)
class NumberedTime:
    number: int
    time: ItemTime


@dataclass(frozen=True, kw_only=True)
class Hasty:
    """A student of little effort whom this person may see by name. effort: share of the answers that are not rapid."""

    person: Id
    name: str
    klass: str
    effort: float
    rapid: int
    minutes: float
    share: float | None


@dataclass(frozen=True, kw_only=True)
class TimeAndEffort:
    """known: students with a known time, of `n` counted. minutes: (quartiles) that they took in all. reached: by item the
    share who got to it. limit: minutes of the test, where there is one. unfinished: median minutes of those who did not
    get to the last item. handled: which items students came back to, and where they changed their answer."""

    finding: str
    n: int
    known: int
    minutes: tuple[float, float, float] | None
    limit: int | None
    reached_last: float | None
    reached_80: float | None
    items: Annotated[list[tuple[int, ItemTime]], listed(NumberedTime)]
    little: int
    rapid: int
    all: TotalWithout
    answers_left_out: TotalWithout
    students_left_out: TotalWithout
    hasty: list[Hasty]
    least_effort: float
    unfinished: float | None
    handled: list[HandledItem]


def time_and_effort(ctx: Context, actor: Actor, wanted: ScopeRequest, settings: Settings = DEFAULTS) -> TimeAndEffort:
    """How long items took, and what answers that came too fast do to the figures."""
    judged = judge(ctx, actor, wanted, settings)
    analysis, spread = judged.analysis, judged.analysis.distribution
    n, k = analysis.table.n, len(judged.rows)
    seconds = judged.together.seconds
    given = np.full((n, k), np.nan) if seconds is None else seconds[judged.counted]
    found = effort(analysis, given)
    minutes = None
    if found.known.any():
        low, middle, high = (float(q) / 60 for q in np.percentile(found.seconds[found.known], (25, 50, 75)))
        minutes = low, middle, high
    hasty = np.flatnonzero(found.known & (found.effort < LITTLE_EFFORT) & judged.named)
    about = about_rows(ctx, judged, hasty.tolist())
    scores = analysis.scores
    rows = [
        Hasty(
            person=about[row][0],
            name=about[row][2],
            klass=about[row][1],
            effort=float(found.effort[row]),
            rapid=int(found.rapid[row].sum()),
            minutes=float(found.seconds[row]) / 60,
            share=float(scores.earned[row] / scores.possible[row])
            if scores.complete[row] and scores.possible[row]
            else None,
        )
        for row in hasty.tolist()
    ]
    rows.sort(key=lambda h: (h.effort, h.name))
    rapid = int(found.rapid.sum())
    limit = form_settings(judged.scoped.forms[0]).minutes
    return TimeAndEffort(
        finding=_finding(found, n, spread.reached_last, rapid, limit),
        n=n,
        known=int(found.known.sum()),
        minutes=minutes,
        limit=limit,
        reached_last=spread.reached_last,
        reached_80=spread.reached_80,
        items=[(row.number, item) for row, item in zip(judged.rows, found.items, strict=True)],
        little=found.little,
        rapid=rapid,
        all=found.all,
        answers_left_out=found.answers_left_out,
        students_left_out=found.students_left_out,
        hasty=rows,
        least_effort=LITTLE_EFFORT,
        unfinished=None if found.unfinished is None else found.unfinished / 60,
        handled=handled(ctx, judged),
    )


def why_not_reached(reached: float | None, unfinished: float | None, limit: int | None) -> str:
    """A blank tail can be a want of time or a student who gave up; the clock can tell."""
    if reached is None or reached >= SPEEDED:
        return ""
    if not limit or unfinished is None:
        return "; the others ran out of time, or stopped"
    if unfinished / 60 < TIME_LEFT * limit:
        return f"; the others stopped with time left, half of them before minute {unfinished / 60:.0f} of {limit}"
    return ": the time was too short for the others"


def _finding(found: Effort, n: int, reached: float | None, rapid: int, limit: int | None) -> str:
    if not n:
        return "No one has submitted yet."
    little, all_, without = found.little, found.all, found.students_left_out
    text = f"{percent(reached)} reached the last item" + why_not_reached(reached, found.unfinished, limit) + ". "
    if not found.known.any():
        return text + "How long each item took was not counted here, so that rapid guesses cannot be told."
    if not rapid:
        return text + "No answer was too fast to be a real attempt."
    text += f"{rapid} answers came too fast to be meant; {little} {'student gave' if little == 1 else 'students gave'} many of them"
    if little and all_.mean is not None and without.mean is not None:
        text += f". Without {'that one' if little == 1 else 'those'} the mean is {percent(without.mean)} instead of {percent(all_.mean)}"
        if all_.alpha is not None and without.alpha is not None:
            text += f", alpha {coefficient(without.alpha)} instead of {coefficient(all_.alpha)}"
    return text + "."
