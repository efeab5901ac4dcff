"""One field that finds whatever a person may open: people, classes, items, tests and sessions."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sqlalchemy import ColumnElement, String, cast, select
from sqlalchemy.orm import InstrumentedAttribute, Session, joinedload

from bildung.services.bank.search import find_items
from bildung.services.calendar.years import zone_of
from bildung.services.items.texts import texts_of
from bildung.services.people.directory import list_people
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.settings import dates_of
from bildung.store.models import Form, PlannedSession, SchoolClass

MOST = 6
LEAST = 2
LONGEST = 80


@dataclass(frozen=True, kw_only=True)
class FoundThing:
    """Something to open.

    Attributes
    ----------
    label, more
        What it is called, and what tells it from others of the name.
    student
        Whether the label names a student, which a page may have to hide.
    """

    kind: Literal["person", "class", "item", "test", "session"]
    label: str
    more: str
    path: str
    student: bool = False


def find_anything(ctx: Context, actor: Actor, text: str) -> list[FoundThing]:
    """The first of each kind that fit the text, within what this person may see; nothing for less than two letters or
    digits."""
    wanted = " ".join(text.split())[:LONGEST]
    if sum(sign.isalnum() for sign in wanted) < LEAST:
        return []
    found: list[FoundThing] = []
    if actor.may(Action.PEOPLE_READ):
        found += _people(ctx, actor, wanted)
    with ctx.store.read() as db:
        if actor.may(Action.CLASSES_READ):
            found += _classes(db, actor, wanted)
        if actor.may(Action.TESTS_READ):
            found += _tests(db, actor, wanted)
        if actor.may(Action.SESSIONS_READ):
            found += _sessions(ctx, db, actor, wanted)
    if actor.may(Action.BANK_READ):
        found += _items(ctx, actor, wanted)
    return found


def _people(ctx: Context, actor: Actor, text: str) -> list[FoundThing]:
    people, _ = list_people(ctx, actor, text, MOST)
    return [
        FoundThing(
            kind="person",
            label=p.name,
            more=f"grade {p.grade}, {p.school}" if p.student and p.grade else p.roles or p.school,
            path=f"/people/{p.id}",
            student=p.student,
        )
        for p in people
    ]


def _classes(db: Session, actor: Actor, text: str) -> list[FoundThing]:
    rows = db.scalars(
        select(SchoolClass)
        .options(joinedload(SchoolClass.school))
        .where(scope(actor, Action.CLASSES_READ), SchoolClass.active.is_(True), *_words(text, SchoolClass.title))
        .order_by(SchoolClass.title)
        .limit(MOST)
    )
    return [FoundThing(kind="class", label=k.title, more=k.school.name, path=f"/people/classes/{k.id}") for k in rows]


def _tests(db: Session, actor: Actor, text: str) -> list[FoundThing]:
    rows = db.scalars(
        select(Form)
        .where(scope(actor, Action.TESTS_READ), *_words(text, Form.name))
        .order_by(Form.created_at.desc(), Form.id.desc())
        .limit(MOST)
    )
    return [
        FoundThing(
            kind="test",
            label=f.name,
            more=", ".join(
                p for p in (f.subject, f.grade and f"grade {f.grade}", "" if f.published_at else "draft") if p
            ),
            path=f"/tests/{f.id}",
        )
        for f in rows
    ]


def _sessions(ctx: Context, db: Session, actor: Actor, text: str) -> list[FoundThing]:
    """By class, form or code; those nearest to today first."""
    zone, dates = zone_of(db), dates_of(db)
    rows = db.scalars(
        select(PlannedSession)
        .join(PlannedSession.klass)
        .join(PlannedSession.form)
        .options(joinedload(PlannedSession.klass), joinedload(PlannedSession.form))
        .where(
            scope(actor, Action.SESSIONS_READ),
            *_words(text, SchoolClass.title, Form.name, PlannedSession.code),
        )
    ).all()
    near = sorted(rows, key=lambda s: abs(s.start - ctx.clock()))[:MOST]
    return [
        FoundThing(
            kind="session",
            label=f"{s.klass.title}, {s.form.name}",
            more=dates.moment(s.start.astimezone(zone)),
            path=f"/sessions/{s.id}?window={s.window_id}",
        )
        for s in near
    ]


def _items(ctx: Context, actor: Actor, text: str) -> list[FoundThing]:
    try:
        items, _, _ = find_items(ctx, actor, text, limit=MOST)
    except Invalid:
        return []  # half a search line, as it is typed
    with ctx.store.read() as db:
        texts = texts_of(db, {f.item.item_id for f in items})
    return [
        FoundThing(
            kind="item",
            label=f.item.code,
            more=texts.get(f.item.item_id, "")[:90],
            path=f"/bank/items/{f.item.item_id}",
        )
        for f in items
    ]


def _words(text: str, *columns: InstrumentedAttribute[str]) -> list[ColumnElement[bool]]:
    """Each word somewhere in one of the columns."""
    found: list[ColumnElement[bool]] = []
    for word in text.split():
        one, *others = [cast(column, String).icontains(word, autoescape=True) for column in columns]
        for other in others:
            one = one | other
        found.append(one)
    return found
