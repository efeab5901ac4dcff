"""The students of a measure in two windows, matched once and kept while nothing moves."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.growth.cohort import growth
from bildung.core.growth.matched import Growth, MatchedCohort
from bildung.core.scales.norms import NormTable
from bildung.formats.scores import read_correlations, read_norms
from bildung.services.growth.measures import measure_named
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.results import KeptResults
from bildung.store.models import Measure, MeasureScore, NormSet, Window


@dataclass(frozen=True, kw_only=True)
class Pair:
    """Students with both scores, in the order of their ids, and what was found of them. alone: by person who has one score the window
    that it is of. norms: that the figures rest on; None where students are held against each other."""

    measure: Measure
    start: Window
    end: Window
    norms: NormSet | None
    people: list[int]
    matched: MatchedCohort
    found: Growth
    alone: Mapping[int, int]


@dataclass
class PairsAtHand:
    """By measure, its version and two windows."""

    found: KeptResults[Pair] = field(default_factory=lambda: KeptResults(16))


def pair_of(ctx: Context, db: Session, measure_id: int, start_id: int, end_id: int) -> Pair:
    """Invalid for a window twice, or in the wrong order; Refused where the norm table lacks a week or grade."""
    measure = measure_named(db, measure_id)
    start, end = db.get(Window, start_id), db.get(Window, end_id)
    if start is None or end is None:
        raise NotFound("there is no such window")
    if start.id == end.id:
        raise Invalid("growth is between two different windows; choose another to compare with", "to")
    if end.start < start.start:
        raise Invalid("the first window lies before the second; turn them round", "to")
    key = (measure.id, measure.version, start.id, end.id)
    return ctx.own(PairsAtHand).found.get(key, lambda: _pair(db, measure, start, end))


def _pair(db: Session, measure: Measure, start: Window, end: Window) -> Pair:
    rows: dict[int, dict[int, MeasureScore]] = {start.id: {}, end.id: {}}
    for s in db.scalars(
        select(MeasureScore).where(
            MeasureScore.measure_id == measure.id, MeasureScore.window_id.in_((start.id, end.id))
        )
    ):
        rows[s.window_id][s.person_id] = s
    first, last = rows[start.id], rows[end.id]
    people = sorted(first.keys() & last.keys())
    norms = db.scalars(
        select(NormSet).where(NormSet.measure_id == measure.id).order_by(NormSet.id.desc()).limit(1)
    ).first()
    m = MatchedCohort(
        start_grade=[first[p].grade for p in people],
        end_grade=[last[p].grade for p in people],
        start=np.array([first[p].score for p in people], dtype=np.float64),
        end=np.array([last[p].score for p in people], dtype=np.float64),
        start_week=np.array([first[p].week for p in people], dtype=np.float64),
        end_week=np.array([last[p].week for p in people], dtype=np.float64),
        start_error=np.array([_se(first[p]) for p in people], dtype=np.float64),
        end_error=np.array([_se(last[p]) for p in people], dtype=np.float64),
    )
    table = table_of(norms)
    found = growth(measure.subject, m, table, _by_grade(first), _by_grade(last), percentiles=False)
    alone = {p: start.id for p in first.keys() - last.keys()} | {p: end.id for p in last.keys() - first.keys()}
    for one in (measure, start, end, norms):
        if one is not None:
            db.expunge(one)
    return Pair(measure=measure, start=start, end=end, norms=norms, people=people, matched=m, found=found, alone=alone)


def table_of(norms: NormSet | None) -> NormTable | None:
    """As the core knows it."""
    if norms is None:
        return None
    correlations = None
    if norms.correlations.strip():
        correlations = read_correlations("correlations", norms.correlations.encode())
    return read_norms(norms.name, norms.norms.encode(), correlations)


def _se(score: MeasureScore) -> float:
    return math.nan if score.se is None else score.se


def _by_grade(scores: Mapping[int, MeasureScore]) -> dict[str, np.ndarray[tuple[int], np.dtype[np.float64]]]:
    found: dict[str, list[float]] = {}
    for _, score in sorted(scores.items()):
        found.setdefault(score.grade, []).append(score.score)
    return {grade: np.array(values, dtype=np.float64) for grade, values in found.items()}
