"""Sitting a test."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.guard import Ctx, Student, number
from bildung.api.schemas import AnswersIn, CheckIn, PaperOut, ReceiptOut, ReviewOut, ToldOut
from bildung.services import sitting
from bildung.services.access import Sitter

router = APIRouter(prefix="/api/sit", tags=["sit"])
Me = Annotated[Sitter, Depends(Student())]


@router.get("/paper", operation_id="paper")
def paper(ctx: Ctx, sitter: Me) -> PaperOut:
    shown = sitting.paper(ctx, sitter)
    return PaperOut.model_validate({**vars(shown), "csrf": sitter.csrf})


@router.post("/answers", operation_id="saveAnswers")
def save(ctx: Ctx, sitter: Me, body: AnswersIn) -> ReceiptOut:
    answers = [sitting.Answer(a.id, number(a.question), a.answer, a.takeover, a.sequence) for a in body.answers]
    times = {number(t.question): t.milliseconds for t in body.times}
    return ReceiptOut.model_validate(sitting.save(ctx, sitter, answers, body.reached, times))


@router.post("/hand-in", operation_id="handIn", status_code=204)
def hand_in(ctx: Ctx, sitter: Me) -> None:
    sitting.hand_in(ctx, sitter)


@router.post("/check", operation_id="checkAnswer")
def check(ctx: Ctx, sitter: Me, body: CheckIn) -> ToldOut:
    return ToldOut.model_validate(sitting.check(ctx, sitter, number(body.question)))


@router.get("/review", operation_id="reviewSitting")
def review(ctx: Ctx, sitter: Me) -> ReviewOut:
    return ReviewOut.model_validate(sitting.review_own(ctx, sitter))


@router.post("/again", operation_id="sitAgain", status_code=204)
def again(ctx: Ctx, sitter: Me) -> None:
    sitting.again(ctx, sitter)
