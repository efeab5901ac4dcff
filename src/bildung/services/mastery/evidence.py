"""Evidence: every scored point on an item with a standard, from tests, live rounds and what was entered by hand; a correction moves it at once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from itertools import count

import numpy as np
import numpy.typing as npt
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.accommodations.kinds import KINDS as ACCOMMODATIONS
from bildung.core.data.responses import AWAITING, NOT_PRESENTED, NOT_REACHED
from bildung.core.mastery.counting import KINDS
from bildung.core.school.schooltime import school_day
from bildung.services.answers.analysed import together
from bildung.services.calendar.years import zone_of
from bildung.services.live.asked import Asked, answers_to, questions_of
from bildung.services.quality.judged import scored_by
from bildung.services.shared.context import Context
from bildung.services.shared.results import KeptResults
from bildung.services.sitting.feedback import earned_by
from bildung.store.models import (
    AccommodationUse,
    EnteredEvidence,
    Form,
    LiveAnswer,
    LiveRound,
    PlannedSession,
    Scoring,
    SessionEvidence,
    Sitting,
)

MODIFIED = "adapted"  # role of a form that is no grade-level evidence
Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]
_serial = count(1)


@dataclass(frozen=True, kw_only=True)
class Given:
    """A form as it was given in a window, a live round, or something entered by hand: (rows, items) points, NaN where there is no
    evidence. serial: no two that were read have the same. kind: as in core/mastery/counting.py. test: attempts at the same test in the
    same window share it. session: 0 where it was none. version: of each item; entered by hand, the standard with a minus. modified: no
    grade-level evidence."""

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
    kind: str
    test: tuple[str, int, int]
    modified: bool = False
    serial: int = field(default_factory=lambda: next(_serial))


@dataclass
class EvidenceAtHand:
    """By what it rests on."""

    given: KeptResults[Given] = field(default_factory=lambda: KeptResults(600))
    rounds: KeptResults[Given | None] = field(default_factory=lambda: KeptResults(600))
    entered: KeptResults[list[Given]] = field(default_factory=lambda: KeptResults(2))


def all_given(ctx: Context, db: Session) -> list[Given]:
    """Of every door that evidence comes by."""
    return [*_tests(ctx, db), *_rounds(ctx, db), *_entered(ctx, db)]


def _tests(ctx: Context, db: Session) -> list[Given]:
    """Of every form and window with closed sessions."""
    form = func.coalesce(Sitting.form_id, PlannedSession.form_id)
    rows = db.execute(
        select(
            form,
            PlannedSession.window_id,
            PlannedSession.id,
            PlannedSession.data_version,
            Form.family_id,
        )
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .join(Form, Form.id == form)
        .where(
            PlannedSession.closed_at.is_not(None),
            PlannedSession.canceled_at.is_(None),
            Sitting.state == "handed_in",
            Form.kind.in_(KINDS),
        )
        .distinct()
    ).all()
    # which family a form belongs to may be said after it was taken
    places: dict[tuple[int, int, int | None], list[tuple[int, int]]] = defaultdict(list)
    for form_id, window, session, version, family in rows:
        places[form_id, window, family].append((session, version))
    rests = scored_by(db, {form_id for form_id, *_ in places})
    kept = ctx.own(EvidenceAtHand).given
    found = [
        kept.get(
            (form_id, window, family, tuple(sorted(sessions)), repr(rests.get(form_id))),
            lambda f=form_id, w=window, s=sessions: _given(db, f, w, [id for id, _ in sorted(s)]),  # type: ignore[misc]
        )
        for (form_id, window, family), sessions in sorted(places.items(), key=lambda place: place[0][:2])
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
        kind=form.kind,
        test=("family", form.family_id, window) if form.family_id else ("form", form_id, window),
        modified=form.role == MODIFIED,
    )


def _rounds(ctx: Context, db: Session) -> list[Given]:
    """Of live rounds that are over and whose holder said that they count; their answers no longer change."""
    kept = ctx.own(EvidenceAtHand).rounds
    # keys may change, and two records of a student may become one
    rests = db.scalar(select(func.max(Scoring.id))), db.scalar(select(func.sum(LiveAnswer.person_id)))
    rows = db.scalars(
        select(LiveRound).where(LiveRound.ended_at.is_not(None), LiveRound.evidence.is_(True)).order_by(LiveRound.id)
    )
    found = [kept.get((round_.id, rests), lambda r=round_: _round(db, r)) for round_ in rows]  # type: ignore[misc]
    return [one for one in found if one is not None]


def _round(db: Session, round_: LiveRound) -> Given | None:
    """First answers only: after students have talked, it is no longer each one's own."""
    first = [a for a in questions_of(db, round_) if a.version is not None and a.question.again_of is None]
    given = [(asked, answers_to(db, asked.question.id)) for asked in first]
    people = sorted({person for _, answers in given for person in answers})
    if not people:
        return None
    points = np.full((len(people), len(first)), np.nan)
    at = {person: row for row, person in enumerate(people)}
    for column, (asked, answers) in enumerate(given):
        for person, answer in answers.items():
            points[at[person], column] = _earned(asked, answer.answer)
    day = school_day(round_.started_at, zone_of(db)).toordinal()
    versions = [a.version for a in first if a.version is not None]
    return Given(
        form_id=0,
        form="Live round",
        people=np.array(people, dtype=np.int64),
        day=np.full(len(people), day, dtype=np.int64),
        session=np.zeros(len(people), dtype=np.int64),
        versions=tuple(v.id for v in versions),
        codes=tuple(v.item.code for v in versions),
        numbers=tuple(a.number for a in first),
        possible=np.array([a.points for a in first], dtype=np.float64),
        points=points,
        kind="live",
        test=("round", round_.id, 0),
    )


