"""What a later window may bring: probabilities of reaching a cut, and the scores that make them."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bildung.core.classical.intervals import NORMAL
from bildung.core.errors import Refused


@dataclass(frozen=True)
class Projection:
    """A later score, as it is expected.

    Attributes
    ----------
    expected : float
        Later score.
    observed_sd : float
        Of the later observed and the later true score.
    true_sd : float
        Of the later observed and the later true score.
    """

    expected: float
    observed_sd: float
    true_sd: float

    def probability(self, cut: float) -> float:
        """That the later true score reaches the cut."""
        if self.true_sd == 0:
            return 1.0 if self.expected >= cut else 0.0
        return NORMAL.cdf((self.expected - cut) / self.true_sd)

    def target(self, cut: float, probability: float) -> float:
        """The expected later score at which the cut is reached with this probability: 0.5 gives the even-odds target, 0.8 the safe target."""
        return cut + NORMAL.inv_cdf(probability) * self.true_sd


def project(
    score: float, mean: float, sd: float, later_mean: float, later_sd: float, rho: float, later_error: float = 0.0
) -> Projection:
    """A later score from the latest one, by the norm's moments and correlation.

    From the latest score by the norm's moments and correlation.

    Parameters
    ----------
    score : float
        The latest.
    mean : float
        Of the norm at that time.
    sd : float
        Of the norm at that time.
    later_mean : float
        Of the norm later.
    later_sd : float
        Of the norm later.
    rho : float
        Correlation of both times.
    later_error : float
        Standard error of the later score; σ_e² less its square is the variance of the true one.

    Returns
    -------
    Projection

    Raises
    ------
    Refused
        Where the error is more than all of it.
    """
    if not -1 < rho < 1 or sd <= 0 or later_sd <= 0:
        raise Refused("a projection needs standard deviations above 0 and a correlation within -1..1")
    observed = later_sd * math.sqrt(1 - rho**2)
    if later_error > observed:
        raise Refused(
            f"a standard error of {later_error:g} leaves nothing of the spread {observed:g} around the projection"
        )
    expected = later_mean + rho * later_sd / sd * (score - mean)
    return Projection(expected, observed, math.sqrt(observed**2 - later_error**2))
