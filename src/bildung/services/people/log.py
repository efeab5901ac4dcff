"""Reading the audit log."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import String, cast, func, or_, select

from bildung.services.people.logwords import called, done, page_of
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.wire import Id
from bildung.store.models import AuditEntry, Person


@dataclass(frozen=True, kw_only=True)
class LogLine:
    """action: as kept and searched; says: in words. path: of the page of its subject, where it has one."""

    id: Id
    at: datetime
    who: str
    action: str
    says: str
    subject: str
    path: str
    before: str
    after: str
    why: str


def search(
    ctx: Context, actor: Actor, find: str = "", before_id: int | None = None, limit: int = 100
) -> tuple[list[LogLine], int]:
    """Newest first; every word must be in the action, its subject, its values, its reason or the name of who did it.
    before_id: entries older than this one, for the next page. And how many fit in all."""
    allowed = scope(actor, Action.LOG_READ)
    name = Person.given + " " + Person.family
    wanted = select(AuditEntry, name).outerjoin(Person, Person.id == AuditEntry.person_id).where(allowed)
    for word in find.split():
        like = f"%{word.replace('%', '')}%"
        columns = (
            AuditEntry.action,
            AuditEntry.subject,
            AuditEntry.why,
            cast(AuditEntry.before, String),
            cast(AuditEntry.after, String),
        )
        wanted = wanted.where(or_(name.ilike(like), *(column.ilike(like) for column in columns)))
    with ctx.store.read() as db:
        total = db.scalar(select(func.count()).select_from(wanted.subquery())) or 0
        if before_id is not None:
            wanted = wanted.where(AuditEntry.id < before_id)
        rows = db.execute(wanted.order_by(AuditEntry.id.desc()).limit(limit)).all()
    return [
        LogLine(
            id=e.id,
            at=e.at,
            who=who or "by itself",
            action=e.action,
            says=done(e.action),
            subject=called(e.subject),
            path=page_of(e.subject),
            before=_text(e.before),
            after=_text(e.after),
            why=e.why,
        )
        for e, who in rows
    ], total


def _text(value: object) -> str:
    """A value as a person reads it: a record as its fields, anything else as it is."""
    if isinstance(value, dict):
        return "; ".join(f"{name}: {_text(entry)}" for name, entry in value.items() if entry is not None)
    return "" if value is None else value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
