"""Test tickets of a session, for print."""

from __future__ import annotations

from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.reports.cards import TicketSheet, session_cards
from bildung.services.forms import settings
from bildung.services.sessions.listing import _get
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.addresses import site_address, with_warning
from bildung.services.shared.context import Context
from bildung.services.shared.settings import dates_of
from bildung.store.models import (
    Federation,
    Person,
    Sitting,
)


def cards(ctx: Context, actor: Actor, session_id: int, address: str) -> bytes:
    """The session's cards as PDF, for those who run it; the log says who took the codes."""

    def work(db: Session) -> tuple[TicketSheet, list[tuple[str, str]]]:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        rows = db.scalars(
            select(Person)
            .join(Sitting, Sitting.person_id == Person.id)
            .where(Sitting.session_id == session.id)
            .order_by(Person.family, Person.given, Person.id)
        )
        federation = db.scalar(select(Federation))
        zone = ZoneInfo(federation.zone if federation else "UTC")
        start, end, now = (t.astimezone(zone) for t in (session.start, session.end, ctx.clock()))
        audit.record(db, ctx.clock(), actor.person_id, "session.cards", f"session:{session.id}")
        dates = dates_of(db)
        place = f", {session.room}" if session.room else ""
        here = site_address(db, address)
        sheet = TicketSheet(
            heading=f"{settings.title_of(session.form)}, {session.klass.title}",
            what=f"{dates.long(start)}, {dates.time(start)} to {dates.time(end)}{place}",
            klass=session.klass.title,
            address=here,
            code=session.code,
            footer=with_warning(
                f"Contains codes: hand out and do not leave unattended. Printed by {actor.name}, {dates.dated_moment(now)}",
                here,
            ),
        )
        return sheet, [(p.name, p.code) for p in rows if p.code]

    return session_cards([ctx.store.write(work)], "Session")
