"""Which sessions of a window give the same test: companions of one family, and a form with its corrections, are one."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import ColumnElement, or_, select, true
from sqlalchemy.orm import Session

from bildung.store.models import Form, PlannedSession

Key = tuple[str, int]  # "family" or "form" with its id


def test_keys(db: Session, form_ids: Collection[int] | None = None) -> dict[int, Key]:
    """By form, the test that it is a form of."""
    rows = db.execute(select(Form.id, Form.family_id, Form.before_id)).all()
    before = {id: earlier for id, _, earlier in rows}
    family = {id: of for id, of, _ in rows}
    found: dict[int, Key] = {}
    for id in before if form_ids is None else form_ids:
        first = id
        while family[first] is None and (earlier := before[first]) is not None:
            first = earlier
        of = family[first]
        found[id] = ("family", of) if of is not None else ("form", first)
    return found


def forms_of(db: Session, form_id: int) -> set[int]:
    """All forms of the test that this one is a form of."""
    keys = test_keys(db)
    return {id for id, key in keys.items() if key == keys[form_id]}


def gives_the_same(db: Session, session: PlannedSession) -> ColumnElement[bool]:
    """Other sessions of the window that give the same test, or the same part of it."""
    same_part = (
        true() if session.part is None else or_(PlannedSession.part.is_(None), PlannedSession.part == session.part)
    )
    return (
        (PlannedSession.window_id == session.window_id)
        & PlannedSession.form_id.in_(forms_of(db, session.form_id))
        & (PlannedSession.id != session.id)
        & same_part
    )
