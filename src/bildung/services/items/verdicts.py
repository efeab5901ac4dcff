"""Verdicts that hold of items: keep, rework, drop or field-test again, and what the next form makes of them."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.services.shared.wire import Id
from bildung.store.models import Form, Item, ItemVersion, Person, Verdict, Window

What = Literal["keep", "rework", "drop", "again", "open"]


WORDS = {"keep": "keep", "rework": "rework", "drop": "drop", "again": "field-test again", "open": "withdrawn"}


@dataclass(frozen=True, kw_only=True)
class VerdictLine:
    """One verdict in an item's history. version: its number then. where: form and window, empty where neither was.
    answered: the item went into field test for it."""

    id: Id
    version: int
    verdict: str
    words: str
    reason: str
    by: str
    at: datetime
    where: str
    answered: bool


@dataclass(frozen=True, kw_only=True)
class VerdictStanding:
    """The verdict that holds for an item. done: whether what it asks for has happened: a newer version after rework,
    retirement after drop, a field test after again. text: the item's first words, where a list shows them."""

    item_id: Id
    item: str
    subject: str
    grade: str
    state: str
    latest: VerdictLine
    done: bool
    waits_for: str
    text: str = ""


def verdicts_of(db: Session, items: Collection[int]) -> dict[int, list[VerdictLine]]:
    """By item, the newest first."""
    rows = db.execute(
        select(
            ItemVersion.item_id,
            ItemVersion.number,
            Verdict,
            Person.given,
            Person.family,
            Form.name,
            Window.name,
            Window.start,
        )
        .join(ItemVersion, ItemVersion.id == Verdict.item_version_id)
        .join(Person, Person.id == Verdict.person_id)
        .outerjoin(Form, Form.id == Verdict.form_id)
        .outerjoin(Window, Window.id == Verdict.window_id)
        .where(ItemVersion.item_id.in_(items))
        .order_by(Verdict.id.desc())
    )
    found: dict[int, list[VerdictLine]] = {}
    for item, number, v, given, family, form, window, start in rows:
        where = ", ".join(p for p in (form or "", f"{window} {start.year}" if window else "") if p)
        found.setdefault(item, []).append(
            VerdictLine(
                id=v.id,
                version=number,
                verdict=v.verdict,
                words=WORDS[v.verdict],
                reason=v.reason,
                by=f"{given} {family}".strip(),
                at=v.at,
                where=where,
                answered=v.answered_at is not None,
            )
        )
    return found


def standing_of(db: Session, items: Collection[int] | None = None) -> dict[int, VerdictStanding]:
    """The verdict that holds of each item that has one; all of them where none are named."""
    wanted = select(ItemVersion.item_id).join(Verdict, Verdict.item_version_id == ItemVersion.id).distinct()
    if items is not None:
        wanted = wanted.where(ItemVersion.item_id.in_(items))
    ids = set(db.scalars(wanted))
    lines = verdicts_of(db, ids)
    newest = dict(
        db.execute(
            select(ItemVersion.item_id, func.max(ItemVersion.number))
            .where(ItemVersion.item_id.in_(ids))
            .group_by(ItemVersion.item_id)
        ).all()
    )
    found = {}
    for item in db.scalars(select(Item).where(Item.id.in_(ids))):
        latest = lines[item.id][0]
        if latest.verdict == "open":
            continue
        done, waits = _done(latest, item.state, newest[item.id])
        found[item.id] = VerdictStanding(
            item_id=item.id,
            item=item.code,
            subject=item.subject,
            grade=item.grade,
            state=item.state,
            latest=latest,
            done=done,
            waits_for=waits,
        )
    return found


def _done(latest: VerdictLine, state: str, newest: int) -> tuple[bool, str]:
    if latest.verdict == "rework":
        return newest > latest.version or state == "retired", "for a reworked version"
    if latest.verdict == "drop":
        return state == "retired", "to be retired"
    if latest.verdict == "again":
        return latest.answered or state == "field_test", "to go into field test"
    return True, ""


def decided(db: Session) -> tuple[dict[int, VerdictStanding], set[int]]:
    """Items under a verdict to rework or drop that has not been done, which are not for the next form; and items that
    somebody looked at and keeps: what flagged them then does not hold them back."""
    found = standing_of(db)
    waiting = {id: s for id, s in found.items() if not s.done and s.latest.verdict in ("rework", "drop")}
    return waiting, {id for id, s in found.items() if s.latest.verdict == "keep"}
