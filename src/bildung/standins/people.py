"""Who the stand-in provider knows: people of the demo, each with the name they have here."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence

from sqlalchemy import select

from bildung.services.shared.context import Context
from bildung.standins.provider import Account
from bildung.store.models import Person

STUDENTS = 3


def accounts_of(ctx: Context) -> Callable[[], Sequence[Account]]:
    """The demo's own people, a few students, and somebody whom nobody here knows."""

    def accounts() -> list[Account]:
        named = {
            p["username"]: p["role"] for p in json.loads((ctx.store.folder / "demo.json").read_text("utf-8"))["people"]
        }
        with ctx.store.read() as db:
            people = db.scalars(
                select(Person).where(Person.username.in_(named), Person.active.is_(True)).order_by(Person.id)
            ).all()
            students = db.scalars(
                select(Person)
                .where(Person.kind == "student", Person.active.is_(True))
                .order_by(Person.source_id)
                .limit(STUDENTS)
            ).all()
        found = [Account(p.source_id, p.username or "", p.name, named[p.username or ""]) for p in people]
        found += [Account(p.source_id, "", p.name, f"student of grade {p.grade}") for p in students]
        return [*found, Account("stranger", "somebody.else", "Somebody Else", "not in the records")]

    return accounts
