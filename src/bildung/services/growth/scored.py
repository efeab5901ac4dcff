"""Scores of a measure on an occasion, wherever they come from: from outside, or from benchmarks that are given here."""

from __future__ import annotations

import math
from collections.abc import Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.scales.norms import NormTable, turned
from bildung.formats.scores import read_correlations, read_norms
from bildung.services.growth.occasions import OccasionLine, occasions_of
from bildung.services.growth.own import ScoreAt, own_occasions, own_scores
from bildung.services.shared.context import Context
from bildung.store.models import Measure, MeasureScore, NormSet, Occasion


def scores_at(ctx: Context, db: Session, measure: Measure, occasion: Occasion) -> Mapping[int, ScoreAt]:
    """By student."""
    if measure.own:
        return own_scores(ctx, db, measure, occasion)
    s = MeasureScore
    rows = db.execute(select(s.person_id, s.grade, s.week, s.score, s.se, s.marks).where(s.occasion_id == occasion.id))
    return {
        person: ScoreAt(grade, week, score, math.nan if se is None else se, "", _marks(marks) if marks else ())
        for person, grade, week, score, se, marks in rows
    }


def _marks(text: str) -> tuple[str, ...]:
    return tuple(m.strip() for m in text.split(",") if m.strip())


def lines_of(ctx: Context, db: Session, measure: Measure) -> list[OccasionLine]:
    """Occasions with scores, in order of time."""
    return own_occasions(ctx, db, measure) if measure.own else occasions_of(db, measure.id)


def sign_of(measure: Measure) -> float:
    """What scores are multiplied by so that more is better."""
    return -1.0 if measure.falling else 1.0


def newest_norms(db: Session, measure_id: int) -> NormSet | None:
    """The norms that hold."""
    return db.scalars(select(NormSet).where(NormSet.measure_id == measure_id).order_by(NormSet.id.desc())).first()


def table_of(norms: NormSet | None, falling: bool = False) -> NormTable | None:
    """As the core knows it; with the sign turned where less is better."""
    if norms is None:
        return None
    correlations = None
    if norms.correlations.strip():
        correlations = read_correlations("correlations", norms.correlations.encode())
    table = read_norms(norms.name, norms.norms.encode(), correlations)
    return turned(table) if falling else table
