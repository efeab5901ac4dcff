"""Irregularities of sessions: gathered for whoever decides, with what was answered; each decision can be taken back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal, get_args

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from bildung.services.owed.sessionroster import follow_same
from bildung.services.sessions.running import state_without_mark
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.services.sitting import taking
from bildung.store.models import FormItem, Person, PlannedSession, Response, RoomEvent, SchoolClass, Sitting

Outcome = Literal["counts", "void", "retake", "exempt", ""]
LONGEST_WHY = 300


@dataclass(frozen=True, kw_only=True)
class IrregularityLine:
    """sitting: None where it is about the whole session. answered, items: what the student has answered, of how many. state:
    of the attempt. outcome: what was decided: counts, void, retake, exempt, or nothing yet."""

    id: Id
    session: Id
    klass: str
    form: str
    sitting: Id | None
    who: str
    text: str
    at: datetime
    by: str
    answered: int
    items: int
    state: str
    outcome: str


@dataclass(frozen=True, kw_only=True)
class IrregularitiesPage:
    finding: str
    lines: list[IrregularityLine]


def irregularities_page(ctx: Context, actor: Actor, window_id: int | None) -> IrregularitiesPage:
    """Of the sessions that this person plans: those without a decision first, the newest on top."""
    with ctx.store.read() as db:
        wanted = (
            select(RoomEvent, PlannedSession, Sitting, Person)
            .join(PlannedSession, PlannedSession.id == RoomEvent.session_id)
            .outerjoin(Sitting, Sitting.id == RoomEvent.sitting_id)
            .outerjoin(Person, Person.id == Sitting.person_id)
            .where(RoomEvent.kind == "irregularity", scope(actor, Action.SESSIONS_PLAN))
            .options(joinedload(PlannedSession.form), joinedload(PlannedSession.klass).joinedload(SchoolClass.school))
            .order_by(RoomEvent.settled_at.is_not(None), RoomEvent.id.desc())
        )
        if window_id is not None:
            wanted = wanted.where(PlannedSession.window_id == window_id)
        rows = db.execute(wanted).all()
        answered = dict(
            db.execute(
                select(Response.sitting_id, func.count())
                .where(Response.sitting_id.in_([s.id for _, _, s, _ in rows if s is not None]), Response.answer != "")
                .group_by(Response.sitting_id)
            ).all()
        )
        items = dict(
            db.execute(
                select(FormItem.form_id, func.count())
                .where(FormItem.form_id.in_({session.form_id for _, session, _, _ in rows}))
                .group_by(FormItem.form_id)
            ).all()
        )
        noted = {e.by_id for e, _, _, _ in rows}
        names = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_(noted)))}
        lines = [
            IrregularityLine(
                id=event.id,
                session=session.id,
                klass=session.klass.title,
                form=session.form.name,
                sitting=sitting.id if sitting else None,
                who=person.name if person else "",
                text=event.words,
                at=event.at,
                by=event.by_name or names.get(event.by_id or 0, ""),
                answered=answered.get(sitting.id, 0) if sitting else 0,
                items=len(sitting.drawn) if sitting and sitting.drawn else items.get(session.form_id, 0),
                state=sitting.state if sitting else "",
                outcome=event.outcome,
            )
            for event, session, sitting, person in rows
        ]
    return IrregularitiesPage(finding=_finding(lines), lines=lines)


def open_irregularities(db: Session, actor: Actor) -> int:
    """How many wait for this person's decision."""
    return (
        db.scalar(
            select(func.count())
            .select_from(RoomEvent)
            .join(PlannedSession, PlannedSession.id == RoomEvent.session_id)
            .where(RoomEvent.kind == "irregularity", RoomEvent.settled_at.is_(None), scope(actor, Action.SESSIONS_PLAN))
        )
        or 0
    )


def _finding(lines: list[IrregularityLine]) -> str:
    if not lines:
        return "No irregularities have been noted."
    open_ = sum(not line.outcome for line in lines)
    if not open_:
        return f"All {len(lines)} irregularities are settled." if len(lines) > 1 else "The one irregularity is settled."
    many = "1 irregularity waits" if open_ == 1 else f"{open_} irregularities wait"
    settled = len(lines) - open_
    return f"{many} for a decision" + (f"; {settled} {'is' if settled == 1 else 'are'} settled." if settled else ".")


def settle(ctx: Context, actor: Actor, event_id: int, outcome: Outcome, why: str) -> None:
    """counts: the attempt stays as it is. void: it stays on record and counts in no result. retake: the same, and the test is
    owed again. exempt: no makeup is due. Empty: take the decision back."""
    if outcome not in get_args(Outcome):
        raise Invalid("counts, void, retake, exempt, or nothing to take it back", "outcome")
    if outcome not in ("", "counts"):
        need_text(why, "why", LONGEST_WHY)

    def work(db: Session) -> int:
        row = db.execute(
            select(RoomEvent, PlannedSession)
            .join(PlannedSession, PlannedSession.id == RoomEvent.session_id)
            .where(RoomEvent.id == event_id, RoomEvent.kind == "irregularity", scope(actor, Action.SESSIONS_PLAN))
        ).one_or_none()
        if row is None:
            raise NotFound("there is no such irregularity, or it is not yours to settle")
        event, session = row
        sitting = db.get(Sitting, event.sitting_id) if event.sitting_id else None
        if sitting is None and outcome not in ("", "counts"):
            raise Conflict("this is about the whole session; note it for the students it touched", "outcome")
        before = event.outcome
        if sitting is not None:
            _apply(db, session, sitting, before, outcome)
        event.outcome = outcome
        event.settled_at, event.settled_by_id = (ctx.clock(), actor.person_id) if outcome else (None, None)
        after = outcome or "open"
        audit.record(
            db, ctx.clock(), actor.person_id, "room.settle", f"session:{session.id}", before or "open", after, why
        )
        return session.id

    session_id = ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"room": True})
    ctx.bus.publish(taking.topic(session_id), {"room": True})


def _apply(db: Session, session: PlannedSession, sitting: Sitting, before: str, outcome: str) -> None:
    if before in ("void", "retake", "exempt"):
        sitting.interrupted = False
        sitting.state = state_without_mark(sitting, session)
    if outcome in ("void", "retake"):
        sitting.state, sitting.interrupted = "void", outcome == "retake"
    elif outcome == "exempt":
        sitting.state = "exempt"
    session.data_version += 1
    db.flush()
    follow_same(db, session)
