"""Changing sessions that are planned or open: time, room, proctor, form, words; one or many; canceling them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.answers.packing import pack
from bildung.services.owed.sametest import gives_the_same
from bildung.services.owed.sessionroster import follow_class, follow_same
from bildung.services.people.proctors import check_proctor
from bildung.services.sessions import guards
from bildung.services.sessions.busy import check_free, supporters
from bildung.services.sessions.scheduling import (
    FEW,
    LONGEST_INSTRUCTIONS,
    check_times,
    publishable,
    refuse_busy,
    refuse_unsettled,
)
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.sitting import taking
from bildung.store.models import Person, Placement, PlannedSession, Sitting

LONGEST_TITLE, LONGEST_WHY = 120, 300
MOST = 300


@dataclass(frozen=True, kw_only=True)
class SessionChange:
    """What is to be different; None leaves it. shift: minutes by which start and end move, for many at once. proctor:
    an id, or 0 for nobody."""

    start: datetime | None = None
    end: datetime | None = None
    shift: int | None = None
    room: str | None = None
    proctor: int | None = None
    form_id: int | None = None
    title: str | None = None
    instructions: str | None = None


def change(
    ctx: Context,
    actor: Actor,
    revisions: Mapping[int, int],
    wish: SessionChange,
    why: str | None = None,
    grant_role: bool = False,
) -> None:
    """All of these sessions or none.

    Parameters
    ----------
    revisions
        By session, the revision that whoever changes it has seen; refused where it has moved on.
    why
        The reason for what speaks against it; see `guards`.
    """
    _check(revisions, wish)

    def work(db: Session) -> None:
        for id, seen in revisions.items():
            session = changeable(db, actor, id)
            if session.revision != seen:
                raise Conflict(
                    f"someone changed the session of {session.klass.title} in the meantime; the current version is shown",
                    "revision",
                )
        change_in(db, ctx, actor, dict.fromkeys(revisions, wish), why, grant_role)

    ctx.store.write(work, much=len(revisions) > FEW)
    for id in revisions:
        tell_changed(ctx, id)


def change_in(
    db: Session,
    ctx: Context,
    actor: Actor,
    wishes: Mapping[int, SessionChange],
    why: str | None = None,
    grant_role: bool = False,
) -> None:
    """Each session as wished, in a transaction of somebody else; clashes are looked for once all stand where they are to be,
    so that two can change places."""
    sessions = [changeable(db, actor, id) for id in wishes]
    before = {s.id: _told(s) for s in sessions}
    for session in sessions:
        _apply(db, ctx, actor, session, wishes[session.id], grant_role)
    db.flush()
    for session in sessions:
        _refuse_clashes(db, session, before[session.id])
    moved = [s for s in sessions if _moves(wishes[s.id])]
    against = guards.refuse_without_reason(db, [_plan(s) for s in moved], why) if moved else []
    for session in sessions:
        session.revision += 1
        follow_class(db, session)
        if wishes[session.id].form_id is not None:
            refuse_unsettled(db, session, session.klass.title)
        after = _told(session)
        changed = {k: v for k, v in after.items() if v != before[session.id][k]}
        old = {k: before[session.id][k] for k in changed}
        if against:
            changed["against"] = against
        target = f"session:{session.id}"
        audit.record(
            db, ctx.clock(), actor.person_id, "session.change", target, _plain(old), _plain(changed), why or ""
        )


def _moves(wish: SessionChange) -> bool:
    """Whether it touches what guards look at."""
    return (
        wish.start is not None
        or wish.end is not None
        or bool(wish.shift)
        or wish.room is not None
        or wish.form_id is not None
    )


def _check(revisions: Mapping[int, int], wish: SessionChange) -> None:
    if not 0 < len(revisions) <= MOST:
        raise Invalid(f"choose 1 to {MOST} sessions", "ids")
    if wish.title is not None and len(wish.title) > LONGEST_TITLE:
        raise Invalid(f"a title has at most {LONGEST_TITLE} characters", "title")
    if wish.instructions is not None and len(wish.instructions) > LONGEST_INSTRUCTIONS:
        raise Invalid(f"instructions have at most {LONGEST_INSTRUCTIONS} characters", "instructions")


def changeable(db: Session, actor: Actor, session_id: int) -> PlannedSession:
    """One that can still be changed, and is this person's to plan."""
    session = db.scalar(
        select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, Action.SESSIONS_PLAN))
    )
    if session is None:
        raise NotFound("there is no such session, or it is not yours to change")
    if session.canceled_at is not None:
        raise Conflict(f"the session of {session.klass.title} was canceled; schedule another one")
    if session.closed_at is not None:
        raise Conflict(f"the session of {session.klass.title} is closed; reopen it first")
    return session


def _told(session: PlannedSession) -> dict[str, Any]:
    return {
        "start": session.start,
        "end": session.end,
        "room": session.room,
        "proctor": session.proctor_id,
        "form": session.form_id,
        "title": session.title,
        "instructions": session.instructions,
    }


def _plain(values: dict[str, Any]) -> dict[str, Any]:
    return {k: v.isoformat() if isinstance(v, datetime) else v for k, v in values.items()}


def _plan(session: PlannedSession) -> guards.Plan:
    return guards.Plan(
        klass=session.klass,
        form=session.form,
        window=session.window,
        room=session.room,
        start=session.start,
        end=session.end,
        session=session.id,
    )


