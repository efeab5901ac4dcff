"""What whoever holds a session does while it runs: clocks that stand still, minutes, messages, what happened in the room."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal, get_args

from sqlalchemy import Select, select, update
from sqlalchemy.orm import Session

from bildung.services.sessions.listing import _get, stops_school
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.services.sitting import taking
from bildung.services.sitting.signs import back_from_restroom, begin_pause, end_pause
from bildung.store.models import PlannedSession, RoomEvent, SchoolClass, SignIn, Sitting

Kind = Literal[
    "pause", "resume", "minutes", "message", "helped", "restroom", "back", "move", "afterward", "irregularity"
]
MOST_MINUTES = 60
LONGEST_MESSAGE = 200
LONGEST_IRREGULARITY = 500


@dataclass(frozen=True, kw_only=True)
class RoomAction:
    """sittings: whom it is for; none: everybody who is taking the test. minutes: given, or taken back where they are
    negative. text: of a message or an irregularity."""

    kind: Kind
    sittings: Sequence[Id] = field(default_factory=tuple)
    minutes: int = 0
    text: str = ""


def act(ctx: Context, actor: Actor, session_id: int, wish: RoomAction) -> int:
    """Do it; for how many students."""
    _check(wish)

    def work(db: Session) -> int:
        session = _get(db, actor, Action.ROOM_HOLD, session_id)
        if session.canceled_at is not None:
            raise Conflict("this session was canceled")
        if session.closed_at is not None and wish.kind != "irregularity":
            raise Conflict("this session is closed; reopen it first")
        found = _whom(db, session, wish)
        done = _do(db, ctx, actor, session, found, wish)
        after = {"students": len(found) or "all", **({"minutes": wish.minutes} if wish.minutes else {})}
        audit.record(
            db, ctx.clock(), actor.person_id, f"room.{wish.kind}", f"session:{session.id}", None, after, wish.text
        )
        return done

    done = ctx.store.write(work)
    tell(ctx, session_id)
    return done


def tell(ctx: Context, session_id: int) -> None:
    """Whoever watches the session, and every student who has it open."""
    ctx.bus.publish(f"session:{session_id}", {"room": True})
    ctx.bus.publish(taking.topic(session_id), {"room": True})


def _check(wish: RoomAction) -> None:
    if wish.kind not in get_args(Kind):
        raise Invalid(f"one of {', '.join(get_args(Kind))}", "kind")
    if wish.kind == "minutes" and (not wish.minutes or abs(wish.minutes) > MOST_MINUTES):
        raise Invalid(f"give 1 to {MOST_MINUTES} minutes, or withdraw as many", "minutes")
    if wish.kind == "message":
        need_text(wish.text, "text", LONGEST_MESSAGE)
    if wish.kind == "afterward" and len(wish.text) > LONGEST_MESSAGE:
        raise Invalid(f"at most {LONGEST_MESSAGE} characters", "text")
    if wish.kind == "irregularity":
        need_text(wish.text, "text", LONGEST_IRREGULARITY)


def _whom(db: Session, session: PlannedSession, wish: RoomAction) -> list[Sitting]:
    attempts = db.scalars(select(Sitting).where(Sitting.session_id == session.id).order_by(Sitting.id)).all()
    if not wish.sittings:
        return [] if wish.kind == "irregularity" else [a for a in attempts if a.state == "answering"]
    wanted = set(wish.sittings)
    found = [a for a in attempts if a.id in wanted]
    if len(found) < len(wanted):
        raise NotFound("there is no such attempt in this session")
    if wish.kind != "irregularity" and any(a.state != "answering" for a in found):
        raise Conflict("this is for students who are taking the test now", "sittings")
    return found


def _do(
    db: Session, ctx: Context, actor: Actor, session: PlannedSession, found: list[Sitting], wish: RoomAction
) -> int:
    now = ctx.clock()

    def event(sitting: Sitting | None, kind: str, words: str = "") -> None:
        id = sitting.id if sitting is not None else None
        db.add(
            RoomEvent(
                session_id=session.id, sitting_id=id, kind=kind, words=words.strip(), at=now, by_id=actor.person_id
            )
        )

    if wish.kind in ("pause", "resume"):
        return _pause(db, ctx, actor, session, found, wish)
    if wish.kind == "afterward":
        session.afterward = wish.text.strip()
        return len(found)
    if wish.kind == "irregularity":
        if not found:
            event(None, "irregularity", wish.text)
        for sitting in found:
            event(sitting, "irregularity", wish.text)
        return len(found) or 1
    for sitting in found:
        if wish.kind == "minutes":
            if sitting.added_seconds + wish.minutes * 60 < 0:
                raise Conflict("so many minutes were not given to all of them", "minutes")
            sitting.added_seconds += wish.minutes * 60
            event(sitting, "minutes", str(wish.minutes))
        elif wish.kind == "message":
            event(sitting, "message", wish.text)
        elif wish.kind == "helped":
            sitting.help_at = None
        elif wish.kind == "restroom" and sitting.away_at is None:
            sitting.away_at = now
            event(sitting, "restroom")
        elif wish.kind == "back":
            back_from_restroom(db, session, sitting, now)
        elif wish.kind == "move":
            let_go(db, sitting, now)
    return len(found)


def let_go(db: Session, sitting: Sitting, now: datetime) -> None:
    """The device that has the attempt has it no longer: the student goes on where they enter their codes next. What it has not
    sent yet it still delivers."""
    db.execute(
        update(SignIn).where(SignIn.sitting_id == sitting.id, SignIn.revoked_at.is_(None)).values(revoked_at=now)
    )
    sitting.seen_at = None


def _pause(
    db: Session, ctx: Context, actor: Actor, session: PlannedSession, found: list[Sitting], wish: RoomAction
) -> int:
    now, everybody = ctx.clock(), not wish.sittings
    if wish.kind == "pause":
        if everybody:
            session.paused_at = session.paused_at or now
        for sitting in found:
            begin_pause(db, sitting, now, wish.text.strip(), actor.person_id)
        return len(found)
    if everybody:
        session.paused_at = None
    for sitting in found:
        end_pause(db, sitting, now)
    return len(found)


@dataclass(frozen=True)
class Stopped:
    """Sessions that were stopped or resumed at once, and their students."""

    sessions: int
    students: int


def stop_all(ctx: Context, actor: Actor, school_id: int, why: str, resume: bool = False) -> Stopped:
    """Pause every open session of a school in one action, or let them all go on: a fire drill, a lockdown, no network. Screens
    are covered and no minute is lost. Room by room, so that students save in between; what was reached stays."""
    if not resume:
        need_text(why, "why", LONGEST_MESSAGE)
    with ctx.store.read() as db:
        if not stops_school(db, actor, school_id):
            raise NotFound("there is no such school, or it is not yours")
        ids = db.scalars(_open_at(ctx, school_id, resume)).all()
    if not ids:
        raise Conflict("no session is stopped at this school" if resume else "no session is open at this school now")
    wish = RoomAction(kind="resume" if resume else "pause", text=why)

    def room(db: Session, id: int) -> int:
        session = db.get_one(PlannedSession, id)
        if session.closed_at is not None:  # meanwhile
            return 0
        return _pause(db, ctx, actor, session, _whom(db, session, wish), wish)

    students = 0
    for id in ids:
        students += ctx.store.write(lambda db, id=id: room(db, id))  # type: ignore[misc]
        tell(ctx, id)
    done = Stopped(len(ids), students)
    action = "room.resume_all" if resume else "room.stop_all"
    ctx.store.write(
        lambda db: audit.record(db, ctx.clock(), actor.person_id, action, f"school:{school_id}", None, vars(done), why)
    )
    return done


def _open_at(ctx: Context, school_id: int, paused: bool) -> Select[int]:
    wanted = (
        select(PlannedSession.id)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(
            SchoolClass.school_id == school_id,
            PlannedSession.closed_at.is_(None),
            PlannedSession.canceled_at.is_(None),
            PlannedSession.start <= ctx.clock(),
        )
        .order_by(PlannedSession.id)
    )
    return wanted.where(PlannedSession.paused_at.is_not(None)) if paused else wanted
