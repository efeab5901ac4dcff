"""What people gave responses, settled by the one rule of the core: for every total, and for who still has to score."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import cast

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from bildung.core.scoring.conditions import CONDITIONS, DEFAULTS, Condition, Worth
from bildung.core.scoring.drawing import scored_twice
from bildung.core.scoring.settled import GivenScore, SettledScore, settled
from bildung.services.shared.settings import setting
from bildung.store.models import Mark, PlannedSession, ScoringPlan, Sitting


def condition_rules(db: Session) -> dict[Condition, Worth]:
    """What each condition code is worth here."""
    chosen = setting(db, "condition_rules")
    return {code: cast(Worth, chosen.get(code, DEFAULTS[code])) for code in CONDITIONS}


@dataclass(frozen=True, slots=True)
class GivenMark:
    """A score as it was given. scorer: who gave it; aside: set aside, so that it counts in no result; second: they want a second
    opinion; truth: the response is pre-scored by it; the rest is as of the store's row."""

    id: int
    place: int
    sitting: int
    scorer: int
    points: float
    criteria: list[float] | None
    code: str
    final: bool
    at: datetime
    aside: bool
    scoring: int | None
    second: bool
    truth: bool

    @property
    def score(self) -> GivenScore:
        """As the core knows it."""
        return GivenScore(self.points, cast(Condition, self.code) if self.code else None, self.final)


def given_marks(db: Session, *wanted: ColumnElement[bool]) -> dict[tuple[int, int], list[GivenMark]]:
    """By item of a form and attempt, in the order in which they were given. wanted: of marks, attempts and sessions."""
    found: dict[tuple[int, int], list[GivenMark]] = {}
    for row in db.execute(
        select(
            Mark.id,
            Mark.form_item_id,
            Mark.sitting_id,
            Mark.marker_id,
            Mark.points,
            Mark.criteria,
            Mark.code,
            Mark.final,
            Mark.at,
            Mark.aside,
            Mark.scoring,
            Mark.second,
            Mark.truth,
        )
        .join(Sitting, Sitting.id == Mark.sitting_id)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(*wanted)
        .order_by(Mark.id)
    ):
        found.setdefault((row.form_item_id, row.sitting_id), []).append(GivenMark(*tuple(row)))
    return found


def plans_of(db: Session, places: Collection[int]) -> dict[tuple[int, int], ScoringPlan]:
    """By item of a form and window, where somebody planned anything."""
    rows = db.scalars(select(ScoringPlan).where(ScoringPlan.form_item_id.in_(places)))
    return {(plan.form_item_id, plan.window_id): plan for plan in rows}


def twice(place: int, sitting: int, marks: Collection[GivenMark], plan: ScoringPlan | None) -> bool:
    """Whether a response is to have a second score: drawn by the plan, or whoever scored it wants a second opinion."""
    if any(m.second and not m.aside for m in marks):
        return True
    return plan is not None and scored_twice(plan.seed, place, sitting, plan.share)


def settle_marks(
    place: int,
    sitting: int,
    marks: Collection[GivenMark],
    plan: ScoringPlan | None,
    rules: Mapping[Condition, Worth],
) -> SettledScore:
    """What one response earns. marks: in the order in which they were given; those set aside count for nothing."""
    double = twice(place, sitting, marks, plan)
    counts = [m.score for m in marks if not m.aside]
    return settled(counts, rules, double, None if plan is None else plan.apart)


def settled_scores(
    db: Session, places: Collection[int], aside: Collection[int] = (), attempt: int | None = None
) -> dict[int, dict[int, SettledScore]]:
    """By item of a form and attempt, for everything that has been given a score. aside: scores that are supposed to count no longer.
    attempt: only this one."""
    found: dict[int, dict[int, SettledScore]] = {place: {} for place in places}
    if not places:
        return found
    rules, plans = condition_rules(db), plans_of(db, places)
    wanted: list[ColumnElement[bool]] = [Mark.form_item_id.in_(places)]
    if attempt is not None:
        wanted.append(Mark.sitting_id == attempt)
    marks = given_marks(db, *wanted)
    of_attempt = select(Sitting.id, PlannedSession.window_id).join(
        PlannedSession, PlannedSession.id == Sitting.session_id
    )
    of_attempt = of_attempt.join(Mark, Mark.sitting_id == Sitting.id).where(*wanted).distinct()
    windows = {id: window for id, window in db.execute(of_attempt)} if plans else {}
    for (place, sitting), theirs in marks.items():
        plan = plans.get((place, windows.get(sitting, 0)))
        tried = [replace(m, aside=True) if m.id in aside else m for m in theirs] if aside else theirs
        found[place][sitting] = settle_marks(place, sitting, tried, plan, rules)
    return found
