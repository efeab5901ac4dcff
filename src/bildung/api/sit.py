"""Sitting a test."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.guard import Ctx, Student, number
from bildung.api.schemas import AnswersIn, PaperOut, ReceiptOut
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
    return ReceiptOut.model_validate(sitting.save(ctx, sitter, answers))


@router.post("/hand-in", operation_id="handIn", status_code=204)
def hand_in(ctx: Ctx, sitter: Me) -> None:
    sitting.hand_in(ctx, sitter)