def _earned(asked: Asked, answer: str) -> float:
    assert asked.version is not None and asked.content is not None
    return float(earned_by(asked.version.kind, asked.content, answer))


def _entered(ctx: Context, db: Session) -> list[Given]:
    """Scores and observations, those of one entry together."""
    E = EnteredEvidence
    key = db.execute(select(func.max(E.id), func.count(), func.count(E.withdrawn_at), func.sum(E.person_id))).one()
    return ctx.own(EvidenceAtHand).entered.get(tuple(key), lambda: _entries(db))


def _entries(db: Session) -> list[Given]:
    some: dict[tuple[int, str, str, date, float], list[EnteredEvidence]] = defaultdict(list)
    rows = db.scalars(
        select(EnteredEvidence).where(EnteredEvidence.withdrawn_at.is_(None)).order_by(EnteredEvidence.id)
    )
    for row in rows:
        some[row.standard_id, row.kind, row.what, row.on, row.possible].append(row)
    return [
        Given(
            form_id=0,
            form=what,
            people=np.array([e.person_id for e in entries], dtype=np.int64),
            day=np.full(len(entries), on.toordinal(), dtype=np.int64),
            session=np.zeros(len(entries), dtype=np.int64),
            versions=(-standard,),
            codes=(kind,),
            numbers=(1,),
            possible=np.array([possible]),
            points=np.array([[e.earned] for e in entries]),
            kind=kind,
            test=("entered", entries[0].id, 0),
        )
        for (standard, kind, what, on, possible), entries in some.items()
    ]


TAKEN = {"paper": "on paper", "home": "at home"}


def how_taken(db: Session, people: Sequence[int]) -> dict[tuple[int, int], str]:
    """By session and student: on paper, at home, and the accommodations that were used; they leave evidence whole."""
    rows = db.execute(
        select(Sitting.id, Sitting.session_id, Sitting.person_id, Sitting.way).where(Sitting.person_id.in_(people))
    ).all()
    used: dict[int, list[str]] = defaultdict(list)
    for sitting, kind in db.execute(
        select(AccommodationUse.sitting_id, AccommodationUse.kind)
        .join(Sitting, Sitting.id == AccommodationUse.sitting_id)
        .where(AccommodationUse.outcome == "used", Sitting.person_id.in_(people))
        .order_by(AccommodationUse.kind)
    ):
        used[sitting].append(ACCOMMODATIONS[kind].says)
    found = {}
    for sitting, session, person, way in rows:
        told = [TAKEN[way]] if way in TAKEN else []
        if text := ", ".join([*told, *used.get(sitting, [])]):
            found[session, person] = text
    return found


def decisions(db: Session) -> dict[int, bool]:
    """Sessions that count, or do not, by decision."""
    return dict(db.execute(select(SessionEvidence.session_id, SessionEvidence.counts)).all())


def as_day(ordinal: int) -> date:
    """A day of evidence."""
    return date.fromordinal(ordinal)
