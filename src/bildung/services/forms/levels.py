"""Performance levels: which cut scores hold for a measure, and so for a benchmark that is given here."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.scales.cuts import CutRow, CutTable
from bildung.core.scales.levels import Levels
from bildung.store.models import CutSet, Form, Measure, Window

BENCHMARK = "benchmark"


@dataclass(frozen=True, kw_only=True)
class TestLevels:
    """Of a benchmark in a window, on its share of points in percent. goal: place of the level, from 1, that students are to reach."""

    levels: Levels
    goal: int
    source: str

    def name_of(self, earned: float, possible: float) -> str:
        """The level of a total; empty where nothing could be earned."""
        if not possible:
            return ""
        percent = 100 * earned / possible
        return self.levels.names[sum(percent >= cut - 1e-9 for cut in self.levels.cuts)]


def newest_cuts(db: Session, measure_id: int) -> CutSet | None:
    """The cut scores that hold."""
    return db.scalars(select(CutSet).where(CutSet.measure_id == measure_id).order_by(CutSet.number.desc())).first()


def cut_table_of(row: CutSet) -> CutTable:
    """As the core knows it."""
    rows = tuple(CutRow(r["grade"], r["season"], tuple(r["cuts"])) for r in row.rows)
    return CutTable(tuple(row.names), rows, row.goal)


def levels_of_test(db: Session, form: Form, window: Window) -> TestLevels | None:
    """Levels that a benchmark's totals are told in; None where there are none."""
    if form.kind != BENCHMARK:
        return None
    measure = db.scalar(select(Measure.id).where(Measure.own.is_(True), Measure.subject == form.subject))
    row = None if measure is None else newest_cuts(db, measure)
    found = None if row is None else cut_table_of(row).levels(form.grade, window.name)
    if row is None or found is None:
        return None
    return TestLevels(levels=found, goal=row.goal, source=row.source)
