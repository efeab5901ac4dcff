"""What became of each accommodation at an attempt: offered, used or refused, as the person in the room says it."""

from __future__ import annotations

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.core.accommodations.kinds import KINDS
from bildung.services.owed.accommodated import of_person
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.store.models import AccommodationUse, PlannedSession, Sitting

OUTCOMES = ("offered", "used", "refused")


def record(ctx: Context, actor: Actor, session_id: int, sitting_id: int, kind: str, outcome: str) -> None:
    """Of one accommodation of one student; an empty outcome takes back what was said."""
    if outcome not in ("", *OUTCOMES):
        raise Invalid(f"an accommodation was {', '.join(OUTCOMES)}, or nothing is said", "outcome")

    def work(db: Session) -> None:
        session = db.scalar(
            select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, Action.SESSIONS_RUN))
        )
        sitting = db.get(Sitting, sitting_id)
        if session is None or sitting is None or sitting.session_id != session.id:
            raise NotFound("there is no such session, or it is not yours")
        if ctx.clock() < session.start:
            raise Invalid("the session has not started; say it when the student is there", "outcome")
        row = db.get(AccommodationUse, (sitting.id, kind))
        if row is None and kind not in of_person(db, session, sitting.person_id).kinds:
            raise Invalid("this student does not have this accommodation for this test", "kind")
        before = row.outcome if row else ""
        if before == outcome:
            return
        if not outcome:
            db.execute(
                delete(AccommodationUse).where(AccommodationUse.sitting_id == sitting.id, AccommodationUse.kind == kind)
            )
        elif row is None:
            db.add(
                AccommodationUse(
                    sitting_id=sitting.id, kind=kind, outcome=outcome, at=ctx.clock(), by_id=actor.person_id
                )
            )
        else:
            row.outcome, row.at, row.by_id = outcome, ctx.clock(), actor.person_id
        says = KINDS[kind].says
        audit.record(db, ctx.clock(), actor.person_id, "accommodation.provided", f"sitting:{sitting.id}", says, outcome)

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"accommodations": True})
