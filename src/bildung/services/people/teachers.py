"""Who teaches which classes now."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from bildung.store.models import Enrolment, Person


def teachers_of(db: Session, classes: Collection[int]) -> dict[int, list[Person]]:
    """By class, its teachers, the one who was first put down for it in front."""
    found: dict[int, list[Person]] = defaultdict(list)
    for klass, person in db.execute(
        select(Enrolment.class_id, Person)
        .join(Person, Person.id == Enrolment.person_id)
        .where(Enrolment.class_id.in_(classes), Enrolment.role == "teacher", Enrolment.active.is_(True))
        .order_by(Enrolment.id)
    ):
        found[klass].append(person)
    return dict(found)


def taught_by(person_id: int) -> Select[int]:
    """The classes of a teacher."""
    return select(Enrolment.class_id).where(
        Enrolment.person_id == person_id, Enrolment.role == "teacher", Enrolment.active.is_(True)
    )
