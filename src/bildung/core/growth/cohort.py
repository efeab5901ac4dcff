"""Everything about growth between two windows in one subject, from matched scores."""

from __future__ import annotations

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.errors import Refused
from bildung.core.growth.claims import beyond_expected, claims, residual_errors
from bildung.core.growth.expected import Expected, expected_from_table, expected_locally
from bildung.core.growth.gains import gains
from bildung.core.growth.matched import Growth, MatchedCohort
from bildung.core.growth.percentiles import ROUGH, growth_percentiles
from bildung.core.scales.norms import NormKey, NormStanding, NormTable, local_standing, standing_in_table


def growth(
    subject: str,
    m: MatchedCohort,
    norms: NormTable | None,
    start_scores: dict[str, FloatArray],
    end_scores: dict[str, FloatArray],
    percentiles: bool = True,
) -> Growth:
    """Growth of a cohort against norms, or against itself.

    Parameters
    ----------
    subject : str
        The subject.
    m : MatchedCohort
        Students with both scores.
    norms : NormTable | None
        None where there are none.
    start_scores : dict[str, FloatArray]
        By grade, all scores of the windows, for local ranks.
    end_scores : dict[str, FloatArray]
        By grade, all scores of the windows, for local ranks.
    percentiles : bool
        Whether growth percentiles are wanted; seconds for many thousands.

    Returns
    -------
    Growth

    Raises
    ------
    Refused
        For weeks or grades that the norm table lacks.
    """
    n = m.start.size
    z = [np.zeros(n) for _ in range(8)]
    unknown = [np.full(n, np.nan) for _ in range(5)]
    out = Growth(
        gains=gains(m.start, m.end, m.start_error, m.end_error),
        start_rank=z[0],
        end_rank=z[1],
        end_z=z[2],
        held=z[3],
        expected=z[4],
        residual=z[5],
        like_start=z[6],
        slope=unknown[0],
        sd_end=unknown[1],
        start_mean=unknown[2],
        start_sd=unknown[3],
        residual_error=unknown[4],
        claim=np.zeros(n, dtype=np.int64),
        misfit=np.zeros(n, dtype=np.int64),
        beyond=np.zeros(n, dtype=np.int64),
        known=np.zeros(n, dtype=np.int64),
        sgp=z[7],
        sd_start=np.full(n, float(m.start.std(ddof=1)) if n > 1 else 0.0),
    )
    pairs = np.array([f"{a}\0{b}" for a, b in zip(m.start_grade, m.end_grade, strict=True)])
    for pair in sorted(set(pairs.tolist())):
        first, last = pair.split("\0")
        _place(out, subject, m, np.flatnonzero(pairs == pair), first, last, norms, start_scores, end_scores)
    grades = np.array(list(m.start_grade))
    for grade in sorted(set(m.start_grade)):
        mine = np.flatnonzero(grades == grade)
        left = mine[out.known[mine] == 0]
        if left.size and (grade, "expected") not in out.why:
            _locally(out, m, left, grade)
        if not percentiles:
            continue
        try:
            found = growth_percentiles(m.start[mine], m.end[mine])
            out.sgp[mine] = found.sgp
            if mine.size < ROUGH:
                out.rough.append(grade)
        except Refused as error:
            out.why[grade, "sgp"] = str(error)
    out.residual_error = residual_errors(m.start_error, m.end_error, out.slope, out.sd_end)
    out.residual_error = np.where(out.known == 1, out.residual_error, np.nan)
    told = claims(out.residual, out.residual_error)
    out.claim, out.misfit = told.claim, told.misfit
    out.beyond = beyond_expected(out.residual, out.residual_error)
    return out


def _place(
    out: Growth,
    subject: str,
    m: MatchedCohort,
    mine: IntArray,
    first: str,
    last: str,
    norms: NormTable | None,
    start_scores: dict[str, FloatArray],
    end_scores: dict[str, FloatArray],
) -> None:
    """Standing at both ends, and the expectation where the table has a correlation."""
    start_key, end_key = (subject, first), (subject, last)
    if norms is None or (not norms.has(start_key) and not norms.moments and not norms.points):
        a = local_standing(start_scores[first], m.start[mine])
        b = local_standing(end_scores[last], m.end[mine])
    else:
        a = standing_in_table(norms, start_key, m.start[mine], m.start_week[mine])
        b = standing_in_table(norms, end_key, m.end[mine], m.end_week[mine])
        if start_key in norms.moments:
            what = f"the norm table for {subject or 'the subject'}, grade {first},"
            out.sd_start[mine] = [norms.moments[start_key].at(float(w), what)[1] for w in m.start_week[mine]]
        if start_key in norms.correlations:
            _by_table(out, norms, m, mine, start_key, end_key, a, b)
    out.start_rank[mine], out.end_rank[mine], out.end_z[mine] = a.ranks, b.ranks, b.z
    out.held[mine] = a.held | b.held


def _by_table(
    out: Growth,
    norms: NormTable,
    m: MatchedCohort,
    mine: IntArray,
    start_key: NormKey,
    end_key: NormKey,
    a: NormStanding,
    b: NormStanding,
) -> None:
    """Expect by the table's correlation.

    Where it has none for these weeks, none is made from the students: the two are never mixed.
    """
    first = start_key[1]
    try:
        e = expected_from_table(
            norms, start_key, end_key, m.start[mine], m.end[mine], m.start_week[mine], m.end_week[mine], a, b
        )
    except Refused as error:
        out.why[first, "expected"] = str(error)
        return
    _keep(out, mine, first, e)


def _keep(out: Growth, mine: IntArray, grade: str, e: Expected) -> None:
    out.expected[mine], out.residual[mine] = e.score, e.residual
    out.like_start[mine], out.known[mine] = e.like_start_percentile, 1
    out.slope[mine], out.sd_end[mine] = e.slope, e.sd
    out.start_mean[mine], out.start_sd[mine] = e.start_mean, e.start_sd
    out.sources[grade] = e.source


def _locally(out: Growth, m: MatchedCohort, mine: IntArray, grade: str) -> None:
    try:
        e = expected_locally(m.start[mine], m.end[mine])
    except Refused as error:
        out.why[grade, "expected"] = str(error)
        return
    _keep(out, mine, grade, e)
