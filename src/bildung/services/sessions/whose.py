"""The students behind a number of the page of sessions."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select

from bildung.core.school.privacy import alias_numbers
from bildung.services.people.named import NamedPerson
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.store.models import Person, PlannedSession, SchoolClass, Sitting

STATES = {
    "handed_in": ("handed_in",),
    "absent": ("absent",),
    "to_come": ("not_started", "answering", "resting"),
    "not_started": ("not_started",),
    "answering": ("answering",),
    "resting": ("resting",),
    "on_paper": ("on_paper",),
    "all": ("handed_in", "on_paper", "absent", "not_started", "answering", "resting", "exempt", "void"),
}
MOST = 2000


@dataclass(frozen=True)
class NamedAttempts:
    """n: how many sittings; named: whose, by class and name, each with the class once however often they sat; hidden: none,
    since who may see a session sees its list."""

    n: int
    named: list[NamedPerson]
    hidden: int = 0


def sitters(ctx: Context, actor: Actor, of: str, window_id: int | None, session_id: int | None) -> NamedAttempts:
    """Of the sessions of a window, or of one. Refused for a state there is not."""
    if of not in STATES:
        raise Invalid(f"one of {', '.join(STATES)}", "of")
    wanted = (
        select(Person.id, Person.given, Person.family, SchoolClass.title)
        .join(Sitting, Sitting.person_id == Person.id)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(scope(actor, Action.SESSIONS_READ), Sitting.state.in_(STATES[of]))
        .order_by(SchoolClass.title, Person.family, Person.given, Person.id)
    )
    if session_id is not None:
        wanted = wanted.where(PlannedSession.id == session_id)
    elif window_id is not None:
        wanted = wanted.where(PlannedSession.window_id == window_id)
    with ctx.store.read() as db:
        rows = db.execute(wanted).all()
    seen = list(dict.fromkeys((id, f"{given} {family}".strip(), title) for id, given, family, title in rows))[:MOST]
    aliases = dict(zip((ids := sorted({id for id, _, _ in seen})), alias_numbers(ids), strict=True))
    return NamedAttempts(len(rows), [NamedPerson(id, name, title, aliases[id]) for id, name, title in seen])
