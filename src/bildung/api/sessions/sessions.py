"""Sessions: planning, watching, closing; the calendar of windows."""

from __future__ import annotations

from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Depends, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from bildung.api.sessions.shapes import Choices, LateIn, Mark, NewSession, OpenAgainIn, ReleaseIn, ReportIn, SessionsOut
from bildung.api.shared.events import event_stream, moved_events
from bildung.api.shared.guard import STAFF_COOKIE, Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.shapes import BehindOut, Made
from bildung.core.school.schooltime import instant_at
from bildung.services.calendar import windows
from bildung.services.door import signin
from bildung.services.rosters import check
from bildung.services.sessions import lateanswers, listing, running, scheduling, tickets, whose
from bildung.services.sessions.listing import SessionDetail
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context

router = APIRouter(prefix="/api", tags=["sessions"])
Reader = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_READ))]
Planner = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_PLAN))]
Runner = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_RUN))]


@router.get("/sessions", operation_id="listSessions")
def list_sessions(ctx: Ctx, actor: Reader, window: str | None = None) -> SessionsOut:
    found = listing.list_sessions(ctx, actor, number_or_none(window))
    totals = listing.sitting_counts(found)
    return SessionsOut.model_validate(
        {
            "finding": listing.sessions_finding(found),
            "absent": totals.absent,
            "pending": totals.pending,
            "sessions": found,
        }
    )


@router.get("/sessions/whose", operation_id="whoseSittings")
def students_behind_a_number(
    ctx: Ctx,
    actor: Reader,
    of: Annotated[str, Query(max_length=40)],
    window: str | None = None,
    session: str | None = None,
) -> BehindOut:
    """Whose sittings a number of the page of sessions counts."""
    found = whose.sitters(ctx, actor, of, number_or_none(window), number_or_none(session))
    return BehindOut.model_validate(found)


@router.get("/sessions/choices", operation_id="sessionChoices")
def choices(ctx: Ctx, actor: Planner) -> Choices:
    return Choices.model_validate(scheduling.choices(ctx, actor))


@router.post("/sessions", operation_id="scheduleSessions", status_code=201)
def schedule(ctx: Ctx, actor: Planner, body: NewSession) -> Made:
    zone = ZoneInfo(str(windows.calendar(ctx, actor)["zone"]))
    made = scheduling.schedule(
        ctx,
        actor,
        number(body.form_id),
        number(body.window_id),
        [number(id) for id in body.class_ids],
        body.room,
        number_or_none(body.proctor_id),
        instant_at(body.start, zone),
        instant_at(body.end, zone),
        body.part,
        body.deal,
        body.grant_role,
    )
    return Made.model_validate({"ids": made})


@router.get("/sessions/{session_id}", operation_id="getSession")
def get(ctx: Ctx, actor: Reader, session_id: str) -> SessionDetail:
    return listing.get_session(ctx, actor, number(session_id))


@router.post("/sessions/{session_id}/report", operation_id="reportRoster", status_code=204)
def report(ctx: Ctx, actor: Reader, session_id: str, body: ReportIn) -> None:
    check.report(ctx, actor, number(session_id), body.text)


@router.post("/sessions/{session_id}/close", operation_id="closeSession", status_code=204)
def close(ctx: Ctx, actor: Runner, session_id: str) -> None:
    running.close(ctx, actor, number(session_id))


@router.post("/sessions/{session_id}/open", operation_id="openSessionAgain", status_code=204)
def open_again(ctx: Ctx, actor: Runner, session_id: str, body: OpenAgainIn) -> None:
    zone = ZoneInfo(str(windows.calendar(ctx, actor)["zone"]))
    running.open_again(ctx, actor, number(session_id), instant_at(body.until, zone), body.why)


@router.post("/sessions/{session_id}/late/{sitting_id}", operation_id="settleLateAnswers", status_code=204)
def settle_late(ctx: Ctx, actor: Runner, session_id: str, sitting_id: str, body: LateIn) -> None:
    lateanswers.settle(ctx, actor, number(session_id), number(sitting_id), body.take, body.why)


@router.post("/sessions/{session_id}/release", operation_id="releaseSession", status_code=204)
def release(ctx: Ctx, actor: Runner, session_id: str, body: ReleaseIn) -> None:
    running.release(ctx, actor, number(session_id), body.despite)


@router.post("/sessions/{session_id}/sittings/{sitting_id}", operation_id="markSitting", status_code=204)
def mark(ctx: Ctx, actor: Runner, session_id: str, sitting_id: str, body: Mark) -> None:
    running.mark(ctx, actor, number(session_id), number(sitting_id), body.state, body.why)


@router.get(
    "/sessions/{session_id}/cards.pdf",
    operation_id="sessionCards",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
def cards(request: Request, ctx: Ctx, actor: Runner, session_id: str) -> Response:
    document = tickets.cards(ctx, actor, number(session_id), str(request.base_url))
    name = f'inline; filename="cards-{session_id}.pdf"'
    return Response(document, media_type="application/pdf", headers={"Content-Disposition": name})


@router.get("/sessions/{session_id}/events", operation_id="sessionEvents", response_class=StreamingResponse)
async def events(request: Request, ctx: Ctx, actor: Reader, session_id: str) -> StreamingResponse:
    """Says that something moved; what it is now is read from the session itself."""
    await run_in_threadpool(listing.get_session, ctx, actor, number(session_id))
    cookie = request.cookies.get(STAFF_COOKIE)

    async def still_allowed() -> None:
        await run_in_threadpool(_still_allowed, ctx, cookie, number(session_id))

    return event_stream(moved_events(request, ctx, f"session:{session_id}", still_allowed))


def _still_allowed(ctx: Context, cookie: str | None, session_id: int) -> None:
    listing.get_session(ctx, signin.actor_of(ctx, cookie), session_id)
