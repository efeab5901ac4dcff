"""Benchmarks that are given here as measures: by subject, in percent of the points, on the scale of each form's family."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.classical.analysis import analyse
from bildung.core.classical.effort import LITTLE_EFFORT, effort
from bildung.services.answers.analysed import together
from bildung.services.forms.levels import BENCHMARK
from bildung.services.growth.occasions import Calendar, OccasionLine, middle, occasion_line, put_occasions
from bildung.services.quality.judged import scored_by
from bildung.services.shared.context import Context
from bildung.services.shared.results import KeptResults
from bildung.store.models import AccommodationUse, Form, Measure, Occasion, PlannedSession, RoomEvent, Sitting

LOW, HIGH, DECIMALS = 0.0, 100.0, 1


@dataclass(frozen=True, slots=True)
class ScoreAt:
    """What a student scored on an occasion. se: NaN where unknown. scale: forms of one scale are compared; empty for measures that have
    one. marks: what is to be known of the attempt. support: accommodations that were used, where that is known."""

    grade: str
    week: float
    score: float
    se: float
    scale: str
    marks: tuple[str, ...] = ()
    support: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Given:
    """A form in a window, with its closed sessions and their versions."""

    form: int
    scale: str
    grade: str
    sessions: tuple[tuple[int, int], ...]


@dataclass
class OwnScoresAtHand:
    """By what they rest on."""

    found: KeptResults[dict[int, ScoreAt]] = field(default_factory=lambda: KeptResults(64))


def ensure_own(ctx: Context) -> None:
    """A measure for each subject with a benchmark that was given, and an occasion for each window of it. Writes only what is missing."""
    with ctx.store.read() as db:
        given = _windows(db)
        there = {m.subject: m.id for m in db.scalars(select(Measure).where(Measure.own.is_(True)))}
        known: dict[str, set[int]] = defaultdict(set)
        for subject, window in db.execute(
            select(Measure.subject, Occasion.window_id)
            .join(Occasion, Occasion.measure_id == Measure.id)
            .where(Measure.own.is_(True), Occasion.window_id.is_not(None))
        ):
            known[subject].add(window or 0)
    missing = {s: windows - known[s] for s, windows in given.items() if s not in there or windows - known[s]}
    if missing:
        ctx.store.write(lambda db: _make(ctx, db, missing))


def _make(ctx: Context, db: Session, missing: dict[str, set[int]]) -> None:
    calendar = Calendar(db)
    taken = set(db.scalars(select(Measure.name)))
    for subject, windows in sorted(missing.items()):
        measure = db.scalars(select(Measure).where(Measure.own.is_(True), Measure.subject == subject)).first()
        if measure is None:
            name = f"{subject} benchmarks"
            while name in taken:
                name += ", given here"
            measure = Measure(
                name=name, subject=subject, low=LOW, high=HIGH, decimals=DECIMALS, own=True, made_at=ctx.clock()
            )
            db.add(measure)
            db.flush()
        put_occasions(db, measure.id, [calendar.of_window(id) for id in sorted(windows)])


def _closed(db: Session) -> dict[tuple[str, int], list[tuple[int, int, int]]]:
    """By subject and window: session, form and version of its data."""
    form = func.coalesce(Sitting.form_id, PlannedSession.form_id)
    rows = db.execute(
        select(Form.subject, PlannedSession.window_id, PlannedSession.id, Form.id, PlannedSession.data_version)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .join(Form, Form.id == form)
        .where(
            Form.kind == BENCHMARK,
            Form.subject != "",
            PlannedSession.closed_at.is_not(None),
            PlannedSession.canceled_at.is_(None),
            Sitting.state == "handed_in",
        )
        .distinct()
    )
    found: dict[tuple[str, int], list[tuple[int, int, int]]] = defaultdict(list)
    for subject, window, session, form_id, version in rows:
        found[subject, window].append((session, form_id, version))
    return found


def _windows(db: Session) -> dict[str, set[int]]:
    found: dict[str, set[int]] = defaultdict(set)
    for subject, window in _closed(db):
        found[subject].add(window)
    return found


def own_occasions(ctx: Context, db: Session, measure: Measure) -> list[OccasionLine]:
    """Windows with results, in order of time."""
    lines = []
    for one in db.scalars(select(Occasion).where(Occasion.measure_id == measure.id)):
        scores = own_scores(ctx, db, measure, one)
        if scores:
            lines.append(occasion_line(one, len(scores)))
    return sorted(lines, key=lambda o: (o.start, o.id))


@dataclass(frozen=True)
class OwnRests:
    """What the scores of a window rest on: sessions by form with their versions, attempts with an irregularity, accommodations used by
    attempt. key: all of it, and the rules of scoring."""

    forms: dict[int, list[tuple[int, int]]]
    irregular: set[int]
    support: dict[int, frozenset[str]]
    key: Hashable


def own_rests(db: Session, measure: Measure, occasion: Occasion) -> OwnRests:
    """As it is now."""
    assert occasion.window_id is not None
    forms: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for session, form, version in _of_window(db, measure.subject, occasion.window_id):
        forms[form].append((session, version))
    rests = scored_by(db, forms.keys())
    sessions = [session for some in forms.values() for session, _ in some]
    irregular, support = _irregular(db, sessions), _support(db, sessions)
    key = (
        measure.id,
        occasion.id,
        tuple(sorted((form, tuple(sorted(some)), repr(rests.get(form))) for form, some in forms.items())),
        tuple(sorted(irregular)),
        tuple(sorted((attempt, *sorted(kinds)) for attempt, kinds in support.items())),
    )
    return OwnRests(forms, irregular, support, key)


def own_scores(ctx: Context, db: Session, measure: Measure, occasion: Occasion) -> dict[int, ScoreAt]:
    """Complete attempts of one window, by student; a correction moves them at once."""
    rests = own_rests(db, measure, occasion)
    return ctx.own(OwnScoresAtHand).found.get(rests.key, lambda: _scores(db, occasion, rests))


def _of_window(db: Session, subject: str, window_id: int) -> Sequence[tuple[int, int, int]]:
    return _closed(db).get((subject, window_id), [])


def _irregular(db: Session, sessions: Sequence[int]) -> set[int]:
    """Attempts with an irregularity."""
    rows = db.scalars(
        select(RoomEvent.sitting_id).where(
            RoomEvent.session_id.in_(sessions), RoomEvent.kind == "irregularity", RoomEvent.sitting_id.is_not(None)
        )
    )
    return {id for id in rows if id is not None}


def _scores(db: Session, occasion: Occasion, rests: OwnRests) -> dict[int, ScoreAt]:
    calendar = Calendar(db)
    window = occasion.window_id or 0
    week = calendar.week(middle(calendar.of_window(window))) or 0.0
    found: dict[int, ScoreAt] = {}
    for id, sessions in sorted(rests.forms.items()):
        form = db.get_one(Form, id)
        whole = together(db, [form], [(session, window, (id,)) for session, _ in sorted(sessions)])
        analysis = analyse(whole.table)
        rows = np.flatnonzero(whole.table.counted)
        scores = analysis.scores
        share = np.divide(scores.earned, scores.possible, out=np.zeros(rows.size), where=scores.possible > 0)
        alpha = analysis.reliability.alpha
        kept = scores.complete & (scores.possible > 0)
        spread = float(share[kept].std(ddof=1)) if kept.sum() > 1 else math.nan
        se = 100 * spread * math.sqrt(max(0.0, 1 - alpha)) if alpha is not None else math.nan
        quick = np.zeros(rows.size, dtype=np.bool_)
        if whole.seconds is not None:
            spent = effort(analysis, whole.seconds[rows])
            quick = spent.known & (spent.effort < LITTLE_EFFORT)
        for at in np.flatnonzero(kept).tolist():
            row = int(rows[at])
            marks = []
            if quick[at]:
                marks.append("many rapid guesses")
            attempt = int(whole.sitting[row])
            if attempt in rests.irregular:
                marks.append("irregularity")
            if form.role == "adapted":
                marks.append("modified form")
            found[int(whole.people[row])] = ScoreAt(
                grade=form.grade,
                week=week,
                score=float(100 * share[at]),
                se=se if se > 0 else math.nan,
                scale=form.scale or form.name,
                marks=tuple(marks),
                support=rests.support.get(attempt, frozenset()),
            )
    return found


WHY = {
    "absent": "absent",
    "exempt": "exempt",
    "void": "attempt invalidated",
    "handed_in": "attempt waits for scores",
}


def why_missing(db: Session, measure: Measure, missing: Sequence[tuple[int, int]]) -> dict[int, str]:
    """Why a student has no score on an occasion, by student, as far as sessions say. missing: students and occasions."""
    if not measure.own or not missing:
        return {}
    windows = dict(db.execute(select(Occasion.id, Occasion.window_id).where(Occasion.measure_id == measure.id)).all())
    states: dict[tuple[int, int], str] = {}
    for person, window, state in db.execute(
        select(Sitting.person_id, PlannedSession.window_id, Sitting.state)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .join(Form, Form.id == func.coalesce(Sitting.form_id, PlannedSession.form_id))
        .where(Form.kind == BENCHMARK, Form.subject == measure.subject, PlannedSession.canceled_at.is_(None))
        .order_by(PlannedSession.start)
    ):
        states[person, window] = state
    found = {}
    for person, occasion in missing:
        at = windows[occasion]
        reason = WHY.get(states.get((person, at), "")) if at is not None else None
        if reason:
            found[person] = reason
    return found


def _support(db: Session, sessions: Sequence[int]) -> dict[int, frozenset[str]]:
    """Accommodations that were used, by attempt."""
    found: dict[int, set[str]] = defaultdict(set)
    for attempt, kind in db.execute(
        select(AccommodationUse.sitting_id, AccommodationUse.kind)
        .join(Sitting, Sitting.id == AccommodationUse.sitting_id)
        .where(Sitting.session_id.in_(sessions), AccommodationUse.outcome == "used")
    ):
        found[attempt].add(kind)
    return {attempt: frozenset(kinds) for attempt, kinds in found.items()}
