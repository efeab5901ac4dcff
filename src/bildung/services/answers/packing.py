"""A session's answers as one matrix: packed when it closes, read as they are until then."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.store.models import FormItem, PackedAnswers, PlannedSession, Response, Sitting, TimeOn

BLANK = 0


@dataclass(frozen=True, kw_only=True)
class Pack:
    """Of all forms that the session's students received. sittings: (n,) ids. labels: by form item. codes: (form items in
    order of id, n); BLANK or 1 + place of the label. times: the same shape, milliseconds, 0 where the item was never
    opened or nobody counted; None where nobody did."""

    sittings: npt.NDArray[np.int64]
    form_items: tuple[int, ...]
    labels: dict[int, list[str]]
    codes: npt.NDArray[np.uint16]
    times: npt.NDArray[np.uint32] | None = None


def pack(db: Session, session: PlannedSession) -> None:
    """To be called in the transaction that closes the session: from then on no answer can change."""
    found = _read(db, session)
    row = db.get(PackedAnswers, session.id) or PackedAnswers(session_id=session.id)
    row.sittings, row.codes = found.sittings.tobytes(), found.codes.tobytes()
    row.labels = {str(item): labels for item, labels in found.labels.items()}
    row.times = None if found.times is None else found.times.tobytes()
    db.add(row)


def packs(db: Session, session_ids: Sequence[int]) -> list[Pack]:
    """One for each session, in this order."""
    sessions = {s.id: s for s in db.scalars(select(PlannedSession).where(PlannedSession.id.in_(session_ids)))}
    rows = {r.session_id: r for r in db.scalars(select(PackedAnswers).where(PackedAnswers.session_id.in_(session_ids)))}
    found = []
    for id in session_ids:
        row = rows.get(id)
        if row is None or sessions[id].closed_at is None:
            found.append(_read(db, sessions[id]))
            continue
        labels = {int(item): values for item, values in row.labels.items()}
        sittings = np.frombuffer(row.sittings, dtype=np.int64)
        shape = len(labels), sittings.size
        codes = np.frombuffer(row.codes, dtype=np.uint16).reshape(shape)
        times = None if row.times is None else np.frombuffer(row.times, dtype=np.uint32).reshape(shape)
        found.append(Pack(sittings=sittings, form_items=tuple(sorted(labels)), labels=labels, codes=codes, times=times))
    return found


def _read(db: Session, session: PlannedSession) -> Pack:
    companions = select(Sitting.form_id).where(Sitting.session_id == session.id, Sitting.form_id.is_not(None))
    items = sorted(
        db.scalars(select(FormItem.id).where((FormItem.form_id == session.form_id) | FormItem.form_id.in_(companions)))
    )
    sittings = sorted(db.scalars(select(Sitting.id).where(Sitting.session_id == session.id)))
    rows, columns = {id: at for at, id in enumerate(items)}, {id: at for at, id in enumerate(sittings)}
    codes = np.zeros((len(items), len(sittings)), dtype=np.uint16)
    places: list[dict[str, int]] = [{} for _ in items]
    for sitting, item, answer in db.execute(
        select(Response.sitting_id, Response.form_item_id, Response.answer)
        .join(Sitting, Sitting.id == Response.sitting_id)
        .where(Sitting.session_id == session.id)
    ):
        if answer:
            place = places[rows[item]]
            codes[rows[item], columns[sitting]] = place.setdefault(answer, len(place) + 1)
    labels = {id: list(place) for id, place in zip(items, places, strict=True)}
    return Pack(
        sittings=np.array(sittings, dtype=np.int64),
        form_items=tuple(items),
        labels=labels,
        codes=codes,
        times=_times(db, session, rows, columns),
    )


def _times(
    db: Session, session: PlannedSession, rows: dict[int, int], columns: dict[int, int]
) -> npt.NDArray[np.uint32] | None:
    """Over all devices of a student."""
    found = db.execute(
        select(TimeOn.sitting_id, TimeOn.form_item_id, func.sum(TimeOn.milliseconds))
        .join(Sitting, Sitting.id == TimeOn.sitting_id)
        .where(Sitting.session_id == session.id)
        .group_by(TimeOn.sitting_id, TimeOn.form_item_id)
    ).all()
    if not found:
        return None
    times = np.zeros((len(rows), len(columns)), dtype=np.uint32)
    for sitting, item, milliseconds in found:
        if item in rows:
            times[rows[item], columns[sitting]] = min(milliseconds, 2**32 - 1)
    return times
