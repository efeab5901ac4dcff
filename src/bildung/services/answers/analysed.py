"""The answers of a scope as one table: each administration settled for itself, cut to the common items, put together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.classical.settings import Settings
from bildung.core.data.arrays import BoolArray, FloatArray
from bildung.core.data.pooling import restricted, stacked
from bildung.core.data.responses import ResponseTable
from bildung.formats.content import ChoicePart, MenuPart, Shown
from bildung.formats.face import Face, faced
from bildung.services.answers.corrected import NOTHING, Trial, as_tried, dropped
from bildung.services.answers.table import administration, rows_of
from bildung.services.items.bankitem import BankItem, bank_item, with_parts
from bildung.services.shared.errors import Conflict
from bildung.services.shared.jobs import Job
from bildung.store.models import Form, FormItem, ItemVersion, PlannedSession


@dataclass(frozen=True)
class FormRow:
    """An item in its place on a form. place: id of the form item. number: from 1; part: of the form, from 0. item: with no
    more options than the form shows."""

    place: int
    number: int
    part: int
    item: BankItem


@dataclass(frozen=True, kw_only=True)
class Together:
    """table: a row for each student and administration. people, session, window, form, sitting: (n,) ids behind the rows;
    sitting is the first of a test in parts. seconds: (n, items), NaN where unknown; None where nobody counted. rows: of
    the first form, in its order; places: by form the form items of these columns. left: items of the forms that are not
    common to all. dropped: common items that are in no total, by decision. in_parts: whether any sat a part of the test. raw: as in `Administration`."""

    table: ResponseTable
    people: npt.NDArray[np.int64]
    session: npt.NDArray[np.int64]
    window: npt.NDArray[np.int64]
    form: npt.NDArray[np.int64]
    sitting: npt.NDArray[np.int64]
    seconds: FloatArray | None
    rows: tuple[FormRow, ...]
    places: dict[int, tuple[int, ...]]
    left: int
    dropped: tuple[FormRow, ...]
    in_parts: bool
    raw: dict[int, dict[str, str]]

    def take(self, kept: BoolArray) -> Together:
        """Some of the rows."""
        return replace(
            self,
            table=self.table.take(kept),
            people=self.people[kept],
            session=self.session[kept],
            window=self.window[kept],
            form=self.form[kept],
            sitting=self.sitting[kept],
            seconds=None if self.seconds is None else self.seconds[kept],
        )


def form_rows(db: Session, form_id: int) -> list[FormRow]:
    """Items of a form, in its order."""
    found = db.execute(
        with_parts(
            select(FormItem, ItemVersion)
            .join(ItemVersion, FormItem.item_version_id == ItemVersion.id)
            .where(FormItem.form_id == form_id)
            .order_by(FormItem.position)
        )
    )
    return [
        FormRow(place.id, at, place.part, _as_shown(bank_item(version), place.face))
        for at, (place, version) in enumerate(found, 1)
    ]


def form_items(db: Session, form_id: int) -> list[BankItem]:
    """The items of a form, in order, whole."""
    return [row.item for row in form_rows(db, form_id)]


def _as_shown(item: BankItem, face: Face | None) -> BankItem:
    """Options that the form leaves out are left out; their order stays the bank's, so that forms can be put together."""
    if not face:
        return item
    fewer: Face = {}
    for part in item.shown.parts:
        stay = face.get(part.id)
        if isinstance(part, ChoicePart | MenuPart) and stay and len(stay) < len(part.options):
            fewer[part.id] = [o.id for o in part.options if o.id in stay]
    return replace(item, shown=faced(item.shown, fewer)) if fewer else item


def _identity(item: BankItem) -> tuple[object, ...]:
    """What makes it the same question: the version and the options that are shown."""
    return item.version_id, _options(item.shown)


def _options(shown: Shown) -> tuple[tuple[str, ...], ...]:
    return tuple(tuple(o.id for o in p.options) for p in shown.parts if isinstance(p, ChoicePart | MenuPart))


