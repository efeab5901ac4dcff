"""People as lists of the workbench name them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sqlalchemy import select

from bildung.services.shared.context import Context
from bildung.services.shared.wire import Id
from bildung.store.models import Person

SLICE = 500


@dataclass(frozen=True)
class NamedPerson:
    """alias: number from 0 to show while names are hidden."""

    person: Id
    name: str
    klass: str
    alias: int


def named_people(ctx: Context, seen: Iterable[tuple[int, str]], aliases: Mapping[int, int]) -> list[NamedPerson]:
    """seen: persons with the class in which they are met. aliases: by person. By class, then name."""
    found = list(seen)
    ids = sorted({person for person, _ in found})
    names: dict[int, tuple[str, str]] = {}
    with ctx.store.read() as db:
        for start in range(0, len(ids), SLICE):
            some = ids[start : start + SLICE]
            for id, given, family in db.execute(
                select(Person.id, Person.given, Person.family).where(Person.id.in_(some))
            ):
                names[id] = given, family
    ordered = sorted((p for p in found if p[0] in names), key=lambda p: (p[1], names[p[0]][::-1], p[0]))
    return [NamedPerson(person, " ".join(names[person]).strip(), klass, aliases[person]) for person, klass in ordered]
