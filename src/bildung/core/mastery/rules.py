"""What mastered, retained and thin evidence ask: settings of a framework."""

from __future__ import annotations

from dataclasses import dataclass

from bildung.core.errors import Refused


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
        if not 0 < self.leave < self.enter < 1:
            raise Refused("mastered is left at a lower probability than it is entered with")
        if not 0 < self.thin <= self.points:
            raise Refused("mastered asks at least as many points as evidence that is not thin")


USUAL = MasteryRules()

ASKS = (
    "Mastered asks a probability of 80% that the share on usual items is 80% or more, and 6 points: 6 of 6, 8 of 8, 10 of 11, 11 of 12, "
    "18 of 20 in one run. Of students whose true share is 90%, six in ten are not yet called mastered with 8 points; of those with 70%, "
    "six in a hundred are."
)
"""What mastered asks by the usual rules, as a page says it."""
