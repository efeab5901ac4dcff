"""Sitting a test."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from bildung.api.shared.events import event_stream, moved_events
from bildung.api.shared.guard import Ctx, StudentGuard, number
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ReviewOut
from bildung.api.sitting.shapes import AnswerIn, AnswersIn, CheckIn, PaperOut, TimeIn
from bildung.services.shared.access import Sitter
from bildung.services.sitting import events, taking
from bildung.services.sitting.feedback import Told
from bildung.services.sitting.taking import AttemptStanding, Receipt

router = APIRouter(prefix="/api/sit", tags=["sit"], route_class=LateRoute)
Me = Annotated[Sitter, Depends(StudentGuard())]


@router.get("/paper", operation_id="paper")
def paper(ctx: Ctx, sitter: Me) -> PaperOut:
    shown = taking.paper(ctx, sitter)
    return PaperOut.model_validate({**vars(shown), "csrf": sitter.csrf})


@router.post("/answers", operation_id="saveAnswers")
def save(ctx: Ctx, sitter: Me, body: AnswersIn) -> Receipt:
    answers = [
        events.Answer(id=a.id, question=number(a.question), answer=a.answer, takeover=a.takeover, sequence=a.sequence)
        for a in body.answers
        if isinstance(a, AnswerIn)
    ]
    unread = [str(a.get("id", "")) for a in body.answers if not isinstance(a, AnswerIn)]
    times = {number(t.question): _milliseconds(t.milliseconds) for t in body.times if isinstance(t, TimeIn)}
    receipt = taking.save(ctx, sitter, answers, max(0, min(body.reached, 1000)), times)
    refused = [*receipt.refused, *((id, "the message cannot be read") for id in unread)]
    refused = [
        (id.encode(errors="replace").decode(), why) for id, why in refused
    ]  # half a character cannot be sent back
    return replace(receipt, refused=refused)


def _milliseconds(time: float) -> int:
    """As far as it is a time at all; how long is believed is the service's to say."""
    return 0 if math.isnan(time) else int(max(0.0, min(time, 1e12)))


@router.get("/standing", operation_id="attemptStanding")
def standing(ctx: Ctx, sitter: Me) -> AttemptStanding:
    return taking.standing(ctx, sitter)


@router.get("/events", operation_id="attemptEvents", response_class=StreamingResponse)
async def attempt_events(request: Request, ctx: Ctx, sitter: Me) -> StreamingResponse:
    """Says that something moved for the students of this session; what it is now is read from the attempt itself."""
    session_id = await run_in_threadpool(taking.session_of, ctx, sitter)
    return event_stream(moved_events(request, ctx, taking.topic(session_id)))


@router.post("/hand-in", operation_id="handIn", status_code=204)
def hand_in(ctx: Ctx, sitter: Me, time_over: bool = False) -> None:
    """time_over: the device submits at the end of the session, not the student."""
    taking.hand_in(ctx, sitter, time_over)


@router.post("/check", operation_id="checkAnswer")
def check(ctx: Ctx, sitter: Me, body: CheckIn) -> Told:
    return taking.check(ctx, sitter, number(body.question))


@router.get("/review", operation_id="reviewSitting")
def review(ctx: Ctx, sitter: Me) -> ReviewOut:
    return ReviewOut.model_validate(taking.review_own(ctx, sitter))


@router.post("/again", operation_id="sitAgain", status_code=204)
def again(ctx: Ctx, sitter: Me) -> None:
    taking.again(ctx, sitter)
