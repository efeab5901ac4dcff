"""Keeping no longer than decided: old sign-ins and requests, old log entries, students who left long ago."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import ColumnElement, delete, func, or_, select
from sqlalchemy.orm import Session

from bildung.services.calendar.years import local_today
from bildung.services.quality.reports import remove_strays
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.settings import setting
from bildung.services.shared.throttle import sweep as forget_tries
from bildung.services.upkeep.studentrecord import ERASED, erase
from bildung.store.models import AuditEntry, JoinRequest, Person, SignIn

YEAR = timedelta(days=365, hours=6)


@dataclass(frozen=True)
class Due:
    """What the settings would remove today."""

    sign_ins: int
    log_entries: int
    students: int
    requests: int


def due(ctx: Context, actor: Actor) -> Due:
    """What would be deleted at the next clean-up."""
    scope(actor, Action.SETTINGS)
    with ctx.store.read() as db:
        sign_ins, entries = _old_sign_ins(ctx, db), _old_entries(ctx, db)
        return Due(
            db.scalar(select(func.count()).select_from(SignIn).where(sign_ins)) or 0,
            db.scalar(select(func.count()).select_from(AuditEntry).where(entries)) or 0,
            len(_long_gone(ctx, db)),
            db.scalar(select(func.count()).select_from(JoinRequest).where(_old_requests(ctx, db))) or 0,
        )


def sweep(ctx: Context) -> Due:
    """Run once a day by the server; the log says how much went, never whose."""

    def work(db: Session) -> Due:
        sign_ins = db.execute(delete(SignIn).where(_old_sign_ins(ctx, db))).rowcount  # type: ignore[attr-defined]
        entries = db.execute(delete(AuditEntry).where(_old_entries(ctx, db))).rowcount  # type: ignore[attr-defined]
        requests = db.execute(delete(JoinRequest).where(_old_requests(ctx, db))).rowcount  # type: ignore[attr-defined]
        forget_tries(db, ctx.clock())
        gone = _long_gone(ctx, db)
        for person in gone:
            erase(db, person)
        done = Due(sign_ins, entries, len(gone), requests)
        if any(vars(done).values()):
            audit.record(db, ctx.clock(), None, "retention.sweep", "federation", None, vars(done))
        return done

    done = ctx.store.write(work)
    remove_strays(ctx)
    return done


def _old_sign_ins(ctx: Context, db: Session) -> ColumnElement[bool]:
    """Ended ones only: an open sign-in is somebody at work."""
    now = ctx.clock()
    kept = now - timedelta(days=int(setting(db, "keep_sign_ins_days")))
    return (SignIn.created_at < kept) & or_(SignIn.revoked_at.is_not(None), SignIn.expires_at < now)


def _old_entries(ctx: Context, db: Session) -> ColumnElement[bool]:
    return AuditEntry.at < ctx.clock() - int(setting(db, "keep_log_years")) * YEAR


def _old_requests(ctx: Context, db: Session) -> ColumnElement[bool]:
    """Who asked to join a class, kept as long as sign-ins are."""
    return JoinRequest.at < ctx.clock() - timedelta(days=int(setting(db, "keep_sign_ins_days")))


def _long_gone(ctx: Context, db: Session) -> list[Person]:
    years = int(setting(db, "erase_departed_years"))
    if years == 0:
        return []
    before: date = local_today(ctx, db) - years * YEAR
    return list(
        db.scalars(
            select(Person).where(
                Person.kind == "student",
                Person.active.is_(False),
                Person.left_on.is_not(None),
                Person.left_on < before,
                ~Person.source_id.startswith(ERASED),
            )
        )
    )
