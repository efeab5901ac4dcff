"""States of a standard: they change at occasions only, by the rules from the top."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.mastery.occasions import Occasions
from bildung.core.mastery.rules import MasteryRules
from bildung.core.mastery.run import Filtered

State = Literal["not assessed", "insufficient evidence", "beginning", "developing", "mastered", "retained"]
STATES: tuple[State, ...] = (
    "not assessed",
    "insufficient evidence",
    "beginning",
    "developing",
    "mastered",
    "retained",
)
NOT_ASSESSED, INSUFFICIENT, BEGINNING, DEVELOPING, MASTERED, RETAINED = range(6)


@dataclass(frozen=True)
class States:
    """States of all cells.

    Attributes
    ----------
    history : IntArray
        (cells, most occasions) place in STATES after each occasion, -1 beyond the last.
    now : IntArray
        (cells,) the last, 0 without evidence.
    since : IntArray
        (cells,) ordinal day on which mastered was entered, 0 where it is not.
    lapsed : IntArray
        (cells,) ordinal day on which mastered was left the last time, 0 where it never was or is mastered again.
    one_day : BoolArray
        (cells,) mastered, by evidence of one day alone.
    run_earned : FloatArray
        (cells,) Σwx of the run.
    run_possible : FloatArray
        (cells,) Σwm of the run.
    """

    history: IntArray
    now: IntArray
    since: IntArray
    lapsed: IntArray
    one_day: BoolArray
    run_earned: FloatArray
    run_possible: FloatArray


def states(found: Occasions, filter: Filtered, rules: MasteryRules) -> States:
    """Go through every cell's occasions.

    Parameters
    ----------
    found : Occasions
        Of all cells.
    filter : Filtered
        What they leave believed.
    rules : MasteryRules
        What each state asks.

    Returns
    -------
    States
    """
    cells, most = found.pattern.shape
    history = np.full((cells, most), -1, dtype=np.int64)
    held = np.zeros(cells, dtype=np.bool_)
    since, lapsed = np.zeros(cells, dtype=np.int64), np.zeros(cells, dtype=np.int64)
    later = np.zeros(cells)  # possible points at least so many days after it was mastered
    earned, possible = (
        np.concatenate([np.zeros((cells, 1)), np.cumsum(part, axis=1)], axis=1)
        for part in (found.earned, found.possible)
    )
    rows = np.arange(cells)
    run_earned, run_possible = np.zeros(cells), np.zeros(cells)
    for t in range(most):
        has = found.count > t
        begin = np.where(has, filter.begins[:, t], 0)
        run_e = earned[:, t + 1] - earned[rows, begin]
        run_m = possible[:, t + 1] - possible[rows, begin]
        p = np.nan_to_num(filter.above[:, t])
        day = found.day[:, t]
        leaves = has & held & (p < rules.leave)
        enters = has & ~held & (p >= rules.enter) & (run_m >= rules.points - 1e-9)
        counts = has & held & ~leaves & (day - since >= rules.retained_days)
        later = np.where(counts, later + found.possible[:, t], np.where(leaves | enters, 0.0, later))
        lapsed = np.where(leaves, day, np.where(enters, 0, lapsed))
        since = np.where(enters, day, np.where(leaves, 0, since))
        held = (held & ~leaves) | enters
        state = np.where(
            held,
            np.where(later >= rules.retained_points - 1e-9, RETAINED, MASTERED),
            np.where(
                run_m < rules.thin - 1e-9,
                INSUFFICIENT,
                np.where(np.nan_to_num(filter.mean[:, t]) >= rules.developing, DEVELOPING, BEGINNING),
            ),
        )
        history[has, t] = state[has]
        run_earned, run_possible = np.where(has, run_e, run_earned), np.where(has, run_m, run_possible)
    last = np.maximum(found.count - 1, 0)
    now = np.where(found.count > 0, history[rows, last] if most else 0, NOT_ASSESSED)
    return States(history, now, since, lapsed, held & (found.count == 1), run_earned, run_possible)


@dataclass(frozen=True)
class Again:
    """When mastered standards are to be looked at again.

    Attributes
    ----------
    now : BoolArray
        (cells,) to be checked again today.
    after : FloatArray
        (cells,) instructional days after the last evidence from which it is; NaN where it is not mastered.
    """

    now: BoolArray
    after: FloatArray


def check_again(above: FloatArray, mastered: BoolArray, days: IntArray, rules: MasteryRules) -> Again:
    """Whether so much time has passed that mastered is no longer likely enough; the state itself does not change.

    Parameters
    ----------
    above : FloatArray
        (cells,) posterior probability after the last occasion.
    mastered : BoolArray
        (cells,) mastered or retained.
    days : IntArray
        (cells,) instructional days since then.
    rules : MasteryRules
        With the probability under which it is checked.

    Returns
    -------
    Again
    """
    prior = 1 - 2 / np.pi * float(np.arcsin(np.sqrt(rules.line)))
    h = 1 - 2 ** (-np.maximum(0, days) / rules.half_life)
    later = (1 - h) * above + h * prior
    with np.errstate(divide="ignore", invalid="ignore"):
        after = -rules.half_life * np.log2(1 - (above - rules.again) / (above - prior))
    after = np.where(mastered, np.where(above <= rules.again, 0.0, after), np.nan)
    return Again(mastered & (later < rules.again), after)
