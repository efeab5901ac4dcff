"""Sessions: planning them, watching them, closing them."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Literal, get_args

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.services.answers.packing import pack
from bildung.services.calendar.years import local_today
from bildung.services.owed import accommodated
from bildung.services.owed.dealing import form_of
from bildung.services.owed.sessionroster import follow_class, follow_same
from bildung.services.sessions.listing import GRACE, _get, reaches
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.typed import need_text
from bildung.services.sitting import taking
from bildung.services.sitting.released import EVERYTHING
from bildung.services.sitting.resting import on_several_days, rest
from bildung.services.sitting.signs import end_pause, pause_with_the_rest
from bildung.services.sitting.telling import keep_told, put_release, results_of
from bildung.store.models import (
    Mark,
    PackedAnswers,
    PlannedSession,
    ScoringHold,
    Sitting,
    TimeOn,
)

DECISIONS = ("exempt", "void", "interrupted")  # of whoever planned the session, not of who holds it


def release(ctx: Context, actor: Actor, session_id: int, despite: bool = False) -> None:
    """From now on students of this session see the right answers. despite: other sessions that give the same items are
    not over; without it that is refused, with their classes named."""
    with ctx.store.read() as db:
        results = results_of(db, _get(db, actor, Action.SESSIONS_RUN, session_id))

    def work(db: Session) -> None:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        if session.released_at is not None:
            raise Conflict("students see the results of this session already")
        if session.closed_at is None:
            raise Conflict("close the session first: someone may still be taking the test")
        others = taking.still_open(db, session)
        if others and not despite:
            names = ", ".join(o.klass.title for o in others[:3]) + (
                f" and {len(others) - 3} more" if len(others) > 3 else ""
            )
            raise Conflict(
                f"{names} still {'takes' if len(others) == 1 else 'take'} this test: students could pass the answers on",
                "despite",
            )
        now = ctx.clock()
        keep_told(db, results, now)
        put_release(db, session, "student", EVERYTHING, now, actor.person_id, now)
        after = {"despite open sessions": len(others)} if others else None
        audit.record(db, ctx.clock(), actor.person_id, "session.release", f"session:{session_id}", None, after)

    ctx.store.write(work)


def mark(ctx: Context, actor: Actor, session_id: int, sitting_id: int, state: str, why: str = "") -> None:
    """Say that a student is absent, exempt, takes the test on paper, or that a sitting is void; or take that back."""
    if state not in ("absent", "on_paper", "exempt", "void", "interrupted", "back"):
        raise Invalid("absent, on_paper, exempt, void, interrupted or back", "state")

    def work(db: Session) -> None:
        session = _get(db, actor, Action.ROOM_HOLD, session_id)
        attempt = db.get(Sitting, sitting_id)
        if attempt is None or attempt.session_id != session.id:
            raise NotFound("there is no such attempt in this session")
        judges = state in DECISIONS or (state == "back" and attempt.state in DECISIONS)
        if judges and not reaches(db, actor, Action.SESSIONS_PLAN, session_id):
            raise NotAllowed("this is decided by the coordinator; note an irregularity instead")
        if state == "absent" and attempt.started_at is not None:
            raise Conflict("this student has started; invalidate the attempt if it must not count")
        if state == "on_paper" and attempt.state not in ("not_started", "absent", "answering"):
            raise Conflict("only a student who has not started, or is taking the test, can continue on paper")
        if state == "interrupted" and attempt.started_at is None:
            raise Conflict("this student has not started; mark them absent instead")
        before = attempt.state
        attempt.interrupted = state == "interrupted"
        if state == "back":
            rests = attempt.used_seconds is not None
            if attempt.started_at and session.closed_at and not attempt.handed_in_at and not rests:
                attempt.handed_in_at = session.closed_at
            attempt.state = state_without_mark(attempt, session)
        else:
            end_pause(db, attempt, ctx.clock())
            attempt.state = "void" if state == "interrupted" else state
            attempt.way = "paper" if state == "on_paper" else attempt.way
        session.data_version += 1
        db.flush()
        follow_same(db, session)
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "sitting.mark",
            f"sitting:{sitting_id}",
            before,
            state if state != "back" else attempt.state,
            why,
        )

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitting_id)})
    ctx.bus.publish(taking.topic(session_id), {"sitting": str(sitting_id)})


def state_without_mark(attempt: Sitting, session: PlannedSession) -> str:
    """What an attempt is where nobody says otherwise."""
    if attempt.handed_in_at:
        return "handed_in"
    if attempt.used_seconds is not None:
        return "resting"
    if attempt.started_at:
        return "answering"
    return "absent" if session.closed_at else "not_started"


Unfinished = Literal["submit", "continue"]


def close(ctx: Context, actor: Actor, session_id: int, unfinished: Unfinished = "submit") -> None:
    """End it: who never came is absent; who is still answering hands in as they are, or goes on on another day, where that is
    an accommodation of theirs or was decided for all (`continue`), with the minutes they have left. What they have seen is
    noted then."""
    if unfinished not in get_args(Unfinished):
        raise Invalid("submit or continue", "unfinished")

    def work(db: Session) -> None:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        if session.closed_at is not None:
            raise Conflict("this session is closed already")
        _close(db, ctx, session, actor.person_id, unfinished == "continue")

    ctx.store.write(work)
    _tell_closed(ctx, session_id)


def reopen(ctx: Context, actor: Actor, session_id: int, sitting_id: int, why: str) -> None:
    """An attempt that was submitted by mistake goes on with the time it had left: whoever holds the session while it runs,
    whoever planned it until the window ends. Of a session that is closed it is to be continued in another one. Refused once
    right answers were shown. Scores that people gave it are withdrawn: what they scored may change."""
    why = need_text(why, "why", 300)

    def work(db: Session) -> None:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        attempt = db.get(Sitting, sitting_id)
        if attempt is None or attempt.session_id != session.id:
            raise NotFound("there is no such attempt in this session")
        if attempt.state != "handed_in" or attempt.handed_in_at is None:
            raise Conflict("only a submitted attempt can be reopened")
        if attempt.attempt > 1:
            raise Conflict("this student has started another attempt")
        form = form_of(db, session, attempt)
        if attempt.checked or taking.may_review(db, session, attempt, form, "handed_in", ctx.clock()):
            raise Conflict("this student was shown right answers; schedule another form instead")
        if session.closed_at is not None:
            if not reaches(db, actor, Action.SESSIONS_PLAN, session_id):
                raise NotAllowed("the session is closed; the coordinator can reopen the attempt")
            if session.window.end < local_today(ctx, db):
                raise Conflict("the window is over")
        submitted, now = attempt.handed_in_at, ctx.clock()
        end_pause(db, attempt, submitted)
        attempt.handed_in_at, attempt.ended_by_close = None, False
        if session.closed_at is None:
            attempt.state = "answering"
            attempt.added_seconds += max(0, round((now - submitted).total_seconds()))
            pause_with_the_rest(db, session, attempt, now)
        else:
            attempt.state = "answering"
            rest(attempt, submitted)
        session.data_version += 1
        db.execute(delete(Mark).where(Mark.sitting_id == attempt.id))
        db.execute(delete(ScoringHold).where(ScoringHold.sitting_id == attempt.id))
        db.flush()
        follow_same(db, session)
        audit.record(
            db, now, actor.person_id, "sitting.reopen", f"sitting:{attempt.id}", "handed_in", attempt.state, why
        )

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitting_id)})
    ctx.bus.publish(taking.topic(session_id), {"sitting": str(sitting_id)})


def _tell_closed(ctx: Context, session_id: int) -> None:
    """Whoever watches it, and every student who has it open."""
    ctx.bus.publish(f"session:{session_id}", {"closed": True})
    ctx.bus.publish(taking.topic(session_id), {"closed": True})


MOST_LONGER = timedelta(days=60)


def open_again(ctx: Context, actor: Actor, session_id: int, until: datetime, why: str) -> None:
    """Of a session that was closed by mistake or by a wrong clock: whoever was cut off goes on, whoever was made absent by
    the closing can still come. until: when it ends now."""
    why = need_text(why, "why", 300)
    if not ctx.clock() < until <= ctx.clock() + MOST_LONGER:
        raise Invalid("the new end lies ahead, within 60 days", "until")

    def work(db: Session) -> None:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        if session.closed_at is None:
            raise Conflict("this session is open")
        if session.released_at is not None:
            raise Conflict(
                "students have seen the correct answers of this session; schedule another one with other items"
            )
        before = {"closed_at": session.closed_at.isoformat(), "end": session.end.isoformat()}
        for attempt in db.scalars(
            select(Sitting).where(Sitting.session_id == session.id, Sitting.ended_by_close.is_(True))
        ):
            attempt.ended_by_close = False
            if attempt.state == "handed_in":
                attempt.state, attempt.handed_in_at = "answering", None
            elif attempt.state == "absent":
                attempt.state = "not_started"
        session.closed_at, session.end = None, until
        session.data_version += 1
        packed = db.get(PackedAnswers, session.id)
        if packed is not None:
            db.delete(packed)
        db.flush()
        follow_class(db, session)
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "session.open_again",
            f"session:{session.id}",
            before,
            {"end": until.isoformat()},
            why,
        )

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"opened": True})
    ctx.bus.publish(taking.topic(session_id), {"opened": True})


def close_overdue(ctx: Context) -> int:
    """Close what ended more than ten minutes ago; run now and then by the server, with a clock that can be believed. How
    many were closed."""
    if not ctx.clock_steady() or ctx.just_back():
        return 0
    with ctx.store.read() as db:
        late = select(PlannedSession.id).where(
            PlannedSession.closed_at.is_(None), PlannedSession.end < ctx.clock() - GRACE
        )
        ids = list(db.scalars(late))
    closed = [id for id in ids if ctx.store.write(lambda db, id=id: _close_if_over(db, ctx, id))]  # type: ignore[misc]
    for id in closed:
        _tell_closed(ctx, id)
    return len(closed)


def _close_if_over(db: Session, ctx: Context, id: int) -> bool:
    """Not while somebody with extra time may still be working."""
    session = db.get_one(PlannedSession, id)
    if accommodated.last_end(db, session, ctx.clock()) + GRACE > ctx.clock():
        return False
    _close(db, ctx, session, None)
    return True


def _close(db: Session, ctx: Context, session: PlannedSession, by: int | None, everyone_goes_on: bool = False) -> None:
    if session.closed_at is not None:
        return
    now = ctx.clock()
    attempts = db.scalars(select(Sitting).where(Sitting.session_id == session.id)).all()
    goes_on = on_several_days(db, session, attempts, now, everyone_goes_on)
    seen = _seen(db, goes_on) if everyone_goes_on else {}
    for attempt in attempts:
        end_pause(db, attempt, now)
        if attempt.id in goes_on:
            rest(attempt, goes_on[attempt.id])
            if everyone_goes_on:
                many = seen.get(attempt.id, 0)
                words = f"stopped on {dates_of(db).short(local_today(ctx, db))} after seeing {counted(many, 'item')}"
                attempt.note = f"{attempt.note}; {words}" if attempt.note else words
        elif attempt.state == "answering":
            attempt.state, attempt.handed_in_at, attempt.ended_by_close = "handed_in", now, True
        elif attempt.state == "not_started":
            attempt.state, attempt.ended_by_close = "absent", True
    session.closed_at, session.paused_at = now, None
    session.data_version += 1
    pack(db, session)
    audit.record(db, now, by, "session.close", f"session:{session.id}", None, now.isoformat())


def _seen(db: Session, sittings: Iterable[int]) -> dict[int, int]:
    """How many items each has had before them."""
    rows = db.execute(
        select(TimeOn.sitting_id, func.count(TimeOn.form_item_id.distinct()))
        .where(TimeOn.sitting_id.in_(list(sittings)))
        .group_by(TimeOn.sitting_id)
    )
    return dict(rows.tuples().all())
