"""What mastered, retained and thin evidence ask: settings of a framework."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

from scipy.special import bdtr, bdtrc, betaincc

from bildung.core.errors import Refused
from bildung.core.items.shown import percent


@dataclass(frozen=True, kw_only=True)
class MasteryRules:
    """Settings of a framework; the defaults are those of methods.md, section 7.

    Attributes
    ----------
    line : float
        Share of the points on usual items from which a standard is mastered.
    half_life : float
        Instructional days after which the share has changed with probability one half.
    enter : float
        Posterior probability of being at or above the line with which mastered is entered.
    leave : float
        Probability under which it is left.
    points : float
        Weighted possible points of the run that mastered asks.
    thin : float
        Under so many the evidence is insufficient.
    developing : float
        Posterior mean from which a standard is developing.
    retained_days : int
        Calendar days after which later evidence retains.
    retained_points : float
        Possible points that retained asks.
    again : float
        Probability under which a mastered standard is to be checked again.
    """

    line: float = 0.80
    half_life: float = 180.0
    enter: float = 0.80
    leave: float = 0.50
    points: float = 6.0
    thin: float = 4.0
    developing: float = 0.50
    retained_days: int = 14
    retained_points: float = 3.0
    again: float = 0.70

    def __post_init__(self) -> None:
        if not 0.5 <= self.line <= 0.95:
            raise Refused("the line is a share from 50% to 95%")
        if not 20 <= self.half_life <= 2000:
            raise Refused("the half-life of a run is 20 to 2,000 instructional days")
        if not 0.5 < self.enter <= 0.99:
            raise Refused("mastered is entered with a probability from over 50% to 99%")
        if not 0.05 <= self.leave < self.enter:
            raise Refused("mastered is left at a lower probability than it is entered with, and at 5% or more")
        if not 0.05 <= self.again <= self.enter:
            raise Refused(
                "a standard is checked again from a probability of 5% up to that with which mastered is entered"
            )
        if not 1 <= self.points <= 60:
            raise Refused("mastered asks 1 to 60 points")
        if not 0.05 <= self.developing < self.line:
            raise Refused("developing begins under the line, at 5% or more")
        if not 1 <= self.retained_days <= 365 or not 1 <= self.retained_points <= 60:
            raise Refused("retained asks 1 to 60 points, 1 to 365 days later")
        if not 0 < self.thin <= self.points:
            raise Refused("mastered asks at least as many points as evidence that is not thin")


USUAL = MasteryRules()
SIZES = (6, 8, 11, 12, 20)
EXAMPLE = 8


def asked_of(points: int, rules: MasteryRules) -> int | None:
    """How many of so many usual items right in one run make mastered; None where not even all do."""
    if points < rules.points - 1e-9:
        return None
    return next((k for k in range(points + 1) if betaincc(0.5 + k, 0.5 + points - k, rules.line) >= rules.enter), None)


def asks(rules: MasteryRules) -> str:
    """What mastered asks, and how often it errs, as a page says it.

    Parameters
    ----------
    rules : MasteryRules
        Of the framework.

    Returns
    -------
    str
    """
    sizes = [max(n, ceil(rules.points - 1e-9)) for n in SIZES]
    pairs = [f"{k} of {n}" for n in dict.fromkeys(sizes) if (k := asked_of(n, rules)) is not None]
    line = percent(rules.line)
    text = (
        f"Mastered asks a probability of {percent(rules.enter)} that the share on usual items is {line} or more, and "
        f"{rules.points:g} points in one run"
    )
    text += f": {', '.join(pairs)}." if pairs else "; no run of 20 points is enough."
    n = max(EXAMPLE, ceil(rules.points - 1e-9))
    k = asked_of(n, rules)
    if k is None:
        return text
    good, weak = min(0.98, rules.line + 0.1), rules.line - 0.1
    missed, false = float(bdtr(k - 1, n, good)), float(bdtrc(k - 1, n, weak))
    return (
        f"{text} With {n} points {percent(missed)} of students whose true share is {percent(good)} are not yet called mastered, and "
        f"{percent(false)} of those with {percent(weak)} are."
    )
