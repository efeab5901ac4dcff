"""Answers that came when they could no longer be taken: kept, shown to whoever runs the session, taken in by decision."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.answers.packing import pack
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.wire import Id
from bildung.services.sitting.events import Answer, apply_event
from bildung.store.models import (
    FormItem,
    Item,
    ItemVersion,
    Person,
    PlannedSession,
    RefusedAnswer,
    Response,
    ResponseEvent,
    Sitting,
)

if TYPE_CHECKING:
    pass


@dataclass(frozen=True, kw_only=True)
class LateAnswer:
    """One that waits for a decision. now: what counts at present."""

    id: str
    sitting: Id
    name: str
    item: str
    answer: str
    now: str
    at: datetime
    why: str


def late_answers(db: Session, session_id: int) -> list[LateAnswer]:
    """Those that wait, by student and as they came."""
    rows = db.execute(
        select(RefusedAnswer, Person, Item.code, Response.answer)
        .join(Sitting, Sitting.id == RefusedAnswer.sitting_id)
        .join(Person, Person.id == Sitting.person_id)
        .join(FormItem, FormItem.id == RefusedAnswer.form_item_id)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .join(Item, Item.id == ItemVersion.item_id)
        .outerjoin(Response, (Response.sitting_id == Sitting.id) & (Response.form_item_id == FormItem.id))
        .where(Sitting.session_id == session_id, RefusedAnswer.taken.is_(None))
        .order_by(Person.family, Person.given, RefusedAnswer.takeover, RefusedAnswer.sequence)
    )
    return [
        LateAnswer(
            id=r.id, sitting=r.sitting_id, name=p.name, item=code, answer=r.answer, now=now or "", at=r.at, why=r.why
        )
        for r, p, code, now in rows
    ]


def settle(ctx: Context, actor: Actor, session_id: int, sitting_id: int, take: bool, why: str) -> int:
    """Take in, or leave out, all waiting answers of one student; how many there were. Taken in, each stands in the order
    in which the device sent it, and what was packed for analysis is packed again."""

    def work(db: Session) -> int:
        session = db.scalar(
            select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, Action.SESSIONS_RUN))
        )
        sitting = db.get(Sitting, sitting_id)
        if session is None or sitting is None or sitting.session_id != session.id:
            raise NotFound("there is no such session or attempt, or it is not yours")
        waiting = db.scalars(
            select(RefusedAnswer)
            .where(RefusedAnswer.sitting_id == sitting_id, RefusedAnswer.taken.is_(None))
            .order_by(RefusedAnswer.takeover, RefusedAnswer.sequence)
        ).all()
        if not waiting:
            raise Conflict("nothing waits any more; the page shows what is there now")
        for row in waiting:
            row.taken, row.settled_at, row.settled_by = take, ctx.clock(), actor.person_id
            if not take:
                continue
            if db.get(ResponseEvent, row.id) is None:
                db.add(
                    ResponseEvent(
                        id=row.id,
                        sitting_id=sitting_id,
                        form_item_id=row.form_item_id,
                        answer=row.answer,
                        takeover=row.takeover,
                        sequence=row.sequence,
                        at=row.at,
                    )
                )
            apply_event(
                db,
                sitting_id,
                Answer(
                    id=row.id,
                    question=row.form_item_id,
                    answer=row.answer,
                    takeover=row.takeover,
                    sequence=row.sequence,
                ),
            )
            db.flush()
        if take:
            session.data_version += 1
            if session.closed_at is not None:
                pack(db, session)
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "answers.take" if take else "answers.leave",
            f"sitting:{sitting_id}",
            None,
            {"answers": len(waiting)},
            why,
        )
        return len(waiting)

    found = ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitting_id)})
    return found
