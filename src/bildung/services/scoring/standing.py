"""Responses to one item in one window: what each was given, what it still waits for, and who has it open."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from bildung.core.scoring.drawing import lot
from bildung.core.scoring.settled import SettledScore
from bildung.services.answers.byperson import GivenMark, condition_rules, given_marks, settle_marks, twice
from bildung.services.answers.corrected import changes, rulings
from bildung.services.scoring.items import HandItem, scorers_of
from bildung.store.models import Mark, PlannedSession, Response, ScoringHold, ScoringPlan, Sitting


@dataclass(frozen=True, kw_only=True)
class ResponseStanding:
    """sitting: the attempt. person, session: whose and where. marks: what was given. settled: what that is worth. double: whether
    it is scored twice. held_by: who has it open now. lot: its place in the order that tells nothing. checks: scorers to whom it is
    given as pre-scored, without their knowing; what they give it counts in no result."""

    sitting: int
    person: int
    session: int
    handed_in_at: datetime | None
    answer: str
    marks: tuple[GivenMark, ...]
    settled: SettledScore
    double: bool
    held_by: int | None
    lot: float
    checks: frozenset[int] = frozenset()

    def waits_for(self, scorer: int) -> str:
        """As this scorer sees it: a pre-scored response that they have not scored looks like any other."""
        return "score" if scorer in self.checks else self.settled.waits

    def mine(self, scorer: int) -> GivenMark | None:
        """What this person gave it."""
        return next((m for m in self.marks if m.scorer == scorer and not m.aside), None)

    def set_aside(self, scorer: int) -> GivenMark | None:
        """What this person gave it that counts no longer."""
        return next((m for m in self.marks if m.scorer == scorer and m.aside), None)


def plan_of(db: Session, place: int, window_id: int) -> ScoringPlan:
    """As it is planned; where nobody planned anything, each is scored once."""
    found = db.get(ScoringPlan, (place, window_id))
    return found or ScoringPlan(form_item_id=place, window_id=window_id, seed=1, share=0.0, apart=None)


def standings(
    db: Session, item: HandItem, window_id: int, allowed: ColumnElement[bool], now: datetime, sitting: int | None = None
) -> list[ResponseStanding]:
    """Of submitted attempts in these sessions with anything to score, in the order that tells nothing. sitting: only that."""
    plan, rules = plan_of(db, item.place, window_id), condition_rules(db)
    wanted = (
        select(Sitting.id, Sitting.person_id, Sitting.session_id, Sitting.handed_in_at, Response.answer)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .join(Response, (Response.sitting_id == Sitting.id) & (Response.form_item_id == item.place))
        .where(
            PlannedSession.window_id == window_id,
            Sitting.state == "handed_in",
            func.coalesce(Sitting.form_id, PlannedSession.form_id) == item.form_id,
            Response.answer != "",
            allowed,
        )
    )
    marked: list[ColumnElement[bool]] = [Mark.form_item_id == item.place, PlannedSession.window_id == window_id]
    held = select(ScoringHold.sitting_id, ScoringHold.person_id)
    held = held.where(ScoringHold.form_item_id == item.place, ScoringHold.until > now)
    if sitting is not None:
        wanted = wanted.where(Sitting.id == sitting)
        marked.append(Mark.sitting_id == sitting)
        held = held.where(ScoringHold.sitting_id == sitting)
    marks = {id: theirs for (_, id), theirs in given_marks(db, *marked).items()}
    holds = {id: person for id, person in db.execute(held)}
    rows = db.execute(wanted).all()
    dealt = _dealt(db, item.place, window_id) if any(m.truth for some in marks.values() for m in some) else frozenset()
    decided = _decided(db, item.place, window_id, [row.id for row in rows])
    found = [
        ResponseStanding(
            sitting=id,
            person=person,
            session=session,
            handed_in_at=at,
            answer=answer,
            marks=tuple(marks.get(id, ())),
            settled=decided.get(id) or settle_marks(item.place, id, marks.get(id, ()), plan, rules),
            double=twice(item.place, id, marks.get(id, ()), plan),
            held_by=holds.get(id),
            lot=lot(plan.seed, item.place, id),
            checks=checked_by(marks.get(id, ()), dealt),
        )
        for id, person, session, at, answer in rows
        if item.waits(answer)
    ]
    return sorted(found, key=lambda r: r.lot)


def checked_by(marks: Collection[GivenMark], dealt: frozenset[int]) -> frozenset[int]:
    """Who still scores a response as pre-scored. dealt: scorers of its item."""
    if not any(m.truth and not m.aside for m in marks):
        return frozenset()
    return dealt - {m.scorer for m in marks}


def _dealt(db: Session, place: int, window_id: int) -> frozenset[int]:
    return frozenset(task.scorer_id for task in scorers_of(db, place, window_id))


def _decided(db: Session, place: int, window_id: int, sittings: Collection[int]) -> dict[int, SettledScore]:
    """Responses that wait for no one, as a correction says what they earn."""
    if (place, window_id) in rulings(db, [place]):
        return dict.fromkeys(sittings, SettledScore(0.0))
    return {id: SettledScore(points) for id, points in changes(db, [place]).get(place, {}).items()}
