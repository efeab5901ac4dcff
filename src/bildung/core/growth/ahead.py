"""What students of a grade are expected to score later, by a norm table or by last year's students (methods.md, section 6)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.special import ndtr, ndtri

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.errors import Refused
from bildung.core.growth.expected import expected_from_table, expected_locally
from bildung.core.scales.norms import NormKey, NormTable, standing_in_table

SURE = 0.80
Track = Literal["on track", "uncertain", "off track", "cannot be told"]


@dataclass(frozen=True)
class Ahead:
    """Later scores as they are expected.

    Attributes
    ----------
    expected : FloatArray
        (n,) later score; NaN where the start lies beyond a table's outermost percentile.
    observed_sd : FloatArray
        (n,) of the later observed score around it.
    true_sd : FloatArray
        (n,) of the later true score; the observed one where the error of the later score is unknown.
    source : str
        "table", or "last year" where last year's students of the grade let it expect.
    """

    expected: FloatArray
    observed_sd: FloatArray
    true_sd: FloatArray
    source: str

    def will_score(self, cut: FloatArray) -> FloatArray:
        """Probability that the later observed score is at or above the cut.

        Parameters
        ----------
        cut : FloatArray
            (n,).

        Returns
        -------
        FloatArray
        """
        found: FloatArray = ndtr((self.expected - cut) / self.observed_sd)
        return found

    def will_truly_be(self, cut: FloatArray) -> FloatArray:
        """Probability that the later true score reaches the cut.

        Parameters
        ----------
        cut : FloatArray
            (n,).

        Returns
        -------
        FloatArray
        """
        found: FloatArray = ndtr((self.expected - cut) / self.true_sd)
        return found

    def target(self, cut: FloatArray, probability: float) -> FloatArray:
        """The later score at which a student truly reaches the cut with this probability, (n,).

        Parameters
        ----------
        cut : FloatArray
            (n,).
        probability : float
            Above 0 and below 1.

        Returns
        -------
        FloatArray
        """
        found: FloatArray = cut + float(ndtri(probability)) * self.true_sd
        return found


def ahead_by_table(
    norms: NormTable,
    key: NormKey,
    later_key: NormKey,
    scores: FloatArray,
    weeks: FloatArray,
    later_week: float,
    later_error: float,
) -> Ahead:
    """By the table's correlation, from each score's own week.

    Parameters
    ----------
    norms : NormTable
        With correlations.
    key : NormKey
        Subject and grade now.
    later_key : NormKey
        Subject and grade then.
    scores : FloatArray
        (n,) the latest.
    weeks : FloatArray
        (n,) when they were taken.
    later_week : float
        Of the later score.
    later_error : float
        Standard error of the later score; 0 or NaN where it is unknown.

    Returns
    -------
    Ahead

    Raises
    ------
    Refused
        Where the table has no correlation of these weeks, or the error leaves nothing of the spread.
    """
    if key not in norms.correlations:
        raise Refused(f"the norms hold no correlations of grade {key[1]}")
    later = np.full(scores.size, later_week)
    now = standing_in_table(norms, key, scores, weeks)
    # the expected score and its spread do not hang on the end score; the median stands in for it
    then = standing_in_table(norms, later_key, scores, later)
    found = expected_from_table(norms, key, later_key, scores, scores, weeks, later, now, then)
    # a score beyond the outermost percentile stands for no score that the table knows
    known = np.isfinite(found.sd) & np.isfinite(found.slope) & ~(now.held & (key in norms.points))
    return _ahead(np.where(known, found.score, np.nan), np.where(known, found.sd, np.nan), later_error, "table")


def ahead_by_earlier(
    scores: FloatArray, earlier_start: FloatArray, earlier_end: FloatArray, later_error: float
) -> Ahead:
    """By the regression of the students who were in this grade a year before, between the same seasons.

    Parameters
    ----------
    scores : FloatArray
        (n,) the latest.
    earlier_start : FloatArray
        (m,) scores of then in this season.
    earlier_end : FloatArray
        (m,) in the later one.
    later_error : float
        Standard error of the later score; 0 or NaN where it is unknown.

    Returns
    -------
    Ahead

    Raises
    ------
    Refused
        Under 30 earlier students, or where they had no spread.
    """
    found = expected_locally(earlier_start, earlier_end)
    m = earlier_start.size
    off = earlier_start - earlier_start.mean()
    spread = float(off @ off)
    slope, sd = float(found.slope[0]), float(found.sd[0])
    if not np.isfinite(sd):
        raise Refused("last year's students leave no spread around their regression")
    away = scores - earlier_start.mean()
    expected = earlier_end.mean() + slope * away
    # of a new student: the regression itself is uncertain as well
    return _ahead(expected, sd * np.sqrt(1 + 1 / m + away**2 / spread), later_error, "last year")


def _ahead(expected: FloatArray, sd: FloatArray, error: float, source: str) -> Ahead:
    if not error > 0:
        return Ahead(expected, sd, sd, source)
    if (error >= sd).any():
        raise Refused(
            f"a standard error of {error:g} leaves nothing of the spread {float(np.nanmin(sd)):g} around the projection"
        )
    return Ahead(expected, sd, np.sqrt(sd**2 - error**2), source)


def tracks(probability: FloatArray) -> list[Track]:
    """Who is on track: from 0.80 on of scoring at or above the cut; off track up to 0.20; between, uncertain.

    Parameters
    ----------
    probability : FloatArray
        (n,) NaN where it is unknown.

    Returns
    -------
    list[Track]
    """
    return [
        "cannot be told"
        if np.isnan(p)
        else "on track"
        if p >= SURE
        else "off track"
        if p <= 1 - SURE + 1e-12
        else "uncertain"
        for p in probability.tolist()
    ]


@dataclass(frozen=True)
class Kept:
    """How projections turned out.

    Attributes
    ----------
    n : int
        Students with a projection and a later score.
    reached : int
        Who scored at or above the cut.
    expected : float
        How many were expected to, the sum of their probabilities.
    p : float
        Probability of a count at least as far from what was expected, students being apart (two-sided, normal with half a
        student's correction).
    """

    n: int
    reached: int
    expected: float
    p: float


def kept(probability: FloatArray, reached: IntArray) -> Kept:
    """Projections held against what came.

    Parameters
    ----------
    probability : FloatArray
        (n,) as it was projected.
    reached : IntArray
        (n,) 1 where the later score is at or above the cut.

    Returns
    -------
    Kept

    Raises
    ------
    Refused
        Where there is nobody.
    """
    if not probability.size:
        raise Refused("no student has a projection and a later score")
    mean, sd = float(probability.sum()), float(np.sqrt((probability * (1 - probability)).sum()))
    off = max(0.0, abs(int(reached.sum()) - mean) - 0.5)
    p = 1.0 if off == 0 else 0.0 if sd == 0 else float(2 * ndtr(-off / sd))
    return Kept(int(probability.size), int(reached.sum()), mean, p)
