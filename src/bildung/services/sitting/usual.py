"""How long a test usually takes, for the one notice to somebody who is far quicker."""

from __future__ import annotations

import statistics
from dataclasses import dataclass, field

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.services.shared.context import Context
from bildung.services.shared.results import KeptResults
from bildung.store.models import PlannedSession, Sitting, TimeOn

ENOUGH = 20  # attempts; of fewer nothing is said to be usual
READ = 500
KEPT = 500


@dataclass
class UsualTimes:
    """By form and how many sessions of it are closed."""

    kept: KeptResults[float | None] = field(default_factory=lambda: KeptResults(KEPT))


def usual_seconds(ctx: Context, db: Session, form_id: int) -> float | None:
    """The median time that submitted attempts at the form were worked on, in seconds; None where there are too few. Of closed
    sessions, so that it is the same for everybody in a room."""
    over = (PlannedSession.form_id == form_id) & PlannedSession.closed_at.is_not(None)
    closed = db.scalar(select(func.count()).select_from(PlannedSession).where(over)) or 0
    return ctx.own(UsualTimes).kept.get((form_id, closed), lambda: _read(db, form_id))


def _read(db: Session, form_id: int) -> float | None:
    rows = db.scalars(
        select(func.sum(TimeOn.milliseconds))
        .join(Sitting, Sitting.id == TimeOn.sitting_id)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(
            PlannedSession.form_id == form_id,
            PlannedSession.closed_at.is_not(None),
            Sitting.state == "handed_in",
            Sitting.form_id.is_(None),
        )
        .group_by(Sitting.id)
        .limit(READ)
    ).all()
    return statistics.median(rows) / 1000 if len(rows) >= ENOUGH else None
