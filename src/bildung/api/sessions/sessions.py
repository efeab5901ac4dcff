"""Sessions: planning, watching, closing; the calendar of windows."""

from __future__ import annotations

from datetime import date
from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Depends, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from bildung.api.sessions.shapes import (
    CancelIn,
    ChangeIn,
    Choices,
    CoversIn,
    FormSettled,
    IrregularityDecision,
    LateIn,
    MakeupsIn,
    Mark,
    MergeIn,
    NewSession,
    OpenAgainIn,
    ProvidedIn,
    ReleaseIn,
    ReopenIn,
    ReportIn,
    RoomActionIn,
    RoomDone,
    SplitIn,
    StopIn,
    StudentsIn,
    SubstituteCode,
    SubstituteEntered,
    SubstituteIn,
    SupportIn,
)
from bildung.api.shared.cookies import address_of, set_cookie
from bildung.api.shared.events import event_stream, moved_events
from bildung.api.shared.guard import STAFF_COOKIE, Anybody, Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import BehindOut, Made
from bildung.core.school.schooltime import instant_at
from bildung.services.calendar import windows
from bildung.services.calendar.years import zone_of
from bildung.services.door import signin
from bildung.services.door import substitute as entering
from bildung.services.rosters import check
from bildung.services.sessions import (
    changing,
    irregular,
    lateanswers,
    listing,
    makeups,
    placing,
    proctoring,
    provided,
    room,
    running,
    scheduling,
    substitute,
    support,
    tickets,
    whichform,
    whose,
    wrongform,
)
from bildung.services.sessions.changing import SessionChange
from bildung.services.sessions.listing import SessionDetail, SessionsPage
from bildung.services.sessions.makeups import Makeups, MakeupWish
from bildung.services.sessions.placing import Slot
from bildung.services.sessions.proctoring import Covers
from bildung.services.sessions.support import SupportPage
from bildung.services.sessions.whichform import FormsPage
from bildung.services.sessions.wrongform import FormChoices
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context

router = APIRouter(prefix="/api", tags=["sessions"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_READ))]
Planner = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_PLAN))]
WindowPlanner = Annotated[Actor, Depends(StaffGuard(Action.WINDOWS_PLAN))]
Holder = Annotated[Actor, Depends(StaffGuard(Action.ROOM_HOLD))]
Watcher = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_READ, Action.ROOM_HOLD))]
Runner = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_RUN))]


@router.get("/sessions", operation_id="listSessions")
def list_sessions(ctx: Ctx, actor: Reader, window: str | None = None) -> SessionsPage:
    return listing.sessions_page(ctx, actor, number_or_none(window))


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


@router.get("/sessions/irregularities", operation_id="irregularities")
def get_irregularities(ctx: Ctx, actor: Planner, window: str | None = None) -> irregular.IrregularitiesPage:
    return irregular.irregularities_page(ctx, actor, number_or_none(window))


@router.get("/sessions/choices", operation_id="sessionChoices")
def choices(ctx: Ctx, actor: Planner) -> Choices:
    return Choices.model_validate(scheduling.choices(ctx, actor))


@router.get("/sessions/forms", operation_id="windowForms")
def window_forms(ctx: Ctx, actor: Planner, window: str) -> FormsPage:
    return whichform.forms_page(ctx, actor, number(window))


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
        body.why,
        {number(t.class_id): (instant_at(t.start, zone), instant_at(t.end, zone)) for t in body.times},
        body.instructions,
        instant_at(body.due, zone) if body.due else None,
    )
    return Made.model_validate({"ids": made})


@router.post("/sessions/change", operation_id="changeSessions", status_code=204)
def change(ctx: Ctx, actor: Planner, body: ChangeIn) -> None:
    """One session or many, all or none."""
    zone = _zone(ctx)
    changing.change(
        ctx,
        actor,
        {number(id): revision for id, revision in body.revisions.items()},
        SessionChange(
            start=None if body.start is None else instant_at(body.start, zone),
            end=None if body.end is None else instant_at(body.end, zone),
            shift=body.shift,
            room=body.room,
            proctor=None if body.proctor is None else number(body.proctor) if body.proctor else 0,
            form_id=number_or_none(body.form_id),
            title=body.title,
            instructions=body.instructions,
        ),
        body.why,
        body.grant_role,
    )


@router.post("/sessions/cancel", operation_id="cancelSessions", status_code=204)
def cancel(ctx: Ctx, actor: Planner, body: CancelIn) -> None:
    """They do not take place, or end for all."""
    changing.cancel(ctx, actor, [number(id) for id in body.ids], body.why, body.still_owed)


@router.get("/sessions/makeups", operation_id="proposeMakeups")
def propose_makeups(
    ctx: Ctx, actor: Planner, window: str, person: Annotated[list[str], Query(max_length=200)] = []
) -> Makeups:
    """Sessions for everybody who still owes a test, in free rooms on the days left."""
    return makeups.propose(ctx, actor, number(window), [number(id) for id in person])


