"""Who may hold a session. Giving somebody the role for it is an act of its own: asked for, for one school, in the log."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.people.colleagues import give_role
from bildung.services.shared.access import RULES, Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.store.models import Person, Role

HOLDING = frozenset(role for role, action in RULES if action is Action.SESSIONS_RUN)


def who_may_hold(db: Session, people: Collection[int]) -> set[int]:
    """Those of some staff whose role lets them hold a session that names them."""
    return set(db.scalars(select(Role.person_id).where(Role.person_id.in_(people), Role.role.in_(HOLDING))))


def check_proctor(
    db: Session, ctx: Context, actor: Actor, person_id: int, school_id: int | None, grant_role: bool = False
) -> Person:
    """The member of staff who is to hold a session at a school. Only somebody whom the planner may see; somebody without
    a role for it needs `grant_role`, and a planner who may give roles there."""
    person = db.scalar(
        select(Person).where(
            Person.id == person_id, Person.kind == "staff", Person.active.is_(True), scope(actor, Action.PEOPLE_READ)
        )
    )
    if person is None:
        raise Invalid("choose a member of staff of your school as proctor", "proctor_id")
    if not who_may_hold(db, [person.id]):
        if not grant_role:
            raise Conflict(
                f"{person.name} has no role that lets them hold a session; give them the role of proctor first",
                "grant_role",
            )
        give_role(db, ctx, actor, person.id, "proctor", school_id)
    return person
