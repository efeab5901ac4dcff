"""What goes on in the room, by student: who asks for help, is stuck, offline, out of the room, left the page."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.services.shared.wire import Id
from bildung.services.sitting.signs import SILENT, DeviceCheck
from bildung.store.models import Person, PlannedSession, RoomEvent, Sitting

STUCK = timedelta(minutes=5)  # without an answer
LONG_AWAY = timedelta(minutes=10)
WRONG_CLOCK = 120  # seconds
NARROW = 320  # points
LEAST_SHARED = 3  # devices


@dataclass(frozen=True, kw_only=True)
class StudentInRoom:
    """One student in the room. signs: what whoever holds the session has to know now, in words. needs_you: whether one of
    them asks for something. restroom, left, offline_for: how often and how long. device: what its device cannot do, or did without
    a network; reported: whether it said anything. irregularities: noted about the attempt."""

    paused: bool
    away: bool
    help: bool
    stuck: bool
    offline: bool
    needs_you: bool
    signs: list[str]
    added: int
    restroom: str
    left: str
    offline_for: str
    device: list[str]
    reported: bool
    irregularities: int


@dataclass(frozen=True, kw_only=True)
class Irregularity:
    """What was noted. who: whom it is about; empty for the whole session. outcome: what was decided, empty while nothing is."""

    id: Id
    sitting: Id | None
    who: str
    text: str
    at: datetime
    by: str
    outcome: str


def in_the_room(
    db: Session, session: PlannedSession, attempts: Sequence[Sitting], now: datetime
) -> dict[int, StudentInRoom]:
    """By sitting."""
    events: dict[int, list[RoomEvent]] = {}
    for row in db.scalars(select(RoomEvent).where(RoomEvent.session_id == session.id).order_by(RoomEvent.id)):
        if row.sitting_id is not None:
            events.setdefault(row.sitting_id, []).append(row)
    return {a.id: _line(a, events.get(a.id, []), session.closed_at is None, now) for a in attempts}


def _line(attempt: Sitting, events: Sequence[RoomEvent], open_: bool, now: datetime) -> StudentInRoom:
    working = attempt.state == "answering" and open_
    paused, away = working and attempt.paused_at is not None, working and attempt.away_at is not None
    quiet = working and not paused and not away
    latest = attempt.last_at or attempt.started_at
    stuck = quiet and latest is not None and now - latest >= STUCK
    offline = working and attempt.seen_at is not None and now - attempt.seen_at >= SILENT
    help_ = working and attempt.help_at is not None
    restroom, times = _restroom(events, now)
    gone = [int(e.words or 0) for e in events if e.kind == "left"]
    cut = [int(e.words or 0) for e in events if e.kind == "offline"]
    signs, needs_you = [], False
    if help_ and attempt.help_at is not None:
        signs.append(f"asks for help, {_ago(now - attempt.help_at)}")
        needs_you = True
    if offline and attempt.seen_at is not None:
        signs.append(f"no connection, {_ago(now - attempt.seen_at)}")
        needs_you = True
    elif stuck and latest is not None:
        signs.append(f"no answer, {_ago(now - latest)}")
        needs_you = True
    if away and attempt.away_at is not None:
        signs.append(f"restroom, {_ago(now - attempt.away_at)}")
        needs_you = needs_you or now - attempt.away_at >= LONG_AWAY
    if paused and attempt.paused_at is not None:
        signs.append(f"paused, {_ago(now - attempt.paused_at)}")
    return StudentInRoom(
        paused=paused,
        away=away,
        help=help_,
        stuck=stuck,
        offline=offline,
        needs_you=needs_you,
        signs=signs,
        added=sum(int(e.words) for e in events if e.kind == "minutes"),
        restroom=f"restroom {_times(times)}, {_length(restroom)}" if times else "",
        left=f"left the page {_times(len(gone))}, {_length(sum(gone))}" if gone else "",
        offline_for=f"without a network {_times(len(cut))}, {_length(sum(cut))}" if cut else "",
        device=[*_device(attempt), *(e.words for e in events if e.kind == "provisional")],
        reported=attempt.device is not None,
        irregularities=sum(e.kind == "irregularity" for e in events),
    )


def shared_findings(lines: Mapping[int, StudentInRoom]) -> tuple[list[str], dict[int, StudentInRoom]]:
    """What is so on most devices of the room, said once, and the lines without it: thirty times the same sentence hides the one
    that is different."""
    counts = Counter(text for line in lines.values() for text in line.device)
    reported = sum(line.reported for line in lines.values())
    common = [text for text, n in counts.items() if n >= LEAST_SHARED and 2 * n > reported]
    said = [f"{counts[text]} devices: {text.replace('its ', 'their ', 1)}" for text in common]
    left = {id: replace(line, device=[t for t in line.device if t not in common]) for id, line in lines.items()}
    return said, left


def _device(attempt: Sitting) -> list[str]:
    """What its device cannot do, in words; of one that said nothing, nothing."""
    said = DeviceCheck(**attempt.device) if attempt.device else None
    if said is None:
        return []
    found = []
    if said.holds:
        found.append(f"its device holds {counted(said.holds, 'answer')} of another student")
    if not said.keeps:
        found.append("its device cannot keep answers while the network is away")
    elif not said.stays:
        found.append("its pages do not open without a network")
    if not said.speaks:
        found.append("its browser cannot read aloud")
    if abs(said.ahead) >= WRONG_CLOCK:
        found.append(f"its clock is {_length(abs(said.ahead))} {'fast' if said.ahead > 0 else 'slow'}")
    if 0 < said.width < NARROW:
        found.append(f"its window is only {said.width} points wide")
    return found


def _restroom(events: Sequence[RoomEvent], now: datetime) -> tuple[float, int]:
    mine = [e for e in events if e.kind == "restroom"]
    return sum(((e.until or now) - e.at).total_seconds() for e in mine), len(mine)


def _ago(time: timedelta) -> str:
    minutes = int(time.total_seconds() // 60)
    return "just now" if minutes < 1 else f"{minutes} min"


def _times(count: int) -> str:
    return {1: "once", 2: "twice"}.get(count, f"{count} times")


def _length(seconds: float) -> str:
    return f"{round(seconds)} s" if seconds < 90 else f"{round(seconds / 60)} min"


def room_finding(lines: Sequence[StudentInRoom], paused: bool) -> str:
    """What the page says of the room; nothing where all is as it should be."""
    if paused:
        return " The session is paused; screens are covered and no time runs."
    parts = []
    for many, one, several in (
        (sum(line.help for line in lines), "student asks for help", "students ask for help"),
        (sum(line.offline for line in lines), "device has lost its connection", "devices have lost their connection"),
        (
            sum(line.stuck and not line.offline for line in lines),
            "student has not answered for five minutes",
            "students have not answered for five minutes",
        ),
    ):
        if many:
            parts.append(f"{many} {one if many == 1 else several}")
    return f" {'; '.join(parts)}." if parts else ""


def irregularities(db: Session, session_ids: Sequence[int]) -> dict[int, list[Irregularity]]:
    """By session, in the order in which they were noted."""
    found: dict[int, list[Irregularity]] = {}
    rows = db.execute(
        select(RoomEvent, Sitting.id, Person)
        .outerjoin(Sitting, Sitting.id == RoomEvent.sitting_id)
        .outerjoin(Person, Person.id == Sitting.person_id)
        .where(RoomEvent.session_id.in_(session_ids), RoomEvent.kind == "irregularity")
        .order_by(RoomEvent.id)
    ).all()
    names = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_({e.by_id for e, _, _ in rows})))}
    for event, sitting, person in rows:
        found.setdefault(event.session_id, []).append(
            Irregularity(
                id=event.id,
                sitting=sitting,
                who=person.name if person else "",
                text=event.words,
                at=event.at,
                by=event.by_name or names.get(event.by_id or 0, ""),
                outcome=event.outcome,
            )
        )
    return found
