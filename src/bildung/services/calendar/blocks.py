"""The blocks of a school's days, by its bell schedules."""

from __future__ import annotations

from collections import defaultdict
from datetime import date, datetime, time, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.planning.problem import Slot
from bildung.core.school.daytypes import Pattern, day_types
from bildung.services.calendar.years import calendar, zone_of
from bildung.store.models import Block, DayChange, DayPattern, DayType

USUAL = (
    (time(8, 30), time(9, 30)),
    (time(9, 40), time(10, 40)),
    (time(10, 50), time(11, 50)),
    (time(12, 40), time(13, 40)),
)
"""Blocks of a school that has entered none."""
LONGEST_BREAK = timedelta(minutes=15)  # a session can go on over it; over lunch it cannot
NOON = time(12, 0)


def bells_begin(db: Session, school_id: int) -> date | None:
    """The first day for which a school has entered when its blocks begin; None where it has entered none."""
    blocks = select(Block.id).join(DayType, DayType.id == Block.day_type_id).where(DayType.school_id == school_id)
    row = db.get(DayPattern, school_id)
    if row is None or not row.types or db.scalar(blocks.limit(1)) is None:
        return None
    return row.first if row.cycle else date.min


def slots_of(db: Session, school_id: int, start: date, end: date) -> list[Slot]:
    """The blocks of a stretch of days, in order of time and of the school's zone."""
    zone = zone_of(db)
    counted = calendar(db, school_id)
    blocks: defaultdict[int, list[tuple[str, time, time]]] = defaultdict(list)
    types = {t.id: t.name for t in db.scalars(select(DayType).where(DayType.school_id == school_id))}
    for block in db.scalars(select(Block).where(Block.day_type_id.in_(types)).order_by(Block.start)):
        blocks[block.day_type_id].append((block.name, block.start, block.end))
    row = db.get(DayPattern, school_id)
    pattern = Pattern(types=(0,) * 7)
    if row is not None and row.types and any(blocks.values()):
        pattern = Pattern(types=tuple(row.types), cycle=row.cycle, first=row.first, shifts=row.shifts)
    else:
        blocks[0] = [(str(n + 1), a, b) for n, (a, b) in enumerate(USUAL)]
    changes = {
        c.day: c.day_type_id if row is not None or c.day_type_id is None else 0
        for c in db.scalars(select(DayChange).where(DayChange.school_id == school_id))
    }
    days = day_types(pattern, start, end, lambda day: bool(counted(day, day).days), changes)
    found: list[Slot] = []
    for number, (day, kind) in enumerate(days.items()):
        times = blocks[kind]
        for n, (name, begins, ends) in enumerate(times):
            begin, until = (datetime.combine(day, at, zone) for at in (begins, ends))
            joined = n + 1 < len(times) and datetime.combine(day, times[n + 1][1], zone) - until <= LONGEST_BREAK
            found.append(
                Slot(
                    day=number,
                    start=begin,
                    end=until,
                    block=name,
                    day_type=types.get(kind, ""),
                    joined=joined,
                    late=begins >= NOON,
                )
            )
    return found
