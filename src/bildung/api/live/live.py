"""Live rounds: whoever holds them, the projector, students' devices."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from bildung.api.live.shapes import (
    BindIn,
    BoundOut,
    EndRoundIn,
    LiveAnswerIn,
    LiveAskIn,
    PressesIn,
    RoundIn,
    RoundOut,
    ShowQuestionIn,
)
from bildung.api.shared.events import event_stream, moved_events
from bildung.api.shared.guard import Ctx, OwnPageGuard, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.services.live import answering, rounds
from bildung.services.live.answering import LiveForStudent, Press, Pressed
from bildung.services.live.asked import topic
from bildung.services.live.rounds import LiveFound, LivePage, LiveScreen
from bildung.services.shared.access import Action, Actor, Own
from bildung.services.shared.errors import Conflict

router = APIRouter(prefix="/api", tags=["live"], route_class=LateRoute)
Teacher = Annotated[Actor, Depends(StaffGuard(Action.CLASSES_RUN))]
Student = Annotated[Own, Depends(OwnPageGuard("student"))]


@router.post("/live", operation_id="startRound", status_code=201)
def start(ctx: Ctx, actor: Teacher, body: RoundIn) -> RoundOut:
    return RoundOut(id=str(rounds.start(ctx, actor, number(body.class_id))))


@router.get("/live/{round_id}", operation_id="liveRound")
def page(ctx: Ctx, actor: Teacher, round_id: str) -> LivePage:
    return rounds.page(ctx, actor, number(round_id))


@router.get("/live/{round_id}/screen", operation_id="liveScreen")
def screen(ctx: Ctx, actor: Teacher, round_id: str) -> LiveScreen:
    return rounds.screen(ctx, actor, number(round_id))


@router.get("/live/{round_id}/events", operation_id="liveEvents", response_class=StreamingResponse)
async def events(request: Request, ctx: Ctx, actor: Teacher, round_id: str) -> StreamingResponse:
    await run_in_threadpool(rounds.screen, ctx, actor, number(round_id))
    return event_stream(ctx, moved_events(request, ctx, topic(number(round_id))))


@router.get("/live/{round_id}/find", operation_id="findToAsk")
def find(ctx: Ctx, actor: Teacher, round_id: str, text: Annotated[str, Query(max_length=300)] = "") -> list[LiveFound]:
    """Items that can be asked."""
    return rounds.find(ctx, actor, number(round_id), text)


@router.post("/live/{round_id}/ask", operation_id="askClass", status_code=201)
def ask(ctx: Ctx, actor: Teacher, round_id: str, body: LiveAskIn) -> RoundOut:
    """Put a question of the bank, or one said aloud."""
    made = rounds.ask(ctx, actor, number(round_id), number_or_none(body.item), body.words, body.options)
    return RoundOut(id=str(made))


@router.post("/live/{round_id}/again", operation_id="askAgain", status_code=201)
def again(ctx: Ctx, actor: Teacher, round_id: str) -> RoundOut:
    """The same question, after talk."""
    return RoundOut(id=str(rounds.again(ctx, actor, number(round_id))))


@router.post("/live/{round_id}/show", operation_id="showToClass", status_code=204)
def show(ctx: Ctx, actor: Teacher, round_id: str, body: ShowQuestionIn) -> None:
    rounds.show(ctx, actor, number(round_id), body.what)


@router.post("/live/{round_id}/end", operation_id="endRound", status_code=204)
def end(ctx: Ctx, actor: Teacher, round_id: str, body: EndRoundIn) -> None:
    rounds.end(ctx, actor, number(round_id), body.evidence)


@router.post("/live/{round_id}/presses", operation_id="pressDevices")
def presses(ctx: Ctx, actor: Teacher, round_id: str, body: PressesIn) -> Pressed:
    """What a hub of response devices brought."""
    return answering.press(ctx, actor, number(round_id), [Press(p.device, p.option) for p in body.presses])


@router.get("/classes/{class_id}/devices", operation_id="responseDevices")
def devices(ctx: Ctx, actor: Teacher, class_id: str) -> BoundOut:
    found = answering.bound(ctx, actor, number(class_id))
    return BoundOut(numbers={str(person): device for person, device in found.items()})


@router.put("/classes/{class_id}/devices", operation_id="bindDevices", status_code=204)
def bind(ctx: Ctx, actor: Teacher, class_id: str, body: BindIn) -> None:
    """Whose response device each number is."""
    answering.bind(ctx, actor, number(class_id), {number(person): n for person, n in body.numbers.items()})


@router.get("/own/live", operation_id="ownLive")
def look(ctx: Ctx, own: Student, way: Literal["school", "home"] = "school") -> LiveForStudent:
    """What there is to answer; whoever looks is in the round."""
    return answering.look(ctx, own, way)


@router.post("/own/live", operation_id="answerLive", status_code=204)
def answer(ctx: Ctx, own: Student, body: LiveAnswerIn) -> None:
    answering.answer(ctx, own, number(body.question), body.answer, body.way)


@router.get("/own/live/events", operation_id="ownLiveEvents", response_class=StreamingResponse)
async def own_events(request: Request, ctx: Ctx, own: Student) -> StreamingResponse:
    round_id = await run_in_threadpool(answering.round_of, ctx, own)
    if round_id is None:
        raise Conflict("no class of yours has a live round now")
    return event_stream(ctx, moved_events(request, ctx, topic(round_id)))
