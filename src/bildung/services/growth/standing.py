"""Where students stand on one occasion: levels, percentile ranks and what is made of them, with their error."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from bildung.core.errors import Refused
from bildung.core.scales.cuts import CutTable
from bildung.core.scales.levels import Levels, level_of, level_probabilities, near_the_line
from bildung.core.scales.norms import (
    NormTable,
    displayed_ranks,
    local_standing,
    normal_curve_equivalents,
    standing_in_table,
    stanines,
    t_scores,
)
from bildung.services.growth.own import ScoreAt

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class StandingOf:
    """One score. rank: whole percentile rank, 1 to 99; by: norms, or local with n and the error of the rank. held: at the outermost of the
    table. level: with its probability, and at: of the level to reach or better; near: the 68% interval crosses a cut score."""

    rank: int | None
    rank_error: float | None
    nce: float | None
    stanine: int | None
    t: float | None
    by: str
    held: bool
    level: str
    probability: float | None
    at: float | None
    near: bool
    cut: float | None


UNKNOWN = StandingOf(
    rank=None,
    rank_error=None,
    nce=None,
    stanine=None,
    t=None,
    by="",
    held=False,
    level="",
    probability=None,
    at=None,
    near=False,
    cut=None,
)


def standings(
    subject: str,
    season: str,
    scores: Mapping[int, ScoreAt],
    sign: float,
    norms: NormTable | None,
    cuts: CutTable | None,
) -> dict[int, StandingOf]:
    """Of all students of an occasion, grade by grade. norms, cuts: with the sign turned where less is better."""
    grades: dict[str, list[int]] = {}
    for person, score in sorted(scores.items()):
        grades.setdefault(score.grade, []).append(person)
    found: dict[int, StandingOf] = {}
    for grade, people in grades.items():
        x = np.array([sign * scores[p].score for p in people])
        weeks = np.array([scores[p].week for p in people])
        se = np.array([scores[p].se for p in people])
        found |= dict(zip(people, _of_grade(subject, grade, season, x, weeks, se, norms, cuts, sign), strict=True))
    return found


def _of_grade(
    subject: str,
    grade: str,
    season: str,
    x: Floats,
    weeks: Floats,
    se: Floats,
    norms: NormTable | None,
    cuts: CutTable | None,
    sign: float,
) -> list[StandingOf]:
    n = x.size
    key = (subject, grade)
    by, mean, sd = "local", None, None
    try:
        if norms is None or not norms.has(key):
            raise Refused("no norms")
        standing = standing_in_table(norms, key, x, weeks)
        by = "norms"
        if key in norms.moments:
            mean, sd = norms.moments[key].at(float(np.median(weeks)), "norms")
    except Refused:
        standing = local_standing(x, x)
    if mean is None and n > 1 and float(x.std(ddof=1)) > 0:
        mean, sd = float(x.mean()), float(x.std(ddof=1))
    whole, nce, nine, t = (
        displayed_ranks(standing.ranks),
        normal_curve_equivalents(standing.z),
        stanines(standing.ranks),
        t_scores(standing.z),
    )
    levels = None if cuts is None else cuts.levels(grade, season)
    cut = None if cuts is None else cuts.cut(grade, season)
    places = level_of(x, levels) if levels is not None else None
    chances = _chances(x, se, levels, mean, sd) if levels is not None else None
    near = near_the_line(x, np.nan_to_num(se), levels.cuts) if levels is not None else np.zeros(n, dtype=np.bool_)
    found = []
    for at in range(n):
        p = None if chances is None or math.isnan(float(chances[at, 0])) else chances[at]
        place = None if places is None else int(places[at])
        rank = float(standing.ranks[at])
        found.append(
            StandingOf(
                rank=int(whole[at]),
                rank_error=math.sqrt(rank * (100 - rank) / n) if by == "local" else None,
                nce=float(nce[at]),
                stanine=int(nine[at]),
                t=float(t[at]),
                by=by,
                held=bool(standing.held[at]) and by == "norms",
                level="" if levels is None or place is None else levels.names[place],
                probability=None if p is None or place is None else float(p[place]),
                at=None if p is None or cuts is None else float(p[cuts.goal - 1 :].sum()),
                near=bool(near[at]) and not math.isnan(float(se[at])),
                cut=None if cut is None else sign * cut,
            )
        )
    return found


def _chances(x: Floats, se: Floats, levels: Levels, mean: float | None, sd: float | None) -> Floats:
    """Probability of each level, NaN where the error is unknown or does not fit."""
    found = np.full((x.size, len(levels.names)), np.nan)
    known = ~np.isnan(se) & (se < (sd if sd is not None else math.inf))
    if known.any():
        found[known] = level_probabilities(x[known], se[known], levels, mean, sd)
    return found
