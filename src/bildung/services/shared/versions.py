"""Versions of what is kept at hand, in the store: whatever worker changes it, all read anew."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from bildung.services.shared.context import Context
from bildung.store.models import KeptVersion


def version(db: Session, name: str) -> int:
    """The present number; what was kept under another is out of date."""
    return db.scalar(select(KeptVersion.number).where(KeptVersion.name == name)) or 0


def count_on(ctx: Context, name: str) -> None:
    """What is kept under this name is out of date."""
    row = insert(KeptVersion).values(name=name, number=1)
    row = row.on_conflict_do_update(index_elements=[KeptVersion.name], set_={"number": KeptVersion.number + 1})
    ctx.store.write(lambda db: db.execute(row))
