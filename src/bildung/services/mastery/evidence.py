"""Evidence: every scored point on an item with a standard, from all closed sessions; a correction moves it at once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

import numpy as np
import numpy.typing as npt
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.data.responses import AWAITING, NOT_PRESENTED, NOT_REACHED
from bildung.core.school.schooltime import school_day
from bildung.services.answers.analysed import together
from bildung.services.calendar.years import zone_of
from bildung.services.quality.judged import scored_by
from bildung.services.shared.context import Context
from bildung.services.shared.results import KeptResults
from bildung.store.models import Form, ItemFigure, ItemStandard, PlannedSession, Sitting

COUNTED = ("starting", "benchmark", "unit", "closing", "task", "spot", "")  # practice and mirrors are none
MODIFIED = "adapted"  # role of a form that is no grade-level evidence
LEAST_N, LEAST_ITEMS = 50, 3  # of a usual p, and of a standard's
Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Given:
    """A form as it was given in a window: (rows, items) points, NaN where there is no evidence. version: of each item. numbers: on the
    form. modified: not counted toward mastery."""

    form_id: int
    form: str
    people: Ints
    day: Ints
    session: Ints
    versions: tuple[int, ...]
    codes: tuple[str, ...]
    numbers: tuple[int, ...]
    possible: Floats
    points: Floats
    modified: bool


@dataclass(frozen=True)
class Tagged:
    """A standard of an item version; main: 1, or 0.5 where the item only touches it."""

    standard: int
    main: float


@dataclass
class EvidenceAtHand:
    """By what it rests on."""

    given: KeptResults[Given] = field(default_factory=lambda: KeptResults(600))
    usual: KeptResults[dict[int, float]] = field(default_factory=lambda: KeptResults(4))


def all_given(ctx: Context, db: Session) -> list[Given]:
    """Of every form and window with closed sessions, in order of time."""
    form = func.coalesce(Sitting.form_id, PlannedSession.form_id)
    rows = db.execute(
        select(form, PlannedSession.window_id, PlannedSession.id, PlannedSession.data_version)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .join(Form, Form.id == form)
        .where(
            PlannedSession.closed_at.is_not(None),
            PlannedSession.canceled_at.is_(None),
            Sitting.state == "handed_in",
            Form.kind.in_(COUNTED),
        )
        .distinct()
    ).all()
    places: dict[tuple[int, int], list[tuple[int, int]]] = defaultdict(list)
    for form_id, window, session, version in rows:
        places[form_id, window].append((session, version))
    rests = scored_by(db, {form_id for form_id, _ in places})
    kept = ctx.own(EvidenceAtHand).given
    found = [
        kept.get(
            (form_id, window, tuple(sorted(sessions)), repr(rests.get(form_id))),
            lambda f=form_id, w=window, s=sessions: _given(db, f, w, [id for id, _ in sorted(s)]),  # type: ignore[misc]
        )
        for (form_id, window), sessions in sorted(places.items())
    ]
    return [one for one in found if one.people.size]


def _given(db: Session, form_id: int, window: int, sessions: Sequence[int]) -> Given:
    form = db.get_one(Form, form_id)
    whole = together(db, [form], [(id, window, (form_id,)) for id in sessions])
    table = whole.table
    rows = np.flatnonzero(table.counted)
    zone = zone_of(db)
    days = {
        id: school_day(start, zone).toordinal()
        for id, start in db.execute(
            select(PlannedSession.id, PlannedSession.start).where(PlannedSession.id.in_(sessions))
        )
    }
    points = np.full((rows.size, len(table.items)), np.nan)
    for at, answers in enumerate(table.answers):
        codes = answers.codes[rows]
        is_evidence = ~np.isin(codes, (NOT_PRESENTED, NOT_REACHED, AWAITING))
        points[is_evidence, at] = answers.code_points[codes[is_evidence]]
    return Given(
        form_id=form_id,
        form=form.title or form.name,
        people=whole.people[rows].astype(np.int64),
        day=np.array([days[int(s)] for s in whole.session[rows]], dtype=np.int64),
        session=whole.session[rows].astype(np.int64),
        versions=tuple(int(row.item.version_id) for row in whole.rows),
        codes=tuple(row.item.code for row in whole.rows),
        numbers=tuple(row.number for row in whole.rows),
        possible=np.array([item.points for item in table.items], dtype=np.float64),
        points=points,
        modified=form.role == MODIFIED,
    )


def tags_of(db: Session, versions: Collection[int]) -> dict[int, list[Tagged]]:
    """Standards of item versions, the main one first."""
    found: dict[int, list[Tagged]] = defaultdict(list)
    for version, standard, rank in db.execute(
        select(ItemStandard.item_version_id, ItemStandard.standard_id, ItemStandard.rank).order_by(ItemStandard.rank)
    ):
        if version in versions:
            found[version].append(Tagged(standard, 1.0 if rank == 0 else 0.5))
    return found


def usual_p(ctx: Context, db: Session) -> dict[int, float]:
    """Of item versions that 50 students or more took, over all administrations."""
    newest = db.execute(select(func.max(ItemFigure.at), func.count(), func.sum(ItemFigure.n))).one()

    def make() -> dict[int, float]:
        rows = db.execute(
            select(ItemFigure.item_version_id, func.sum(ItemFigure.n), func.sum(ItemFigure.n * ItemFigure.p))
            .where(ItemFigure.p.is_not(None))
            .group_by(ItemFigure.item_version_id)
        )
        return {version: total / n for version, n, total in rows if n >= LEAST_N}

    return ctx.own(EvidenceAtHand).usual.get(tuple(newest), make)


def usual_of_standards(tags: Mapping[int, Sequence[Tagged]], p: Mapping[int, float]) -> dict[int, float]:
    """Mean usual p of the items whose main standard it is, from three on."""
    found: dict[int, list[float]] = defaultdict(list)
    for version, some in tags.items():
        if version in p and some and some[0].main == 1.0:
            found[some[0].standard].append(p[version])
    return {standard: sum(ps) / len(ps) for standard, ps in found.items() if len(ps) >= LEAST_ITEMS}


def as_day(ordinal: int) -> date:
    """A day of evidence."""
    return date.fromordinal(ordinal)
