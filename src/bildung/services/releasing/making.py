"""Results released to an audience, withdrawn, or held back for one student."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import cast, get_args

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.services.calendar.years import zone_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.sitting.released import EVERYTHING, PARTS, SECRET, Audience
from bildung.services.sitting.reviewing import Review, review_of
from bildung.services.sitting.taking import still_open
from bildung.services.sitting.telling import Result, keep_told, put_release, results_of
from bildung.store.models import HeldBack, PlannedSession, Release, Sitting

MOST_AHEAD = timedelta(days=366)
MORNING = time(7)  # when results of a day go out


@dataclass(frozen=True, kw_only=True)
class ReleaseWish:
    """sessions: whose results. audiences: student, family or both. shows: what of them. day: from its morning on, as the district's clock
    has it; None: now. despite: answers go out
    although others are still to take the test."""

    sessions: tuple[int, ...]
    audiences: tuple[str, ...]
    shows: tuple[str, ...]
    day: date | None = None
    despite: bool = False


@dataclass(frozen=True)
class Released:
    """What was done, in a sentence."""

    says: str


def release_results(ctx: Context, actor: Actor, wish: ReleaseWish) -> Released:
    """Each session at once; attempts that wait for scores are left out and said. Results that were told before are told anew."""
    now = ctx.clock()
    with ctx.store.read() as db:
        zone = zone_of(db)
        _fit(wish, now.astimezone(zone).date())
        at = now if wish.day is None else datetime.combine(wish.day, MORNING, zone).astimezone(UTC)
        results = {s.id: results_of(db, s) for s in _sessions(db, actor, wish, wish.despite)}

    def work(db: Session) -> int:
        changed = 0
        for session in _sessions(db, actor, wish, wish.despite):
            changed += keep_told(db, results.get(session.id, []), now)
            for audience in wish.audiences:
                _put(db, ctx, actor, session, cast(Audience, audience), wish.shows, at)
        return changed

    changed = ctx.store.write(work)
    for id in wish.sessions:
        ctx.bus.publish(f"session:{id}", {"released": True})
    return Released(_says(wish, list(results.values()), changed, at > now))


def _fit(wish: ReleaseWish, today: date) -> None:
    if not wish.sessions:
        raise Invalid("choose at least one class", "sessions")
    strange = [a for a in wish.audiences if a not in get_args(Audience)]
    if strange or not wish.audiences:
        raise Invalid("results go to student, family or both", "audiences")
    unknown = [part for part in wish.shows if part not in PARTS]
    if unknown or not wish.shows:
        raise Invalid(f"what is shown is any of {', '.join(PARTS)}", "shows")
    if "answers" not in wish.shows and set(wish.shows) & {"right", "solutions", "comments"}:
        raise Invalid("right answers, solutions and comments are shown beside the student's own answers", "shows")
    if wish.day is not None and not today < wish.day <= today + MOST_AHEAD:
        raise Invalid("the day lies ahead, within a year", "day")


def _sessions(db: Session, actor: Actor, wish: ReleaseWish, despite: bool) -> list[PlannedSession]:
    found = list(
        db.scalars(
            select(PlannedSession)
            .where(PlannedSession.id.in_(wish.sessions), scope(actor, Action.SESSIONS_PLAN))
            .order_by(PlannedSession.id)
        )
    )
    if len(found) != len(set(wish.sessions)):
        raise NotFound("one of these sessions is not there, or not yours to release")
    unfinished = [s for s in found if s.closed_at is None]
    if unfinished:
        raise Conflict(f"close {unfinished[0].klass.title} first: someone may still be taking the test")
    secret = set(wish.shows) & SECRET
    if secret and not despite:
        for session in found:
            others = still_open(db, session)
            if others:
                more = f" and {len(others) - 1} more" if len(others) > 1 else ""
                raise Conflict(
                    f"{others[0].klass.title}{more} still to take this test: release points without right answers, or decide "
                    "to release them all the same",
                    "despite",
                )
    return found


def _put(
    db: Session,
    ctx: Context,
    actor: Actor,
    session: PlannedSession,
    audience: Audience,
    shows: Sequence[str],
    at: datetime,
) -> None:
    put_release(db, session, audience, shows, at, actor.person_id, ctx.clock())
    after = {"audience": audience, "shows": list(shows), "at": at.isoformat()}
    audit.record(db, ctx.clock(), actor.person_id, "session.release", f"session:{session.id}", None, after)


def _says(wish: ReleaseWish, results: list[list[Result]], changed: int, ahead: bool) -> str:
    out = sum(not r.waits for some in results for r in some)
    waits = sum(r.waits > 0 for some in results for r in some)
    whom = " and ".join({"student": "students", "family": "families"}[a] for a in wish.audiences)
    text = f"{counted(out, 'result')} of {counted(len(results), 'class', 'classes')} {'will go' if ahead else 'went'} out to {whom}."
    if changed:
        text += (
            f" {counted(changed, 'result')} {'is' if changed == 1 else 'are'} others than were told before, and say so."
        )
    if waits:
        text += f" {counted(waits, 'attempt')} {'waits' if waits == 1 else 'wait'} for scores and did not."
    return text


def withdraw(ctx: Context, actor: Actor, session_ids: Sequence[int], audience: str) -> None:
    """From now on this audience sees nothing of these sessions."""
    if audience not in get_args(Audience):
        raise Invalid("results go to student or family", "audience")
    wish = ReleaseWish(sessions=tuple(session_ids), audiences=(audience,), shows=("points",))

    def work(db: Session) -> None:
        for session in _sessions(db, actor, wish, True):
            row = db.get(Release, (session.id, audience))
            if row is not None and row.withdrawn_at is None:
                row.withdrawn_at = ctx.clock()
            if audience == "student":
                session.released_at = None
            audit.record(
                db, ctx.clock(), actor.person_id, "session.release.withdraw", f"session:{session.id}", audience, None
            )

    ctx.store.write(work)
    for id in session_ids:
        ctx.bus.publish(f"session:{id}", {"released": False})


def hold_back(ctx: Context, actor: Actor, sitting_id: int, why: str | None) -> None:
    """This attempt's results are released to no one; why None: they are again as those of the class."""
    reason = need_text(why, "why", 300) if why is not None else ""

    def work(db: Session) -> None:
        sitting = _attempt(db, actor, sitting_id)
        row = db.get(HeldBack, sitting.id)
        if why is None:
            if row is None:
                raise Conflict("these results are not held back")
            db.delete(row)
        elif row is None:
            db.add(HeldBack(sitting_id=sitting.id, why=reason, by_id=actor.person_id, at=ctx.clock()))
        else:
            row.why = reason
        action = "result.hold" if why is not None else "result.let"
        audit.record(db, ctx.clock(), actor.person_id, action, f"sitting:{sitting.id}", None, None, reason)

    ctx.store.write(work)


def preview(ctx: Context, actor: Actor, sitting_id: int, audience: str, shows: Sequence[str]) -> Review:
    """As this student, or their family, would read it; nothing is released."""
    if audience not in get_args(Audience):
        raise Invalid("results go to student or family", "audience")
    with ctx.store.read() as db:
        sitting = _attempt(db, actor, sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        seen = frozenset(shows) & EVERYTHING
        return review_of(db, session, sitting, seen, sitting, "family" if audience == "family" else "student", True)[0]


def _attempt(db: Session, actor: Actor, sitting_id: int) -> Sitting:
    sitting = db.scalar(
        select(Sitting)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(Sitting.id == sitting_id, Sitting.state == "handed_in", scope(actor, Action.SESSIONS_PLAN))
    )
    if sitting is None:
        raise NotFound("there is no such submitted attempt, or it is not yours")
    return sitting
