"""Plans as they were, a few of each window."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import Plan, PlanVersion

MOST = 12
"""With a name; half as many without one."""


def keep_version(db: Session, ctx: Context, actor: Actor, plan: Plan, name: str = "") -> None:
    """The plan as it is; without a name only the newest few are kept."""
    db.add(
        PlanVersion(
            plan_id=plan.id,
            name=name,
            kept_at=ctx.clock(),
            by_id=actor.person_id,
            wishes=plan.wishes,
            sessions=plan.sessions,
            figures=plan.figures,
        )
    )
    db.flush()
    unnamed = [row for row in versions_of(db, plan.id) if not row.name]
    for row in unnamed[MOST // 2 :]:
        db.delete(row)


def versions_of(db: Session, plan_id: int) -> list[PlanVersion]:
    """Of a plan, the newest first."""
    rows = select(PlanVersion).where(PlanVersion.plan_id == plan_id)
    return list(db.scalars(rows.order_by(PlanVersion.kept_at.desc(), PlanVersion.id.desc())))
