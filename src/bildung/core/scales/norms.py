"""Standing among others: percentile ranks, normal scores, norm tables (methods.md, section 5)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr, ndtri

from bildung.core.classical.ranks import mid_ranks
from bildung.core.data.arrays import BoolArray, FloatArray
from bildung.core.errors import Refused

HELD = (0.5, 99.5)
NCE_FACTOR = 49 / float(ndtri(0.99))
STANINE_BOUNDS = np.array([4, 11, 23, 40, 60, 77, 89, 96])
NormKey = tuple[str, str]  # subject, grade


def percentile_ranks(scores: FloatArray) -> FloatArray:
    """Percentile ranks, 100·(below + half the equal)/n, unrounded, (n,).

    (n,): 100·(below + half the equal)/n, unrounded.

    Parameters
    ----------
    scores : FloatArray
        (n,).

    Returns
    -------
    FloatArray
    """
    return 100 * mid_ranks(np.ones(scores.size), scores)


def normal_scores(ranks: FloatArray) -> FloatArray:
    """Z of percentile ranks, which are held within 0.5 to 99.5 first, (n,).

    (n,): z of percentile ranks, which are held within 0.5..99.5 first.

    Parameters
    ----------
    ranks : FloatArray
        (n,).

    Returns
    -------
    FloatArray
    """
    z: FloatArray = ndtri(np.clip(ranks, *HELD) / 100)
    return z


def t_scores(z: FloatArray) -> FloatArray:
    """T scores, 50 + 10z.

    Parameters
    ----------
    z : FloatArray
        (n,).

    Returns
    -------
    FloatArray
    """
    t: FloatArray = 50 + 10 * z
    return t


def normal_curve_equivalents(z: FloatArray) -> FloatArray:
    """Normal curve equivalents, 50 + 49/Φ⁻¹(0.99)·z: 1, 50 and 99 at those percentile ranks.

    Parameters
    ----------
    z : FloatArray
        (n,).

    Returns
    -------
    FloatArray
    """
    nce: FloatArray = 50 + NCE_FACTOR * z
    return nce


def displayed_ranks(ranks: FloatArray) -> FloatArray:
    """Whole percentile ranks 1 to 99, half up, (n,).

    (n,): whole percentile ranks 1..99, half up.

    Parameters
    ----------
    ranks : FloatArray
        (n,).

    Returns
    -------
    FloatArray
    """
    whole: FloatArray = np.clip(np.floor(ranks + 0.5), 1, 99)
    return whole


def stanines(ranks: FloatArray) -> FloatArray:
    """Stanines 1 to 9 from the displayed whole percentile rank: 1 below 4, 2 below 11, … 9 from 96, (n,).

    (n,): 1..9 from the displayed whole percentile rank: 1 below 4, 2 below 11, … 9 from 96.

    Parameters
    ----------
    ranks : FloatArray
        (n,).

    Returns
    -------
    FloatArray
    """
    found: FloatArray = 1 + np.searchsorted(STANINE_BOUNDS, displayed_ranks(ranks), side="right").astype(np.float64)
    return found


def _bracket(weeks: FloatArray, week: float, what: str) -> tuple[int, float]:
    """Place of the listed week at or before `week`, and the weight of the next. Refused beyond the list."""
    if week < weeks[0] or week > weeks[-1]:
        nearest = weeks[0] if week < weeks[0] else weeks[-1]
        raise Refused(f"{what} has no week {week:g}; the nearest allowed is week {nearest:g}")
    at = min(int(np.searchsorted(weeks, week, side="right")) - 1, weeks.size - 1)
    if at == weeks.size - 1:
        return at, 0.0
    return at, float((week - weeks[at]) / (weeks[at + 1] - weeks[at]))


@dataclass(frozen=True)
class Moments:
    """A norm table of means and standard deviations by week, one subject and grade. All (weeks,), weeks rising."""

    weeks: FloatArray
    means: FloatArray
    sds: FloatArray

    def at(self, week: float, what: str) -> tuple[float, float]:
        """Mean and sd, linear between weeks; Refused beyond them."""
        place, weight = _bracket(self.weeks, week, what)
        after = min(place + 1, self.weeks.size - 1)
        return (
            float(self.means[place] * (1 - weight) + self.means[after] * weight),
            float(self.sds[place] * (1 - weight) + self.sds[after] * weight),
        )


@dataclass(frozen=True)
class Points:
    """A norm table of scores at percentiles. weeks: (weeks,); percentiles: (points,) rising; scores: (weeks, points)."""

    weeks: FloatArray
    percentiles: FloatArray
    scores: FloatArray

    def row(self, week: float, what: str) -> FloatArray:
        """The scores at each percentile, (points,), linear between weeks; Refused beyond them.

        (points,): the scores at each percentile, linear between weeks;

        Parameters
        ----------
        week : float
            Of instruction.
        what : str
            Named in the refusal.

        Returns
        -------
        FloatArray
        """
        place, weight = _bracket(self.weeks, week, what)
        after = min(place + 1, self.weeks.size - 1)
        scores: FloatArray = self.scores[place] * (1 - weight) + self.scores[after] * weight
        return scores

    def ranks(self, scores: FloatArray, week: float, what: str) -> tuple[FloatArray, BoolArray]:
        """Percentile ranks of scores, and which are held at the outermost point.

        Percentile ranks (n,) and which are held at the outermost point. Where several percentiles share a score, the middle
        of them.

        Parameters
        ----------
        scores : FloatArray
            (n,).
        week : float
            Of instruction.
        what : str
            Named in the refusal.

        Returns
        -------
        tuple[FloatArray, BoolArray]
        """
        row = self.row(week, what)
        held = (scores < row[0]) | (scores > row[-1])
        upper = np.interp(scores, row, self.percentiles)
        lower = np.interp(-scores, -row[::-1], self.percentiles[::-1])
        return (upper + lower) / 2, held

    def score_at(self, ranks: FloatArray, week: float, what: str) -> FloatArray:
        """The score at percentile ranks, held at the outermost, (n,).

        (n,): the score at percentile ranks, held at the outermost.

        Parameters
        ----------
        ranks : FloatArray
            (n,).
        week : float
            Of instruction.
        what : str
            Named in the refusal.

        Returns
        -------
        FloatArray
        """
        found: FloatArray = np.interp(ranks, self.percentiles, self.row(week, what))
        return found


@dataclass(frozen=True)
class Correlations:
    """Correlations between listed weeks of one subject and grade.

    Attributes
    ----------
    starts : FloatArray
        Rising.
    ends : FloatArray
        Rising.
    r : FloatArray
        (starts, ends), NaN for a pair that the table does not list.
    """

    starts: FloatArray
    ends: FloatArray
    r: FloatArray

    def at(self, start: float, end: float, what: str) -> float:
        """The correlation of two weeks, linear in both.

        Linear in both weeks, from the listed pairs that they lie between;

        Parameters
        ----------
        start : float
            Week.
        end : float
            Week.
        what : str
            Named in the refusal.

        Returns
        -------
        float

        Raises
        ------
        Refused
            Where one of those is not listed, or beyond them all, with the nearest listed weeks.
        """
        i, a = _bracket(self.starts, start, f"{what} (from_week)")
        j, b = _bracket(self.ends, end, f"{what} (to_week)")
        corners = [
            (at, to, weight)
            for at, of_start in ((i, 1 - a), (i + 1, a))
            for to, of_end in ((j, 1 - b), (j + 1, b))
            if (weight := of_start * of_end) > 0
        ]
        for at, to, _ in corners:
            if np.isnan(self.r[at, to]):
                near, far = self._nearest(start, end)
                raise Refused(
                    f"{what} has no pair from week {self.starts[at]:g} to week {self.ends[to]:g}, which weeks {start:g} and {end:g} "
                    f"lie between; the nearest listed pair is from week {near:g} to week {far:g}"
                )
        return float(sum(self.r[at, to] * weight for at, to, weight in corners))

    def _nearest(self, start: float, end: float) -> tuple[float, float]:
        away = np.abs(self.starts[:, None] - start) + np.abs(self.ends[None, :] - end)
        at, to = np.unravel_index(int(np.nanargmin(np.where(np.isnan(self.r), np.nan, away))), self.r.shape)
        return float(self.starts[at]), float(self.ends[to])


@dataclass(frozen=True)
class NormTable:
    """One kind for every subject and grade in it."""

    moments: Mapping[NormKey, Moments]
    points: Mapping[NormKey, Points]
    correlations: Mapping[NormKey, Correlations]

    def has(self, key: NormKey) -> bool:
        """Whether there are norms of a subject and grade.

        Parameters
        ----------
        key : NormKey
            Subject and grade.

        Returns
        -------
        bool
        """
        return key in self.moments or key in self.points


@dataclass(frozen=True)
class NormStanding:
    """Where scores stand in a norm: percentile ranks (n,), normal scores (n,), which were held."""

    ranks: FloatArray
    z: FloatArray
    held: BoolArray


def standing_in_table(table: NormTable, key: NormKey, scores: FloatArray, weeks: FloatArray) -> NormStanding:
    """Each score at its own week. Refused for a subject and grade, or a week, that the table lacks."""
    what = f"the norm table for {key[0] or 'the subject'}, grade {key[1]},"
    if not table.has(key):
        raise Refused(f"{what} is missing; there are {_listed(table)}")
    ranks, held = np.empty(scores.size), np.zeros(scores.size, dtype=np.bool_)
    for week in np.unique(weeks):
        mine = weeks == week
        if key in table.moments:
            mean, sd = table.moments[key].at(float(week), what)
            ranks[mine] = 100 * ndtr((scores[mine] - mean) / sd)
        else:
            ranks[mine], held[mine] = table.points[key].ranks(scores[mine], float(week), what)
    held |= (ranks < HELD[0]) | (ranks > HELD[1])
    return NormStanding(ranks, normal_scores(ranks), held)


def local_standing(everybody: FloatArray, scores: FloatArray) -> NormStanding:
    """Among all scores of the same window, grade and subject."""
    values, place = np.unique(everybody, return_inverse=True)
    by_value = np.zeros(values.size)
    by_value[place.reshape(-1)] = percentile_ranks(everybody)
    ranks = by_value[np.searchsorted(values, scores)]
    return NormStanding(ranks, normal_scores(ranks), (ranks < HELD[0]) | (ranks > HELD[1]))


def _listed(table: NormTable) -> str:
    keys = sorted({*table.moments, *table.points})
    return ", ".join(f"{subject or 'no subject'} grade {grade}" for subject, grade in keys[:12]) or "none"


def turned(table: NormTable) -> NormTable:
    """The table for scores with the sign turned, so that more is better where less was.

    Parameters
    ----------
    table : NormTable
        Of a measure on which less is better.

    Returns
    -------
    NormTable
    """
    return NormTable(
        {key: Moments(m.weeks, -m.means, m.sds) for key, m in table.moments.items()},
        {key: Points(p.weeks, 100 - p.percentiles[::-1], -p.scores[:, ::-1]) for key, p in table.points.items()},
        table.correlations,
    )