@router.post("/sessions/makeups", operation_id="scheduleMakeups", status_code=201)
def schedule_makeups(ctx: Ctx, actor: Planner, body: MakeupsIn) -> Made:
    """All of them or none."""
    wishes = [
        MakeupWish(
            session=number(m.session),
            people=[number(id) for id in m.people],
            slot=Slot(start=m.start, end=m.end, room=m.room, proctor_id=number_or_none(m.proctor)),
        )
        for m in body.makeups
    ]
    return Made.model_validate({"ids": makeups.schedule_makeups(ctx, actor, wishes)})


@router.get("/sessions/covers", operation_id="suggestCovers")
def suggest_covers(ctx: Ctx, actor: Planner, person: str, day: date) -> Covers:
    """Who could take over a proctor's sessions of a day."""
    return proctoring.suggest(ctx, actor, number(person), day)


@router.post("/sessions/covers", operation_id="reassignSessions", status_code=204)
def reassign(ctx: Ctx, actor: Planner, body: CoversIn) -> None:
    """A proctor's sessions of a day go to others."""
    to = {number(id): number(new) if new else None for id, new in body.to.items()}
    proctoring.reassign(ctx, actor, number(body.person), body.day, to)


@router.post("/sessions/{session_id}/students", operation_id="placeStudents", status_code=204)
def place(ctx: Ctx, actor: Planner, session_id: str, body: StudentsIn) -> None:
    """They take the test in this session, and not where their class does."""
    placing.place(ctx, actor, number(session_id), [number(id) for id in body.people], body.why)


@router.delete("/sessions/{session_id}/students/{person_id}", operation_id="unplaceStudent", status_code=204)
def unplace(ctx: Ctx, actor: Planner, session_id: str, person_id: str) -> None:
    """Back to the list of their class."""
    placing.unplace(ctx, actor, number(session_id), number(person_id))


@router.post("/sessions/{session_id}/split", operation_id="splitSession", status_code=201)
def split(ctx: Ctx, actor: Planner, session_id: str, body: SplitIn) -> Made:
    """Some students take the test in a session of their own."""
    zone = _zone(ctx)
    slot = Slot(
        start=instant_at(body.start, zone),
        end=instant_at(body.end, zone),
        room=body.room,
        proctor_id=number_or_none(body.proctor),
    )
    made = placing.split(ctx, actor, number(session_id), [number(id) for id in body.people], slot, body.why)
    return Made.model_validate({"ids": [made]})


@router.post("/sessions/{session_id}/merge", operation_id="mergeSession", status_code=204)
def merge(ctx: Ctx, actor: Planner, session_id: str, body: MergeIn) -> None:
    """Whoever has not started takes the test in another session."""
    placing.merge(ctx, actor, number(session_id), number(body.into))


def _zone(ctx: Context) -> ZoneInfo:
    with ctx.store.read() as db:
        return zone_of(db)


@router.get("/sessions/{session_id}", operation_id="getSession")
def get(ctx: Ctx, actor: Watcher, session_id: str) -> SessionDetail:
    return listing.get_session(ctx, actor, number(session_id))


@router.post("/sessions/{session_id}/report", operation_id="reportRoster", status_code=204)
def report(ctx: Ctx, actor: Reader, session_id: str, body: ReportIn) -> None:
    check.report(ctx, actor, number(session_id), body.text)


@router.post("/sessions/{session_id}/close", operation_id="closeSession", status_code=204)
def close(ctx: Ctx, actor: Runner, session_id: str, unfinished: running.Unfinished = "submit") -> None:
    """unfinished: attempts in progress are submitted as they are, or go on on another day."""
    running.close(ctx, actor, number(session_id), unfinished)


@router.post("/sessions/{session_id}/open", operation_id="openSessionAgain", status_code=204)
def open_again(ctx: Ctx, actor: Runner, session_id: str, body: OpenAgainIn) -> None:
    zone = ZoneInfo(str(windows.calendar(ctx, actor)["zone"]))
    running.open_again(ctx, actor, number(session_id), instant_at(body.until, zone), body.why)


@router.post("/sessions/{session_id}/late/{sitting_id}", operation_id="settleLateAnswers", status_code=204)
def settle_late(ctx: Ctx, actor: Runner, session_id: str, sitting_id: str, body: LateIn) -> None:
    lateanswers.settle(ctx, actor, number(session_id), number(sitting_id), body.take, body.why)


@router.get("/sessions/{session_id}/support", operation_id="sessionSupport")
def session_support(ctx: Ctx, actor: Reader, session_id: str) -> SupportPage:
    return support.support_page(ctx, actor, number(session_id))


@router.post("/sessions/{session_id}/support", operation_id="assignSupport", status_code=204)
def assign_support(ctx: Ctx, actor: Planner, session_id: str, body: SupportIn) -> None:
    students = [number(id) for id in body.students]
    support.assign(ctx, actor, number(session_id), number(body.staff_id), body.kind, students)


@router.delete("/sessions/{session_id}/support/{student_id}/{kind}", operation_id="withdrawSupport", status_code=204)
def withdraw_support(ctx: Ctx, actor: Planner, session_id: str, student_id: str, kind: str) -> None:
    support.withdraw(ctx, actor, number(session_id), number(student_id), kind)


