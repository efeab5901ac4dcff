"""The sentence that a cell opens with: what the average hides, since when, and whether it holds."""

from __future__ import annotations

from dataclasses import dataclass

from bildung.core.items.shown import percent
from bildung.core.mastery.states import State

APART = 0.10  # of the run's share and the average, from which both are told


@dataclass(frozen=True, kw_only=True)
class Told:
    """What the sentence is made of; days as they are written.

    Attributes
    ----------
    state : State
        After the last occasion.
    earned : float
        All points.
    possible : float
        All possible points.
    run_earned : float
        Points of the run.
    run_possible : float
        Possible points of the run.
    since : str
        Day on which it was mastered, empty where it is not.
    lapsed : str
        Day on which mastered was left, empty where it was not.
    last : str
        Day of the latest evidence.
    one_day : bool
        Whether all evidence is of one day.
    again : bool
        Whether it is to be checked again.
    """

    state: State
    earned: float
    possible: float
    run_earned: float
    run_possible: float
    since: str
    lapsed: str
    last: str
    one_day: bool
    again: bool


NOTHING = Told(
    state="not assessed",
    earned=0,
    possible=0,
    run_earned=0,
    run_possible=0,
    since="",
    lapsed="",
    last="",
    one_day=False,
    again=False,
)
"""Of a standard without evidence."""


def are_apart(run: float, average: float) -> bool:
    """Whether the share of the run and the average over all points are so different that both are told.

    Parameters
    ----------
    run : float
        Share of the run.
    average : float
        Over all points.

    Returns
    -------
    bool
    """
    return abs(run - average) >= APART - 1e-9


def story(told: Told) -> str:
    """One or two sentences.

    Parameters
    ----------
    told : Told
        Of one student and standard.

    Returns
    -------
    str
    """
    if told.state == "not assessed":
        return "Not assessed yet."
    average = told.earned / told.possible
    before = told.possible - told.run_possible
    run = told.run_earned / told.run_possible if told.run_possible else average
    if before > 0 and are_apart(run, average):
        text = (
            f"Average {percent(average)}: {_points(told.earned - told.run_earned)} of the first {_points(before)} points, then "
            f"{_points(told.run_earned)} of {_points(told.run_possible)}"
        )
    else:
        text = f"{_points(told.earned)} of {_points(told.possible)} points ({percent(average)})"
    if told.state in ("mastered", "retained"):
        word = "retained, mastered" if told.state == "retained" else "mastered"
        when = f"{word} on one day, {told.since}" if told.one_day else f"{word} since {told.since}"
        text += f"; {when}"
    elif told.lapsed:
        text += f"; {told.state}, lapsed on {told.lapsed}"
    else:
        text += f"; {told.state}"
    text += "."
    return f"{text} To be checked again: the last evidence is of {told.last}." if told.again else text


def _points(value: float) -> str:
    return f"{round(value, 2):g}"