def _refuse_clashes(db: Session, session: PlannedSession, before: Mapping[str, Any]) -> None:
    """A class, its proctor and those who support its students are in one place at a time, where this change is what would
    put them in two."""
    now = _told(session)
    moved = any(now[name] != before[name] for name in ("start", "end"))
    if moved and not session.by_name:
        refuse_busy(db, session.klass, session.start, session.end, session.id)
    if session.proctor_id is not None and (moved or now["proctor"] != before["proctor"]):
        check_free(db, db.get_one(Person, session.proctor_id), session)
    for staff in supporters(db, [session.id])[session.id] if moved else ():
        check_free(db, db.get_one(Person, staff), session)


def _apply(db: Session, ctx: Context, actor: Actor, session: PlannedSession, wish: SessionChange, grant: bool) -> None:
    start, room = session.start, session.room
    _retime(db, ctx, session, wish)
    if wish.room is not None:
        session.room = wish.room.strip()
    _remember(session, start, room)
    if wish.proctor is not None:
        proctor = wish.proctor or None
        if proctor is not None and proctor != session.proctor_id:
            check_proctor(db, ctx, actor, proctor, session.klass.school_id, grant)
        session.proctor_id = proctor
    if wish.form_id is not None and wish.form_id != session.form_id:
        _give_form(db, actor, session, wish.form_id)
    if wish.title is not None:
        session.title = wish.title.strip()
    if wish.instructions is not None:
        session.instructions = wish.instructions.strip()


def _remember(session: PlannedSession, start: datetime, room: str) -> None:
    """What students were told before the first of its moves; nothing once it is back there."""
    if (session.start, session.room) != (start, room) and session.told_start is None:
        session.told_start, session.told_room = start, room
    if (session.start, session.room) == (session.told_start, session.told_room):
        session.told_start = session.told_room = None


def _retime(db: Session, ctx: Context, session: PlannedSession, wish: SessionChange) -> None:
    """A session that has begun keeps its start; its end moves, not into the past."""
    shift = timedelta(minutes=wish.shift or 0)
    start = (wish.start or session.start).astimezone(UTC) + shift
    end = (wish.end or session.end).astimezone(UTC) + shift
    if (start, end) == (session.start, session.end):
        return
    now = ctx.clock()
    if start != session.start and _begun(db, session):
        raise Conflict(f"students of {session.klass.title} have started; only the end can change now", "start")
    check_times(start, end, now)
    if end <= now:
        raise Invalid("the new end lies ahead; close the session to end it now", "end")
    session.start, session.end = start, end
    if session.due is not None and not start < session.due <= end:
        session.due = None


def _begun(db: Session, session: PlannedSession) -> int:
    return len(
        db.scalars(select(Sitting.id).where(Sitting.session_id == session.id, Sitting.started_at.is_not(None))).all()
    )


def _give_form(db: Session, actor: Actor, session: PlannedSession, form_id: int) -> None:
    """Another test, while nobody has begun: what was answered belongs to the form it was answered on."""
    begun = _begun(db, session)
    if begun:
        students = "student has" if begun == 1 else "students have"
        raise Conflict(f"{begun} {students} started; end their attempts before the form changes", "form_id")
    form = publishable(db, actor, form_id, None)
    session.form_id, session.part = form.id, None
    db.flush()
    db.expire(session, ["form"])
    if db.scalar(
        select(PlannedSession.id).where(gives_the_same(db, session), PlannedSession.class_id == session.class_id)
    ):
        raise Conflict(f"{session.klass.title} has this test in this window already", "form_id")


def cancel(ctx: Context, actor: Actor, ids: Sequence[int], why: str, still_owed: bool = True) -> None:
    """They do not take place, or end for all: what was answered stays, and whoever had not submitted owes the test
    again. still_owed: not so where the test was scheduled by mistake."""
    why = need_text(why, "why", LONGEST_WHY)
    if not 0 < len(ids) <= MOST:
        raise Invalid(f"choose 1 to {MOST} sessions", "ids")

    ctx.store.write(lambda db: cancel_in(db, ctx, actor, ids, why, still_owed), much=len(ids) > FEW)
    for id in ids:
        tell_changed(ctx, id)


def cancel_in(db: Session, ctx: Context, actor: Actor, ids: Sequence[int], why: str, still_owed: bool = True) -> None:
    """The same, in a transaction of somebody else."""
    now = ctx.clock()
    for id in dict.fromkeys(ids):
        session = changeable(db, actor, id)
        for attempt in db.scalars(select(Sitting).where(Sitting.session_id == session.id)):
            if attempt.state == "answering":
                attempt.state, attempt.interrupted = "void", True
        placed = db.scalars(select(Placement).where(Placement.session_id == session.id)).all()
        for placement in placed:
            db.delete(placement)
        session.canceled_at = session.closed_at = now
        session.cancel_why, session.still_owed = why, still_owed
        session.revision += 1
        session.data_version += 1
        db.flush()
        pack(db, session)
        if placed:
            follow_same(db, session)
        audit.record(db, now, actor.person_id, "session.cancel", f"session:{session.id}", None, None, why)


def tell_changed(ctx: Context, session_id: int) -> None:
    """Whoever watches it, and every student who has it open."""
    ctx.bus.publish(f"session:{session_id}", {"changed": True})
    ctx.bus.publish(taking.topic(session_id), {"changed": True})
