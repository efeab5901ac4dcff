"""Signs between a student's device and the room: asking for help, leaving for the restroom, a message that was read."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Literal, get_args

from sqlalchemy import Connection, Select, func, select, update
from sqlalchemy.orm import Session

from bildung.services.forms.settings import settings
from bildung.services.owed.accommodated import NONE, in_session
from bildung.services.owed.dealing import form_of
from bildung.services.shared.access import Sitter
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.wire import Id
from bildung.store.models import PlannedSession, RoomEvent, Sitting

Sign = Literal["help", "never_mind", "restroom", "back", "left", "offline", "read", "here", "checked"]
SILENT = timedelta(seconds=150)  # without a sign of the device, which sends one a minute
LONGEST_AWAY = 24 * 3600  # seconds that a device is believed
MOST_HELD = 10_000  # answers of others that a device is believed to hold
MOST_LEFT = 300  # times of one attempt that are kept


@dataclass(frozen=True, kw_only=True)
class DeviceCheck:
    """What a device found out about itself. keeps: answers outlast the page. stays: the pages open without a server. speaks:
    it has a voice. ahead: seconds by which its clock is wrong. width, height: of the window. holds: answers of other students
    that it could not deliver yet."""

    keeps: bool = True
    stays: bool = True
    speaks: bool = True
    ahead: int = 0
    width: int = 0
    height: int = 0
    holds: int = 0


@dataclass(frozen=True)
class RoomMessage:
    """Shown once, until the student has read it."""

    id: Id
    text: str


@dataclass(frozen=True, kw_only=True)
class RoomStanding:
    """What the room says to this student. paused: the clock stands still and the screen is covered; why in words. away: out
    of the room; still: the clock stands while they are. help: asked for."""

    paused: bool
    why: str
    away: bool
    still: bool
    help: bool
    message: RoomMessage | None


def room_standing(db: Session, sitting: Sitting) -> RoomStanding:
    """As it is now."""
    why, message = "", None
    if sitting.paused_at is not None:
        why = db.scalar(_open(sitting, "pause").limit(1).with_only_columns(RoomEvent.words)) or ""
    row = db.scalar(_open(sitting, "message").order_by(RoomEvent.id).limit(1))
    if row is not None:
        message = RoomMessage(row.id, row.words)
    return RoomStanding(
        paused=sitting.paused_at is not None,
        why=why,
        away=sitting.away_at is not None,
        still=sitting.away_at is not None and stands_still(db, db.get_one(PlannedSession, sitting.session_id), sitting),
        help=sitting.help_at is not None,
        message=message,
    )


def _open(sitting: Sitting, kind: str) -> Select[RoomEvent]:
    return select(RoomEvent).where(
        RoomEvent.sitting_id == sitting.id, RoomEvent.kind == kind, RoomEvent.until.is_(None)
    )


def lively(sitting: Sitting, now: datetime) -> bool:
    """Whether a device has the attempt open: it has shown a sign of life lately."""
    return sitting.state == "answering" and sitting.seen_at is not None and now - sitting.seen_at <= SILENT


def sign(
    ctx: Context, sitter: Sitter, kind: Sign, seconds: int = 0, message: int = 0, device: DeviceCheck | None = None
) -> None:
    """seconds: that the page was left, or the server out of reach. message: that was read. device: what it found out."""
    if kind not in get_args(Sign):
        raise Invalid(f"one of {', '.join(get_args(Sign))}", "kind")
    if kind == "here":
        here(ctx, sitter)
        return

    def work(db: Session) -> int:
        sitting = db.get_one(Sitting, sitter.sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        now = ctx.clock()
        sitting.seen_at = now
        if kind == "read":
            row = db.get(RoomEvent, message)
            if row is not None and row.sitting_id == sitting.id and row.until is None:
                row.until = now
            return session.id
        if kind == "checked":
            said = device or DeviceCheck()
            sitting.device = vars(replace(said, holds=max(0, min(said.holds, MOST_HELD))))
            return session.id
        if sitting.state != "answering":
            raise Conflict("this test is not open; ask your proctor")
        if kind == "help":
            sitting.help_at = sitting.help_at or now
        elif kind == "never_mind":
            sitting.help_at = None
        elif kind == "restroom" and sitting.away_at is None:
            sitting.away_at = now
            db.add(RoomEvent(session_id=session.id, sitting_id=sitting.id, kind="restroom", at=now))
        elif kind == "back":
            back_from_restroom(db, session, sitting, now)
        elif kind in ("left", "offline") and _often(db, sitting) < MOST_LEFT:
            words = str(max(0, min(seconds, LONGEST_AWAY)))
            db.add(RoomEvent(session_id=session.id, sitting_id=sitting.id, kind=kind, words=words, at=now, until=now))
        return session.id

    session_id = ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitter.sitting_id)})


def _often(db: Session, sitting: Sitting) -> int:
    """How often the page was left, or the server out of reach."""
    mine = select(func.count()).select_from(RoomEvent)
    return db.scalar(mine.where(RoomEvent.sitting_id == sitting.id, RoomEvent.kind.in_(("left", "offline")))) or 0


def here(ctx: Context, sitter: Sitter) -> None:
    """The device is there; nobody waits for this to be kept."""

    def work(connection: Connection) -> None:
        connection.execute(update(Sitting).where(Sitting.id == sitter.sitting_id).values(seen_at=ctx.clock()))

    ctx.store.write_soon(work)


def back_from_restroom(db: Session, session: PlannedSession, sitting: Sitting, now: datetime) -> None:
    """The clock ran on, unless the form, or an accommodation with breaks, says that it stands still."""
    if sitting.away_at is None:
        return
    if stands_still(db, session, sitting):
        away = (now - sitting.away_at).total_seconds() - _paused_seconds(db, sitting, sitting.away_at, now)
        sitting.added_seconds += max(0, round(away))
    sitting.away_at = None
    for row in db.scalars(_open(sitting, "restroom")):
        row.until = now


def _paused_seconds(db: Session, sitting: Sitting, since: datetime, now: datetime) -> float:
    """Of this time, what the clock stood still anyway."""
    rows = db.scalars(select(RoomEvent).where(RoomEvent.sitting_id == sitting.id, RoomEvent.kind == "pause"))
    return sum(max(0.0, (min(row.until or now, now) - max(row.at, since)).total_seconds()) for row in rows)


def stands_still(db: Session, session: PlannedSession, sitting: Sitting) -> bool:
    """Whether this student's clock stands while they are out of the room."""
    form = form_of(db, session, sitting)
    if settings(form).breaks_stop:
        return True
    return "breaks" in in_session(db, session, [sitting.person_id], form).get(sitting.person_id, NONE).kinds


