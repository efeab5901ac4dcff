"""Later scores as they are expected of a measure's students: by the norms, or by last year's students of the grade."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

import numpy as np
import numpy.typing as npt
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.growth.ahead import Ahead, ahead_by_earlier, ahead_by_table
from bildung.core.scales.norms import NormTable
from bildung.services.growth.cuts import table_at
from bildung.services.growth.occasionpage import AtOccasion
from bildung.services.growth.occasions import Calendar, When, middle
from bildung.services.growth.own import ScoreAt
from bildung.services.growth.scored import newest_norms, scores_at, sign_of, table_of
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.store.models import Measure, Occasion, SchoolYear

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Later:
    """To when: a window, or the year's end. season: of its cut scores."""

    key: str
    name: str
    season: str
    day: date
    week: float


@dataclass(frozen=True, kw_only=True)
class ProjectedScores:
    """people: in order; all arrays as they are, in the sign that more is better; NaN where nothing can be expected. why: by grade, the
    reason. sources: by grade, table or last year."""

    people: list[int]
    score: Floats
    expected: Floats
    observed_sd: Floats
    true_sd: Floats
    cut: Floats
    sources: dict[str, str] = field(default_factory=dict)
    why: dict[str, str] = field(default_factory=dict)


def later_choices(db: Session, occasion: Occasion) -> list[Later]:
    """Windows of the same school year that begin later, then the year's end."""
    calendar = Calendar(db)
    year = db.scalars(
        select(SchoolYear).where(SchoolYear.start <= occasion.start, SchoolYear.end >= occasion.start)
    ).first()
    if year is None:
        return []
    found = []
    for window in calendar.windows:
        if occasion.start < window.start <= year.end:
            when = calendar.of_window(window.id)
            found.append(_later(f"w{window.id}", when, window.name, calendar))
    end = When(name=f"End of {year.title}", first=year.end, last=year.end)
    last = _later("end", end, "", calendar)
    if found:
        last = Later(key="end", name=end.name, season=found[-1].season, day=year.end, week=last.week)
    return [*found, last]


def _later(key: str, when: When, season: str, calendar: Calendar) -> Later:
    day = middle(when)
    return Later(key=key, name=when.name, season=season, day=when.last, week=calendar.week(day) or 0.0)


def later_named(choices: Sequence[Later], key: str) -> Later:
    """The one asked for, or the first."""
    if not choices:
        raise Invalid("no later window of this school year is in the calendar", "to")
    if not key:
        return choices[0]
    found = next((c for c in choices if c.key == key), None)
    if found is None:
        raise Invalid(f"there is no such later window; there are {', '.join(c.name for c in choices)}", "to")
    return found


def projected(ctx: Context, db: Session, found: AtOccasion, to: Later) -> ProjectedScores:
    """Of everybody with a score on the occasion, grade by grade."""
    measure, scores = found.measure, found.scores
    sign = sign_of(measure)
    norms, cuts = table_of(newest_norms(db, measure.id), measure.falling), table_at(db, measure)
    earlier = _earlier(ctx, db, measure, found.occasion, to)
    grades: dict[str, list[int]] = defaultdict(list)
    for person in sorted(scores):
        grades[scores[person].grade].append(person)
    people = [p for some in grades.values() for p in some]
    out = ProjectedScores(
        people=people,
        score=np.array([sign * scores[p].score for p in people]),
        expected=np.full(len(people), np.nan),
        observed_sd=np.full(len(people), np.nan),
        true_sd=np.full(len(people), np.nan),
        cut=np.full(len(people), np.nan),
    )
    at = 0
    for grade, some in grades.items():
        rows = slice(at, at + len(some))
        at += len(some)
        cut = None if cuts is None else cuts.cut(grade, to.season)
        if cut is not None:
            out.cut[rows] = cut
        try:
            ahead = _of_grade(measure, grade, scores, some, sign, norms, earlier, to.week)
        except Refused as error:
            out.why[grade] = str(error)
            continue
        out.expected[rows], out.observed_sd[rows], out.true_sd[rows] = ahead.expected, ahead.observed_sd, ahead.true_sd
        out.sources[grade] = ahead.source
    return out


def _of_grade(
    measure: Measure,
    grade: str,
    scores: Mapping[int, ScoreAt],
    people: Sequence[int],
    sign: float,
    norms: NormTable | None,
    earlier: Mapping[tuple[str, str], tuple[Floats, Floats]],
    week: float,
) -> Ahead:
    x = np.array([sign * scores[p].score for p in people])
    weeks = np.array([scores[p].week for p in people])
    errors = np.array([scores[p].se for p in people])
    error = float(np.nanmedian(errors)) if not np.isnan(errors).all() else math.nan
    key = (measure.subject, grade)
    if norms is not None and key in norms.correlations:
        return ahead_by_table(norms, key, key, x, weeks, week, error)
    scales = {scores[p].scale for p in people}
    if len(scales) > 1:
        raise Refused(f"grade {grade} took forms on different scales")
    pair = earlier.get((grade, scales.pop()))
    if pair is None:
        raise Refused(f"neither norms with correlations nor last year's scores of grade {grade} say what to expect")
    return ahead_by_earlier(x, pair[0], pair[1], error)


def _earlier(
    ctx: Context, db: Session, measure: Measure, occasion: Occasion, to: Later
) -> dict[tuple[str, str], tuple[Floats, Floats]]:
    """Scores of students who were in a grade a year before, in both seasons, by grade and scale."""
    every = db.scalars(select(Occasion).where(Occasion.measure_id == measure.id)).all()
    before = [o for o in every if o.season == occasion.season and o.start < occasion.start]
    if not before:
        return {}
    start = max(before, key=lambda o: o.start)
    ends = [o for o in every if o.season == to.season and start.start < o.start < occasion.start]
    if not ends:
        return {}
    end = min(ends, key=lambda o: o.start)
    sign = sign_of(measure)
    first, last = scores_at(ctx, db, measure, start), scores_at(ctx, db, measure, end)
    found: dict[tuple[str, str], list[tuple[float, float]]] = defaultdict(list)
    for p in sorted(first.keys() & last.keys()):
        if first[p].scale == last[p].scale and first[p].grade == last[p].grade:
            found[first[p].grade, first[p].scale].append((sign * first[p].score, sign * last[p].score))
    return {key: (np.array(rows)[:, 0], np.array(rows)[:, 1]) for key, rows in found.items()}
