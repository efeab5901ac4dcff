"""Visit by visit, when an item was before a student: small packed rows, for staff.

A visit is six bytes: the place on the paper (one byte; a paper has at most 200), its begin in seconds since the first
message of the device (two bytes, a day at most in steps of two seconds) and its length in tenths of a second (three bytes).
"""

from __future__ import annotations

import struct
from collections.abc import Sequence
from typing import NamedTuple

from sqlalchemy import Connection, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from bildung.services.shared.access import Sitter
from bildung.store.models import VisitLog

MOST = 2000  # of one device
STEP = 2  # seconds
_HEAD = struct.Struct("<BH")
SIZE = _HEAD.size + 3


class Visit(NamedTuple):
    """item: form item, or place from 0 as it is packed. begin: seconds since the attempt came to the device. tenths: of a
    second that it lasted."""

    item: int
    begin: int
    tenths: int


def pack_visits(visits: Sequence[Visit], places: Sequence[int]) -> bytes:
    """Those whose item is on the paper. places: its items in order."""
    at = {item: place for place, item in enumerate(places)}
    return b"".join(
        _HEAD.pack(min(at[v.item], 255), min(max(v.begin, 0) // STEP, 65_535))
        + min(max(v.tenths, 0), 2**24 - 1).to_bytes(3, "little")
        for v in visits
        if v.item in at
    )


def read_visits(packed: bytes) -> list[Visit]:
    """As they came; item is the place on the paper, from 0."""
    found = []
    for start in range(0, len(packed) - SIZE + 1, SIZE):
        place, begin = _HEAD.unpack_from(packed, start)
        found.append(Visit(place, begin * STEP, int.from_bytes(packed[start + _HEAD.size : start + SIZE], "little")))
    return found


def keep_visits(connection: Connection, sitter: Sitter, places: Sequence[int], visits: Sequence[Visit]) -> None:
    """Add them to what this device told before; what is too much is left out."""
    packed = pack_visits(visits[:MOST], places)
    if not packed:
        return
    mine = {"sitting_id": sitter.sitting_id, "takeover": sitter.takeover}
    before = connection.scalar(
        select(VisitLog.packed).where(VisitLog.sitting_id == sitter.sitting_id, VisitLog.takeover == sitter.takeover)
    )
    whole = ((before or b"") + packed)[: MOST * SIZE]
    row = insert(VisitLog).values({**mine, "packed": whole})
    connection.execute(
        row.on_conflict_do_update(
            index_elements=[VisitLog.sitting_id, VisitLog.takeover], set_={"packed": row.excluded.packed}
        )
    )


def visits_of(db: Session, sitting_id: int) -> list[Visit]:
    """Of all devices, in order of devices."""
    rows = db.scalars(select(VisitLog).where(VisitLog.sitting_id == sitting_id).order_by(VisitLog.takeover))
    return [visit for row in rows for visit in read_visits(row.packed)]
