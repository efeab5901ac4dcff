"""Kept views: an address of the workbench under a name of one's own."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import KeptView

LONGEST, MOST = 4000, 200


@dataclass(frozen=True)
class View:
    id: Id
    name: str
    path: str
    query: str


def list_views(ctx: Context, actor: Actor) -> list[View]:
    """The views that this person has kept, by name."""
    scope(actor, Action.QUALITY_READ)
    with ctx.store.read() as db:
        rows = db.scalars(select(KeptView).where(KeptView.person_id == actor.person_id).order_by(KeptView.name))
        return [View(v.id, v.name, v.path, v.query) for v in rows]


def keep_view(ctx: Context, actor: Actor, name: str, path: str, query: str) -> View:
    """A view of the same name is replaced: it is one's own."""
    scope(actor, Action.QUALITY_READ)
    name = need_text(name, "name", 80)
    if not path.startswith("/quality") or len(path) + len(query) > LONGEST:
        raise Invalid("a view is an address under /quality, not longer than 4,000 signs", "path")

    def work(db: Session) -> View:
        mine = db.scalars(select(KeptView).where(KeptView.person_id == actor.person_id)).all()
        found = next((v for v in mine if v.name == name), None)
        if found is None and len(mine) >= MOST:
            raise Conflict(f"you have {MOST} saved views; delete one first")
        if found is None:
            found = KeptView(person_id=actor.person_id, name=name, path=path, query=query, created_at=ctx.clock())
            db.add(found)
        found.path, found.query, found.created_at = path, query, ctx.clock()
        db.flush()
        return View(found.id, found.name, found.path, found.query)

    return ctx.store.write(work)


def drop_view(ctx: Context, actor: Actor, view_id: int) -> None:
    """Delete one of this person's views."""
    scope(actor, Action.QUALITY_READ)

    def work(db: Session) -> None:
        found = db.get(KeptView, view_id)
        if found is None or found.person_id != actor.person_id:
            raise NotFound("there is no such view, or it is not yours")
        db.delete(found)

    ctx.store.write(work)
