"""Starting an installation: a federation and its first coordinator."""

from __future__ import annotations

import secrets
from zoneinfo import ZoneInfo, available_timezones

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.usernames import normal_username
from bildung.services.people.changes import LOCAL
from bildung.services.shared import audit
from bildung.services.shared.codes import ALPHABET
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.passwords import TEMPORARY, TEMPORARY_LENGTH, hash_password
from bildung.services.shared.typed import need_text
from bildung.store.models import Federation, Person, Role


def found(ctx: Context, name: str, zone: str, username: str, given: str, family: str) -> str:
    """Fill an empty store; returns the coordinator's temporary password, which is good for choosing an own one."""
    name, username = need_text(name, "name"), need_text(normal_username(username), "username", 60)
    given, family = need_text(given, "given"), need_text(family, "family")
    if zone not in available_timezones():
        raise Invalid(f"{zone!r} is no time zone; Europe/Berlin is one", "zone")
    ZoneInfo(zone)
    password = "".join(secrets.choice(ALPHABET) for _ in range(TEMPORARY_LENGTH))
    hashed = hash_password(password)

    def work(db: Session) -> None:
        if db.scalar(select(Federation.id)) is not None:
            raise Conflict("this data folder already contains a district; nothing was changed")
        db.add(Federation(name=name, zone=zone))
        person = Person(
            source_id=f"{LOCAL}{username}",
            given=given,
            family=family,
            kind="staff",
            username=username,
            password_hash=hashed,
            password_temporary=True,
            temporary_until=ctx.clock() + TEMPORARY,
        )
        db.add(person)
        db.flush()
        db.add(Role(person_id=person.id, role="coordinator"))
        audit.record(db, ctx.clock(), None, "federation.found", "federation", None, {"name": name})

    ctx.store.write(work)
    return password
