"""Days on which rooms of a school cannot be used."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.planning.problem import Slot
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import RoomClosing


@dataclass(frozen=True, kw_only=True)
class ClosedRoom:
    """A room that is not there from one day to another, both included. says: the days, to read."""

    id: Id
    room: str
    first: date
    last: date
    says: str


def closings(db: Session, school_id: int, first: date, last: date) -> list[ClosedRoom]:
    """Of a school, those that touch these days."""
    dates = dates_of(db)
    rows = db.scalars(
        select(RoomClosing)
        .where(RoomClosing.school_id == school_id, RoomClosing.last >= first, RoomClosing.first <= last)
        .order_by(RoomClosing.room, RoomClosing.first)
    )
    return [
        ClosedRoom(
            id=row.id,
            room=row.room,
            first=row.first,
            last=row.last,
            says=dates.short(row.first)
            if row.first == row.last
            else f"{dates.short(row.first)} to {dates.short(row.last)}",
        )
        for row in rows
    ]


def closed_slots(db: Session, school_id: int, slots: Sequence[Slot]) -> dict[str, frozenset[int]]:
    """By room, the blocks in which it is not there."""
    found: dict[str, frozenset[int]] = {}
    for one in closings(db, school_id, slots[0].start.date(), slots[-1].start.date()) if slots else ():
        days = frozenset(t for t, slot in enumerate(slots) if one.first <= slot.start.date() <= one.last)
        found[one.room] = found.get(one.room, frozenset()) | days
    return found
