"""Who provides an accommodation to whom: by kind, language, and the students whom somebody is there for."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.accommodations.holding import Needs
from bildung.store.models import Person, StaffServes, StaffSupport

SPOKEN = ("human_reader",)
"""Kinds that are given in the language of the student's directions."""


@dataclass(frozen=True, kw_only=True)
class Providers:
    """languages: by kind, the people who provide it with what they speak beside the school's language. serves: by
    student, the people who are there for them."""

    languages: dict[str, dict[int, str]]
    serves: dict[int, set[int]]

    def by(self, kind: str, student: int, need: Needs) -> frozenset[int] | None:
        """The people of whom one provides it to this student; None: any who does; nobody where none can."""
        everyone = self.languages.get(kind, {})
        people, limited = set(everyone), False
        if need.language and kind in SPOKEN:
            people = {id for id in people if everyone[id].casefold() == need.language.casefold()}
            limited = True
        own = self.serves.get(student, set()) & everyone.keys()
        if own:
            people, limited = people & own or own, True
        return frozenset(people) if limited else None


def providers_of(db: Session, school_id: int) -> Providers:
    """Of the staff of a school."""
    languages: dict[str, dict[int, str]] = defaultdict(dict)
    rows = db.scalars(
        select(StaffSupport)
        .join(Person, Person.id == StaffSupport.person_id)
        .where(Person.school_id == school_id, Person.active.is_(True))
    )
    for row in rows:
        languages[row.kind][row.person_id] = row.language
    serves: dict[int, set[int]] = defaultdict(set)
    for one in db.scalars(select(StaffServes)):
        serves[one.student_id].add(one.person_id)
    return Providers(languages=dict(languages), serves=dict(serves))
