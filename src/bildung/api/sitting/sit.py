"""Sitting a test."""

from __future__ import annotations

import asyncio
import math
from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.exceptions import RequestValidationError
from fastapi.responses import StreamingResponse
from pydantic import TypeAdapter, ValidationError
from starlette.types import Receive, Scope, Send

from bildung.api.shared.events import event_stream, moved_events
from bildung.api.shared.guard import SITTING_COOKIE, Anybody, Ctx, SavingGuard, StudentGuard, context, number
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ReviewOut
from bildung.api.sitting.shapes import (
    AnswerIn,
    AnswersIn,
    CheckIn,
    DeliveryIn,
    HandedIn,
    HandInIn,
    PaperOut,
    RoomSignIn,
    TimeIn,
    VisitIn,
)
from bildung.services.shared.access import Sitter
from bildung.services.sitting import delivery, events, reviewing, signs, taking
from bildung.services.sitting.feedback import Told
from bildung.services.sitting.saving import Message, Receipt, saving
from bildung.services.sitting.taking import AttemptStanding
from bildung.services.sitting.visits import Visit

router = APIRouter(prefix="/api/sit", tags=["sit"], route_class=LateRoute)
Me = Annotated[Sitter, Depends(StudentGuard())]
SAVER, BODY, RECEIPT = SavingGuard(), TypeAdapter(AnswersIn), TypeAdapter(Receipt)
Saver = Annotated[Sitter, Depends(SAVER)]


@router.get("/paper", operation_id="paper")
def paper(request: Request, ctx: Ctx, sitter: Me) -> PaperOut:
    shown = taking.paper(ctx, sitter)
    mine = delivery.delivery_of(request.cookies.get(SITTING_COOKIE, ""))
    return PaperOut.model_validate({**vars(shown), "csrf": sitter.csrf, "delivery": mine})


async def save(ctx: Ctx, sitter: Saver, body: AnswersIn) -> Receipt:
    """Keep answers; each is acknowledged or refused by itself."""
    message, unread = _read(body)
    return _said(await asyncio.wrap_future(saving(ctx, sitter, message)), unread)


def _read(body: AnswersIn | DeliveryIn) -> tuple[Message, list[str]]:
    """What was sent, and the ids of what is no answer at all."""
    answers = [
        events.Answer(
            id=a.id,
            question=number(a.question),
            answer=a.answer,
            takeover=a.takeover,
            sequence=a.sequence,
            about=a.about,
        )
        for a in body.answers
        if isinstance(a, AnswerIn)
    ]
    unread = [str(a.get("id", "")) for a in body.answers if not isinstance(a, AnswerIn)]
    times = {number(t.question): _milliseconds(t.milliseconds) for t in body.times if isinstance(t, TimeIn)}
    visits = [Visit(number(v.question), v.begin, v.tenths) for v in body.visits if isinstance(v, VisitIn)]
    reached, ago = max(0, min(body.reached, 1000)), _milliseconds(1000 * body.section_ago) / 1000
    return Message(answers=answers, reached=reached, times=times, visits=visits, section_ago=ago), unread


def _said(receipt: Receipt, unread: list[str]) -> Receipt:
    refused = [*receipt.refused, *((id, "the message cannot be read") for id in unread)]
    refused = [
        (id.encode(errors="replace").decode(), why) for id, why in refused
    ]  # half a character cannot be sent back
    return replace(receipt, refused=refused)


class SavingRoute(LateRoute):
    """The same route without what FastAPI looks up anew for each request, which costs more than saving does. Guard, body and
    answer are those that the contract says."""

    async def handle(self, scope: Scope, receive: Receive, send: Send) -> None:
        request = Request(scope, receive)
        kind = request.headers.get("content-type", "").partition(";")[0].strip().lower()
        if scope["method"] != "POST" or kind != "application/json":  # what is not sent as JSON is refused as everywhere
            return await super().handle(scope, receive, send)
        sitter = await SAVER(request)
        try:
            # not validate_json: half a character is refused answer by answer, and not the whole message
            body = BODY.validate_python(await request.json())
        except ValidationError as error:
            raise RequestValidationError(error.errors()) from None
        except (ValueError, RecursionError):
            raise RequestValidationError([{"type": "json_invalid", "loc": ("body",), "msg": "no JSON"}]) from None
        receipt = await save(context(request), sitter, body)
        response = Response(RECEIPT.dump_json(receipt), media_type="application/json")
        return await response(scope, receive, send)


router.add_api_route("/answers", save, methods=["POST"], operation_id="saveAnswers", route_class_override=SavingRoute)


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
    return event_stream(ctx, moved_events(request, ctx, taking.topic(session_id)))


@router.post("/sign", operation_id="roomSign", status_code=204)
def sign(ctx: Ctx, sitter: Me, body: RoomSignIn) -> None:
    """A sign to the room: help, restroom, back, a message that was read, the page that was left."""
    signs.sign(ctx, sitter, body.kind, body.seconds, number(body.message) if body.message else 0, body.device)


@router.post("/hand-in", operation_id="handIn")
def hand_in(ctx: Ctx, sitter: Me, body: HandInIn | None = None) -> HandedIn:
    """time_over: the device submits at the end of the session, not the student."""
    how = body or HandInIn()
    return HandedIn(state=taking.hand_in(ctx, sitter, how.time_over, how.at))


@router.post("/deliver", operation_id="deliverAnswers", dependencies=[Depends(Anybody())])
async def deliver(ctx: Ctx, body: DeliveryIn) -> Receipt:
    """What a device holds of a student who has left it; where they had submitted, it is submitted as well."""
    sitter = await run_in_threadpool(delivery.delivering, ctx, body.delivery)
    message, unread = _read(body)
    receipt = _said(await asyncio.wrap_future(saving(ctx, sitter, message, known=True)), unread)
    if body.submitted is not None and receipt.state == "answering":
        state = await run_in_threadpool(taking.hand_in, ctx, sitter, body.time_over, body.submitted)
        receipt = replace(receipt, state=state)
    return receipt


@router.post("/check", operation_id="checkAnswer")
def check(ctx: Ctx, sitter: Me, body: CheckIn) -> Told:
    return taking.check(ctx, sitter, number(body.question))


@router.get("/review", operation_id="reviewSitting")
def review(ctx: Ctx, sitter: Me) -> ReviewOut:
    return ReviewOut.model_validate(reviewing.review_own(ctx, sitter))


@router.post("/again", operation_id="sitAgain", status_code=204)
def again(ctx: Ctx, sitter: Me) -> None:
    taking.again(ctx, sitter)
