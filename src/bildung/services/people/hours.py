"""When members of staff can be at a session; who has entered no hours, always."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from datetime import datetime, time

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.store.models import StaffHours

Week = dict[int, tuple[time, time]]
"""By weekday from 0, Monday, from when until when; a day that is not in it, not at all."""


def hours_of(db: Session, staff: Collection[int]) -> dict[int, Week]:
    """Of these, who has entered hours."""
    found: dict[int, Week] = {}
    for row in db.scalars(
        select(StaffHours).where(StaffHours.person_id.in_(staff)).order_by(StaffHours.person_id, StaffHours.weekday)
    ):
        found.setdefault(row.person_id, {})[row.weekday] = (row.start, row.end)
    return found


def is_there(hours: Mapping[int, Week], person: int, start: datetime, end: datetime) -> bool:
    """Whether somebody is there from start to end, both in the school's zone and on one day."""
    if person not in hours:
        return True
    there = hours[person].get(start.weekday())
    return there is not None and there[0] <= start.time() and end.time() <= there[1]
