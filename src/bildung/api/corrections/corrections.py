"""Corrections: what would move, one decision with a reason, and the way back."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query

from bildung.api.corrections.shapes import CorrectedForms, CorrectionIn, DecisionIn, ScoreAsIn, UndoIn
from bildung.api.shared.guard import Ctx, StaffGuard, number
from bildung.api.shared.late import LateRoute
from bildung.services.corrections import listing, making, otherform
from bildung.services.corrections import preview as trying
from bildung.services.corrections.listing import Correctable, CorrectionsPage
from bildung.services.corrections.making import CorrectionMade
from bildung.services.corrections.otherform import MixedForms
from bildung.services.corrections.preview import CorrectionPreview
from bildung.services.shared import jobs
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/corrections", tags=["corrections"], route_class=LateRoute)
Corrector = Annotated[Actor, Depends(StaffGuard(Action.SCORES_PLAN))]


@router.get("", operation_id="listCorrections")
def list_corrections(ctx: Ctx, actor: Corrector) -> CorrectionsPage:
    return listing.corrections_page(ctx, actor)


@router.get("/items/{place}", operation_id="correctable")
def get_item(ctx: Ctx, actor: Corrector, place: str, window: str) -> Correctable:
    """What can be corrected about an item as taken in a window."""
    return listing.correctable(ctx, actor, number(place), number(window))


@router.get("/preview", operation_id="previewCorrection")
def preview(
    ctx: Ctx,
    actor: Corrector,
    wanted: Annotated[CorrectionIn, Query()],
) -> CorrectionPreview:
    """What would move; nothing is changed."""
    with jobs.working(ctx, actor, wanted.job) as told:
        return trying.preview(ctx, actor, wanted.wish(), told)


@router.post("", operation_id="correct", status_code=201)
def correct(ctx: Ctx, actor: Corrector, body: DecisionIn) -> CorrectionMade:
    with jobs.working(ctx, actor, body.job) as told:
        return making.correct(ctx, actor, body.wish(), body.reason, body.asof, told)


@router.get("/sessions/{session}/forms", operation_id="mixedForms")
def get_forms(ctx: Ctx, actor: Corrector, session: str) -> MixedForms:
    """Attempts on paper, each scored by every form of its family."""
    return otherform.mixed_forms(ctx, actor, number(session))


@router.post("/sessions/{session}/forms", operation_id="scoreAsForm")
def score_as(ctx: Ctx, actor: Corrector, session: str, body: ScoreAsIn) -> CorrectedForms:
    """Score attempts on paper as another form of the family."""
    sittings = [number(id) for id in body.sittings]
    says = otherform.score_as(ctx, actor, number(session), sittings, number(body.form), body.reason)
    return CorrectedForms(says=says)


@router.post("/{correction}/undo", operation_id="undoCorrection")
def undo(ctx: Ctx, actor: Corrector, correction: str, body: UndoIn) -> CorrectionMade:
    return making.undo(ctx, actor, number(correction), body.reason)