def begin_pause(db: Session, sitting: Sitting, now: datetime, words: str, by: int | None) -> None:
    """The clock stands still. words: what the student reads meanwhile. by: who paused it."""
    if sitting.paused_at is not None:
        return
    sitting.paused_at = now
    db.add(RoomEvent(session_id=sitting.session_id, sitting_id=sitting.id, kind="pause", words=words, at=now, by_id=by))


def pause_with_the_rest(db: Session, session: PlannedSession, sitting: Sitting, now: datetime) -> None:
    """Whoever joins while the session stands still for all waits as the others do, and reads the same."""
    if session.paused_at is None:
        return
    latest = select(RoomEvent).where(RoomEvent.session_id == session.id, RoomEvent.kind == "pause")
    row = db.scalar(latest.order_by(RoomEvent.id.desc()).limit(1))
    begin_pause(db, sitting, now, row.words if row else "", row.by_id if row else None)


def end_pause(db: Session, sitting: Sitting, now: datetime) -> None:
    """The clock goes on, with as many minutes as there were."""
    if sitting.paused_at is None:
        return
    sitting.added_seconds += max(0, round((now - sitting.paused_at).total_seconds()))
    sitting.paused_at = None
    for row in db.scalars(_open(sitting, "pause")):
        row.until = now
