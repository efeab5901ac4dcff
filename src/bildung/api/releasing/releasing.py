"""Releasing results: what is open before, who sees what from when, whose are held back."""

from __future__ import annotations

from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Depends, Query, Response

from bildung.api.releasing.shapes import HoldIn, ReleaseResultsIn, SendIn, WithdrawIn
from bildung.api.shared.guard import Ctx, StaffGuard, number
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ReviewOut
from bildung.services.releasing import letters, making, sending, standing
from bildung.services.releasing.making import Released, ReleaseWish
from bildung.services.releasing.sending import SendingLine, SendingPage
from bildung.services.releasing.standing import ReleasePage, ReleaseTests
from bildung.services.shared import jobs
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/releases", tags=["releases"], route_class=LateRoute)
PDF: dict[int | str, dict[str, Any]] = {200: {"content": {"application/pdf": {}}}}
ZIP: dict[int | str, dict[str, Any]] = {200: {"content": {"application/zip": {}}}}
Sender = Annotated[Actor, Depends(StaffGuard(Action.SCORES_PLAN))]
Releaser = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_PLAN))]


@router.get("", operation_id="releaseTests")
def list_tests(ctx: Ctx, actor: Releaser) -> ReleaseTests:
    return standing.tests_page(ctx, actor)


@router.get("/forms/{form}", operation_id="releasePage")
def get_page(ctx: Ctx, actor: Releaser, form: str, window: str) -> ReleasePage:
    """A test in a window: what is open, its classes, who is held back."""
    return standing.release_page(ctx, actor, number(form), number(window))


@router.get("/forms/{form}/records", operation_id="sendingPage")
def get_sending(ctx: Ctx, actor: Sender, form: str, window: str) -> SendingPage:
    """What would go to the school's records, what changed since the last sending first."""
    return sending.sending_page(ctx, actor, number(form), number(window))


@router.post("/forms/{form}/records", operation_id="sendResults")
def send(ctx: Ctx, actor: Sender, form: str, body: SendIn) -> SendingLine:
    with jobs.working(ctx, actor, body.job) as told:
        return sending.send_results(ctx, actor, number(form), number(body.window), told)


@router.get("/forms/{form}/gradebook", operation_id="gradebookFiles", response_class=Response, responses=ZIP)
def files(ctx: Ctx, actor: Sender, form: str, window: str) -> Response:
    """The same as files of OneRoster 1.2."""
    name, content = sending.as_files(ctx, actor, number(form), number(window))
    headers = {"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    return Response(content, media_type="application/zip", headers=headers)


@router.get("/forms/{form}/letters.pdf", operation_id="familyLetters", response_class=Response, responses=PDF)
def print_letters(ctx: Ctx, actor: Releaser, form: str, window: str) -> Response:
    """For families without an account, a page a household."""
    data = letters.letters(ctx, actor, number(form), number(window))
    return Response(
        data, media_type="application/pdf", headers={"content-disposition": 'inline; filename="letters.pdf"'}
    )


@router.get("/attempts/{sitting}/preview", operation_id="previewRelease")
def preview(
    ctx: Ctx,
    actor: Releaser,
    sitting: str,
    audience: Annotated[str, Query(max_length=10)],
    shows: Annotated[list[str], Query(max_length=6)],
) -> ReviewOut:
    """As this student, or their family, would read it."""
    return ReviewOut.model_validate(making.preview(ctx, actor, number(sitting), audience, shows))


@router.post("", operation_id="releaseResults")
def release(ctx: Ctx, actor: Releaser, body: ReleaseResultsIn) -> Released:
    wish = ReleaseWish(
        sessions=tuple(number(id) for id in body.sessions),
        audiences=tuple(dict.fromkeys(body.audiences)),
        shows=tuple(dict.fromkeys(body.shows)),
        day=body.day,
        despite=body.despite,
    )
    return making.release_results(ctx, actor, wish)


@router.post("/withdraw", operation_id="withdrawResults", status_code=204)
def withdraw(ctx: Ctx, actor: Releaser, body: WithdrawIn) -> None:
    making.withdraw(ctx, actor, [number(id) for id in body.sessions], body.audience)


@router.put("/attempts/{sitting}/hold", operation_id="holdResult", status_code=204)
def hold(ctx: Ctx, actor: Releaser, sitting: str, body: HoldIn) -> None:
    making.hold_back(ctx, actor, number(sitting), body.why)
