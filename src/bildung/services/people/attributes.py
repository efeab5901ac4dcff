"""What is known about students for comparing groups, and who may see a student's own value."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from bildung.services.people.changes import moved
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import Attribute, AttributeValue

SEEN_BY = ("coordinator", "teacher")


@dataclass(frozen=True)
class AttributeLine:
    """students: how many have a value."""

    id: Id
    name: str
    seen_by: str
    students: int


def list_attributes(ctx: Context, actor: Actor) -> list[AttributeLine]:
    """Every attribute with how many students have it and who may see it."""
    scope(actor, Action.SETTINGS)
    with ctx.store.read() as db:
        counts = {
            id: n
            for id, n in db.execute(
                select(AttributeValue.attribute_id, func.count()).group_by(AttributeValue.attribute_id)
            )
        }
        rows = db.scalars(select(Attribute).order_by(Attribute.name))
        return [AttributeLine(a.id, a.name, a.seen_by, counts.get(a.id, 0)) for a in rows]


def put_attribute(ctx: Context, actor: Actor, name: str, seen_by: str) -> None:
    """A new one, or another answer to who may see it."""
    scope(actor, Action.SETTINGS)
    name = " ".join(need_text(name, "name", 40).split())
    if seen_by not in SEEN_BY:
        raise Invalid(f"who sees it is one of {', '.join(SEEN_BY)}", "seen_by")

    def work(db: Session) -> None:
        row = db.scalar(select(Attribute).where(func.lower(Attribute.name) == name.lower()))
        before = None if row is None else row.seen_by
        if row is None:
            db.add(Attribute(name=name, seen_by=seen_by))
        else:
            row.seen_by = seen_by
        audit.record(db, ctx.clock(), actor.person_id, "attribute.put", f"attribute:{name}", before, seen_by)

    ctx.store.write(work)


def end_attribute(ctx: Context, actor: Actor, attribute_id: int, students: int) -> None:
    """With every value of it. students: how many were shown to have one; where it is more by now, nothing goes."""
    scope(actor, Action.SETTINGS)

    def work(db: Session) -> None:
        row = db.get(Attribute, attribute_id)
        if row is None:
            raise NotFound("there is no such attribute")
        n = (
            db.scalar(select(func.count()).select_from(AttributeValue).where(AttributeValue.attribute_id == row.id))
            or 0
        )
        if n > students:
            raise Conflict(f"{n} students have a value by now; look again before it goes")
        db.execute(delete(AttributeValue).where(AttributeValue.attribute_id == row.id))
        db.delete(row)
        audit.record(db, ctx.clock(), actor.person_id, "attribute.end", f"attribute:{row.name}", {"students": n}, None)
        moved(db)

    ctx.store.write(work)
