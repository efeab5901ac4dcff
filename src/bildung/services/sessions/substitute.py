"""The code on the proctor's sheet that opens one session to a substitute (`door/substitute.py`): made, printed, withdrawn."""

from __future__ import annotations

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from bildung.services.sessions.listing import _get
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.codes import new_code
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.store.models import PlannedSession, SignIn, Substitute

CODE_LENGTH = 8


def code_of(db: Session, session: PlannedSession) -> str:
    """The session's code, made where there is none."""
    if session.substitute_code is None:
        taken = set(
            db.scalars(select(PlannedSession.substitute_code).where(PlannedSession.substitute_code.is_not(None)))
        )
        session.substitute_code = new_code(CODE_LENGTH, {code for code in taken if code})
        db.flush()
    return session.substitute_code


def make_code(ctx: Context, actor: Actor, session_id: int) -> str:
    """For whoever holds the session, to hand it over."""

    def work(db: Session) -> str:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        if session.closed_at is not None:
            raise Conflict("this session is closed")
        made = code_of(db, session)
        audit.record(db, ctx.clock(), actor.person_id, "substitute.code", f"session:{session.id}")
        return made

    return ctx.store.write(work)


def withdraw(ctx: Context, actor: Actor, session_id: int) -> None:
    """The code no longer opens anything, and whoever is in with it is out."""

    def work(db: Session) -> None:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        session.substitute_code = None
        theirs = select(Substitute.person_id).where(Substitute.session_id == session.id)
        db.execute(
            update(SignIn)
            .where(SignIn.person_id.in_(theirs), SignIn.revoked_at.is_(None))
            .values(revoked_at=ctx.clock())
        )
        audit.record(db, ctx.clock(), actor.person_id, "substitute.withdraw", f"session:{session.id}")

    ctx.store.write(work)
