"""The students of a measure on two occasions, matched once and kept while nothing moves."""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Iterable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session

from bildung.core.grades import grade_place
from bildung.core.growth.cohort import growth
from bildung.core.growth.matched import Growth, MatchedCohort
from bildung.services.growth.measures import measure_named
from bildung.services.growth.occasions import OccasionLine, occasion_line, occasion_named
from bildung.services.growth.own import ScoreAt, own_rests
from bildung.services.growth.scored import newest_norms, scores_at, sign_of, table_of
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.results import KeptResults
from bildung.store.models import Measure, NormSet

UNLINKED = "other form, not linked with the first"


@dataclass(frozen=True, kw_only=True)
class Pair:
    """Students with both scores, in the order of their ids, and what was found of them. sign: what scores were multiplied by, so that more
    is better. alone: by person who has one score only, or two that cannot be compared, the occasion that it is of and the reason, empty
    where it is not known here. first, last: all scores. key: what all of it rests on. norms: that the figures rest on; None where students are held against each other."""

    measure: Measure
    start: OccasionLine
    end: OccasionLine
    norms: NormSet | None
    sign: float
    people: list[int]
    matched: MatchedCohort
    found: Growth
    alone: Mapping[int, tuple[int, str]]
    first: Mapping[int, ScoreAt]
    last: Mapping[int, ScoreAt]
    key: Hashable


@dataclass
class PairsAtHand:
    """By measure, its version and two occasions."""

    found: KeptResults[Pair] = field(default_factory=lambda: KeptResults(16))
    percentiles: KeptResults[Growth] = field(default_factory=lambda: KeptResults(16))


def pair_of(ctx: Context, db: Session, measure_id: int, start_id: int, end_id: int) -> Pair:
    """Invalid for an occasion twice, or in the wrong order; Refused where the norm table lacks a week or grade."""
    measure = measure_named(db, measure_id)
    if start_id == end_id:
        raise Invalid("growth is between two different windows; choose another to compare with", "to")
    start, end = occasion_named(db, measure.id, start_id), occasion_named(db, measure.id, end_id)
    if end.start < start.start:
        raise Invalid("the first window lies before the second; turn them round", "to")

    def make() -> Pair:
        first, last = scores_at(ctx, db, measure, start), scores_at(ctx, db, measure, end)
        if not first or not last:
            raise Conflict("this measure has no scores in one of these windows")
        lines = occasion_line(start, len(first)), occasion_line(end, len(last))
        return _pair(db, measure, *lines, first, last, key)

    rests = [own_rests(db, measure, one).key for one in (start, end)] if measure.own else []
    key = (measure.id, measure.version, start.id, end.id, *rests)
    return ctx.own(PairsAtHand).found.get(key, make)


def with_percentiles(ctx: Context, pair: Pair) -> Growth:
    """The same with growth percentiles, which take seconds for many thousands."""
    return ctx.own(PairsAtHand).percentiles.get(pair.key, lambda: _growth(pair.measure, pair, True))


def _pair(
    db: Session,
    measure: Measure,
    start: OccasionLine,
    end: OccasionLine,
    first: Mapping[int, ScoreAt],
    last: Mapping[int, ScoreAt],
    key: Hashable,
) -> Pair:
    first, last = _by_scale(first), _by_scale(last)
    both = sorted(first.keys() & last.keys())
    people = [p for p in both if first[p].scale == last[p].scale]
    norms = newest_norms(db, measure.id)
    sign = sign_of(measure)
    alone = {p: (int(start.id), "") for p in first.keys() - last.keys()}
    alone |= {p: (int(end.id), "") for p in last.keys() - first.keys()}
    alone |= {p: (int(start.id), UNLINKED) for p in both if first[p].scale != last[p].scale}
    m = MatchedCohort(
        start_grade=[first[p].grade for p in people],
        end_grade=[last[p].grade for p in people],
        start=_array(sign * first[p].score for p in people),
        end=_array(sign * last[p].score for p in people),
        start_week=_array(first[p].week for p in people),
        end_week=_array(last[p].week for p in people),
        start_error=_array(first[p].se for p in people),
        end_error=_array(last[p].se for p in people),
    )
    for one in (measure, norms):
        if one is not None:
            db.expunge(one)
    return Pair(
        measure=measure,
        start=start,
        end=end,
        norms=norms,
        sign=sign,
        people=people,
        matched=m,
        found=_of(measure, norms, sign, m, first, last, False),
        alone=alone,
        first=first,
        last=last,
        key=key,
    )


def _by_scale(scores: Mapping[int, ScoreAt]) -> Mapping[int, ScoreAt]:
    """Scores of a grade that are on another scale than most of it are a cohort of their own, named by the scale."""
    counts = Counter((s.grade, s.scale) for s in scores.values())
    main: dict[str, str] = {}
    for (grade, scale), _ in counts.most_common():
        main.setdefault(grade, scale)
    if len(main) == len(counts):
        return scores
    return {p: s if s.scale == main[s.grade] else replace(s, grade=f"{s.grade}, {s.scale}") for p, s in scores.items()}


def _growth(measure: Measure, pair: Pair, percentiles: bool) -> Growth:
    return _of(measure, pair.norms, pair.sign, pair.matched, pair.first, pair.last, percentiles)


def _of(
    measure: Measure,
    norms: NormSet | None,
    sign: float,
    m: MatchedCohort,
    first: Mapping[int, ScoreAt],
    last: Mapping[int, ScoreAt],
    percentiles: bool,
) -> Growth:
    table = table_of(norms, measure.falling)
    return growth(measure.subject, m, table, by_grade(first, sign), by_grade(last, sign), percentiles=percentiles)


def by_grade(scores: Mapping[int, ScoreAt], sign: float = 1.0) -> dict[str, npt.NDArray[np.float64]]:
    """All scores of an occasion, for ranks among them."""
    found: dict[str, list[float]] = {}
    for _, score in sorted(scores.items()):
        found.setdefault(score.grade, []).append(sign * score.score)
    return {grade: np.array(values, dtype=np.float64) for grade, values in found.items()}


def moved_otherwise(pair: Pair) -> int:
    """Students whose grade moved otherwise than most: who repeated or skipped one."""
    steps = Counter(_step(a, b) for a, b in zip(pair.matched.start_grade, pair.matched.end_grade, strict=True))
    return sum(steps.values()) - max(steps.values(), default=0)


def _step(start: str, end: str) -> int:
    first, last = grade_place(start), grade_place(end)
    return int(start != end) if first is None or last is None else last - first


def _array(values: Iterable[float]) -> npt.NDArray[np.float64]:
    return np.array(list(values), dtype=np.float64)
