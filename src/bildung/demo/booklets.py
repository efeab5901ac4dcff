"""A class that took its test on paper, half of it with booklets of the other form: typed in as if each had had their own."""

from __future__ import annotations

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from bildung.services.corrections.otherform import read_by
from bildung.services.scoring.paperentry import put_answers
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import Form, PlannedSession, Response, ResponseEvent, Sitting, TimeOn

FORM = "Winter reading 7"
PLACE = 1  # among the classes of the grade
HALF = 12


def mixed_booklets(ctx: Context, actor: Actor, window: int) -> None:
    """Of a session that is over; nothing where the demo has none."""

    def work(db: Session) -> None:
        sessions = db.scalars(
            select(PlannedSession)
            .join(Form, Form.id == PlannedSession.form_id)
            .where(Form.name == f"{FORM} A", PlannedSession.window_id == window, PlannedSession.closed_at.is_not(None))
            .order_by(PlannedSession.id)
        ).all()
        other = db.scalar(select(Form).where(Form.name == f"{FORM} B"))
        if len(sessions) <= PLACE or other is None:
            return
        session = sessions[PLACE]
        mine = db.scalars(
            select(Sitting)
            .where(Sitting.session_id == session.id, Sitting.state == "handed_in", Sitting.form_id.is_(None))
            .order_by(Sitting.person_id)
        ).all()
        ids = [sitting.id for sitting in mine]
        db.execute(update(Sitting).where(Sitting.id.in_(ids)).values(way="paper"))
        db.execute(delete(TimeOn).where(TimeOn.sitting_id.in_(ids)))
        for sitting in mine[:HALF]:
            rows = db.scalars(select(Response).where(Response.sitting_id == sitting.id, Response.answer != ""))
            given = {r.form_item_id: r.answer for r in rows}
            # the list says form B; the booklet was an A
            answers = read_by(db, session.form_id, other.id, given)
            for table in (Response, ResponseEvent):
                db.execute(delete(table).where(table.sitting_id == sitting.id))
            sitting.form_id = other.id
            db.flush()
            db.expire_all()
            put_answers(db, ctx, actor, session, sitting, answers, False)

    ctx.store.write(work)
