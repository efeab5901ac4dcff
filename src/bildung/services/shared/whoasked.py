"""Work that goes on after a restart is done with the rights that its asker has now."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared.access import Actor, Grant
from bildung.store.models import Person, Role


def actor_of(db: Session, person_id: int) -> Actor:
    """A person as who asks, without a sign-in; one who has left may nothing."""
    person = db.get_one(Person, person_id)
    roles = db.scalars(select(Role).where(Role.person_id == person.id)).all() if person.active else ()
    grants = tuple(Grant(role.role, role.school_id) for role in roles)
    return Actor(person_id=person.id, name=person.name, grants=grants, sign_in_id=0, csrf="")
