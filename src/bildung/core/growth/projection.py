"""What a later window may bring: probabilities of reaching a cut, and the scores that make them."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from bildung.core.classical.intervals import NORMAL
from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused


@dataclass(frozen=True)
class Projection:
    """A later score, as it is expected.

    Attributes
    ----------
    expected : float
        Later score.
    observed_sd : float
        Of the later observed score.
    true_sd : float
        Of the later true score.
    """

    expected: float
    observed_sd: float
    true_sd: float

    def will_score(self, cut: float) -> float:
        """Probability that the later observed score is at or above the cut: for who is on track, and to hold a target against what came.

        Parameters
        ----------
        cut : float
            On the later score's scale.

        Returns
        -------
        float
        """
        return _above(self.expected, cut, self.observed_sd)

    def will_truly_be(self, cut: float) -> float:
        """Probability that the later true score reaches the cut.

        Parameters
        ----------
        cut : float
            On the later score's scale.

        Returns
        -------
        float
        """
        return _above(self.expected, cut, self.true_sd)

    def target(self, cut: float, probability: float) -> float:
        """The expected later score at which the student truly reaches the cut with this probability: 0.5 and 0.8 are the targets.

        Parameters
        ----------
        cut : float
            On the later score's scale.
        probability : float
            Above 0 and below 1.

        Returns
        -------
        float
        """
        return cut + NORMAL.inv_cdf(probability) * self.true_sd


def _above(expected: float, cut: float, sd: float) -> float:
    if sd == 0:
        return 1.0 if expected >= cut else 0.0
    return NORMAL.cdf((expected - cut) / sd)


def project(
    score: float, mean: float, sd: float, later_mean: float, later_sd: float, rho: float, later_error: float = 0.0
) -> Projection:
    """A later score from the latest one, by the norm's moments and correlation.

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


@dataclass(frozen=True)
class ExpectedNumber:
    """How many of a class are expected to reach a cut.

    Attributes
    ----------
    mean : float
        Sum of the probabilities.
    low : int
        80 % of what may come lies from here …
    high : int
        … to here.
    """

    mean: float
    low: int
    high: int


NODES = 21
EXACT = 400  # students up to which the distribution of the count is made exactly


def expected_number(expected: FloatArray, sd: FloatArray, cut: float, tau: float) -> ExpectedNumber:
    """How many reach the cut, students of a class moving together by what the class does.

    Given the class's common deviation u ~ N(0, 1) student i reaches the cut with Φ(((E_i − c)/σ_e + τu)/√(1 − τ²)); the count is then
    Poisson binomial, and is mixed over u by 21 Gauss–Hermite nodes.

    Parameters
    ----------
    expected : FloatArray
        (n,) expected later scores.
    sd : FloatArray
        (n,) standard deviations of the observed later scores.
    cut : float
        On the later score's scale.
    tau : float
        Standard deviation between classes, in standard deviations of the end given the start; from 0 to below 1.

    Returns
    -------
    ExpectedNumber

    Raises
    ------
    Refused
        Where tau is not from 0 to below 1, or nobody is expected of.
    """
    if not 0 <= tau < 1:
        raise Refused("the spread between classes is from 0 to below 1")
    if not expected.size:
        raise Refused("no student has an expected later score")
    z = (expected - cut) / sd
    nodes, weights = np.polynomial.hermite_e.hermegauss(NODES)
    weights = weights / weights.sum()
    given = ndtr((z[None, :] + tau * nodes[:, None]) / math.sqrt(1 - tau**2))
    below = weights @ np.stack([_count_cdf(p) for p in given])
    low = int(np.searchsorted(below, 0.10 + 1e-12))
    high = int(np.searchsorted(below, 0.90 - 1e-12))
    return ExpectedNumber(float(ndtr(z).sum()), low, high)


def _count_cdf(p: FloatArray) -> FloatArray:
    """(n + 1,) probability of at most so many successes."""
    if p.size > EXACT:
        sd = math.sqrt(max(float((p * (1 - p)).sum()), 1e-12))
        large: FloatArray = ndtr((np.arange(p.size + 1) + 0.5 - p.sum()) / sd)
        return large
    mass = np.zeros(p.size + 1)
    mass[0] = 1.0
    for at, one in enumerate(p.tolist(), 1):
        mass[1 : at + 1] = mass[1 : at + 1] * (1 - one) + mass[:at] * one
        mass[0] *= 1 - one
    found: FloatArray = np.cumsum(mass)
    return found