@router.get("/sessions/{session_id}/sittings/{sitting_id}/forms", operation_id="formChoices")
def form_choices(ctx: Ctx, actor: Runner, session_id: str, sitting_id: str) -> FormChoices:
    return wrongform.choices(ctx, actor, number(session_id), number(sitting_id))


@router.post("/sessions/{session_id}/sittings/{sitting_id}/form", operation_id="settleForm", status_code=204)
def settle_form(ctx: Ctx, actor: Runner, session_id: str, sitting_id: str, body: FormSettled) -> None:
    ids = number(session_id), number(sitting_id)
    if body.form_id is None:
        wrongform.go_on(ctx, actor, *ids, body.why)
    else:
        wrongform.change_over(ctx, actor, *ids, number(body.form_id), body.carry, body.why)


@router.put(
    "/sessions/{session_id}/sittings/{sitting_id}/accommodations", operation_id="recordAccommodation", status_code=204
)
def record_accommodation(ctx: Ctx, actor: Runner, session_id: str, sitting_id: str, body: ProvidedIn) -> None:
    provided.record(ctx, actor, number(session_id), number(sitting_id), body.kind, body.outcome)


@router.post("/sessions/{session_id}/release", operation_id="releaseSession", status_code=204)
def release(ctx: Ctx, actor: Runner, session_id: str, body: ReleaseIn) -> None:
    running.release(ctx, actor, number(session_id), body.despite)


@router.post("/sessions/{session_id}/sittings/{sitting_id}", operation_id="markSitting", status_code=204)
def mark(ctx: Ctx, actor: Holder, session_id: str, sitting_id: str, body: Mark) -> None:
    running.mark(ctx, actor, number(session_id), number(sitting_id), body.state, body.why)


@router.post("/sessions/{session_id}/room", operation_id="roomAction")
def room_action(ctx: Ctx, actor: Holder, session_id: str, body: RoomActionIn) -> RoomDone:
    """What whoever holds it does while it runs, for one, several or all students."""
    wish = room.RoomAction(
        kind=body.kind, sittings=[number(id) for id in body.sittings], minutes=body.minutes, text=body.text
    )
    return RoomDone(students=room.act(ctx, actor, number(session_id), wish))


@router.post("/sessions/{session_id}/sittings/{sitting_id}/reopen", operation_id="reopenAttempt", status_code=204)
def reopen(ctx: Ctx, actor: Runner, session_id: str, sitting_id: str, body: ReopenIn) -> None:
    """An attempt that was submitted by mistake goes on."""
    running.reopen(ctx, actor, number(session_id), number(sitting_id), body.why)


@router.post("/sessions/{session_id}/substitute", operation_id="makeSubstituteCode")
def make_substitute_code(ctx: Ctx, actor: Runner, session_id: str) -> SubstituteCode:
    """Opens this session, and nothing else, from half an hour before it begins until it is closed."""
    return SubstituteCode(code=substitute.make_code(ctx, actor, number(session_id)))


@router.delete("/sessions/{session_id}/substitute", operation_id="withdrawSubstituteCode", status_code=204)
def withdraw_substitute_code(ctx: Ctx, actor: Runner, session_id: str) -> None:
    substitute.withdraw(ctx, actor, number(session_id))


@router.post("/substitute", operation_id="enterAsSubstitute", dependencies=[Depends(Anybody())])
def enter_as_substitute(body: SubstituteIn, request: Request, response: Response, ctx: Ctx) -> SubstituteEntered:
    device = request.headers.get("user-agent", "")
    token, session_id = entering.enter(ctx, body.code, body.name, address_of(request), device)
    set_cookie(request, response, STAFF_COOKIE, token.secret)
    return SubstituteEntered(session=str(session_id))


@router.post("/schools/{school}/stop", operation_id="stopSchool")
def stop_school(ctx: Ctx, actor: WindowPlanner, school: str, body: StopIn) -> room.Stopped:
    """Pause every open session of a school, or let them all go on."""
    return room.stop_all(ctx, actor, number(school), body.why, body.resume)


@router.post("/irregularities/{event}", operation_id="settleIrregularity", status_code=204)
def settle_irregularity(ctx: Ctx, actor: Planner, event: str, body: IrregularityDecision) -> None:
    irregular.settle(ctx, actor, number(event), body.outcome, body.why)


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
async def events(request: Request, ctx: Ctx, actor: Watcher, session_id: str) -> StreamingResponse:
    """Says that something moved; what it is now is read from the session itself."""
    await run_in_threadpool(listing.get_session, ctx, actor, number(session_id))
    cookie = request.cookies.get(STAFF_COOKIE)

    async def still_allowed() -> None:
        await run_in_threadpool(_still_allowed, ctx, cookie, number(session_id))

    return event_stream(ctx, moved_events(request, ctx, f"session:{session_id}", still_allowed))


def _still_allowed(ctx: Context, cookie: str | None, session_id: int) -> None:
    listing.get_session(ctx, signin.actor_of(ctx, cookie), session_id)