def together(
    db: Session,
    forms: Sequence[Form],
    sessions: Sequence[tuple[int, int, Sequence[int]]],
    job: Job | None = None,
    trial: Trial = NOTHING,
) -> Together:
    """forms: the first gives the order. sessions: id, window and the forms that were received there. trial: corrections that are
    supposed beside those that hold. Raises Conflict where the forms have no item in common."""
    own = {form.id: [replace(row, item=as_tried(row.item, trial)) for row in form_rows(db, form.id)] for form in forms}
    lead = own[forms[0].id]
    out = dropped(db, {(form, window) for _, window, received in sessions for form in received}, trial)
    shared = [
        r for r in lead if all(any(_identity(r.item) == _identity(o.item) for o in rows) for rows in own.values())
    ]
    common = [
        r
        for r in shared
        if not any(o.place in out and _identity(r.item) == _identity(o.item) for rows in own.values() for o in rows)
    ]
    if shared and not common:
        raise Conflict("every item is dropped, so nothing is left to count; undo one of these corrections")
    if not common:
        names = " and ".join(form.name for form in forms)
        raise Conflict(
            f"{names} have no item in common, so their answers cannot be looked at together; look at one of them"
        )
    column = {
        id: [next(at for at, o in enumerate(rows) if _identity(o.item) == _identity(r.item)) for r in common]
        for id, rows in own.items()
    }
    blocks: dict[tuple[int, int], list[int]] = {}
    for session, window, received in sessions:
        for form in received:
            blocks.setdefault((form, window), []).append(session)
    tables, seconds, raw = [], list[FloatArray | None](), dict[int, dict[str, str]]()
    about: list[tuple[npt.NDArray[np.int64], ...]] = []
    in_parts = False
    done = 0
    for (form, window), held in sorted(blocks.items(), key=lambda b: ([f.id for f in forms].index(b[0][0]), b[0][1])):
        if job is not None:
            job.tell("reading answers of sessions", done, len(sessions))
        done += len(held)
        rows = rows_of(db, form, held)
        found = administration(db, form, [r.item for r in own[form]], rows, window, trial)
        places = column[form]
        tables.append(
            restricted(found.table, places) if len(places) < len(own[form]) or places != sorted(places) else found.table
        )
        seconds.append(None if found.seconds is None else found.seconds[:, places])
        for at, place in enumerate(places):
            if place in found.raw:
                raw.setdefault(at, {}).update(found.raw[place])
        n = rows.people.size
        about.append((rows.people, rows.session, np.full(n, window), np.full(n, form), rows.first))
        in_parts |= rows.in_parts
    if not tables:
        empty = administration(db, forms[0].id, [r.item for r in lead], rows_of(db, forms[0].id, []))
        tables.append(restricted(empty.table, column[forms[0].id]))
        seconds.append(None)
        nothing = np.zeros(0, dtype=np.int64)
        about.append((nothing,) * 5)
    timed = None
    if any(s is not None for s in seconds):
        timed = np.concatenate(
            [np.full((t.n, len(common)), np.nan) if s is None else s for s, t in zip(seconds, tables, strict=True)]
        )
    people, session_of, window_of, form_of, sitting = (np.concatenate(list(some)) for some in zip(*about, strict=True))
    every = {_identity(r.item) for rows in own.values() for r in rows}
    return Together(
        table=stacked(tables),
        people=people,
        session=session_of,
        window=window_of,
        form=form_of,
        sitting=sitting,
        seconds=timed,
        rows=tuple(common),
        places={id: tuple(own[id][at].place for at in places) for id, places in column.items()},
        left=len(every) - len(shared),
        dropped=tuple(r for r in shared if r not in common),
        in_parts=in_parts,
        raw=raw,
    )


def analyse_sessions(
    db: Session, form_id: int, sessions: Sequence[int], settings: Settings
) -> tuple[TestAnalysis, list[BankItem]]:
    """One form in some sessions, for whoever has checked who may see it; and its items."""
    form = db.get_one(Form, form_id)
    windows = db.execute(
        select(PlannedSession.id, PlannedSession.window_id).where(PlannedSession.id.in_(sessions))
    ).all()
    found = together(db, [form], [(id, window, (form_id,)) for id, window in windows])
    return analyse(found.table, settings), [row.item for row in found.rows]
