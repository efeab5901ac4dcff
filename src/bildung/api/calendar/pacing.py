"""Pacing guides, and what each class has been taught so far."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, UploadFile

from bildung.api.calendar.shapes import PlansOut, TaughtIn
from bildung.api.shared.guard import Ctx, StaffGuard, number
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ApplyIn
from bildung.api.shared.uploads import contents
from bildung.services.calendar import pacing
from bildung.services.calendar.pacing import PlanPage
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.staging import Preview

router = APIRouter(prefix="/api", tags=["organization"], route_class=LateRoute)
PlanReader = Annotated[Actor, Depends(StaffGuard(Action.PLANS_READ))]
PlanWriter = Annotated[Actor, Depends(StaffGuard(Action.PLANS_WRITE))]
Teacher = Annotated[Actor, Depends(StaffGuard(Action.TAUGHT_SAY))]


@router.get("/plans", operation_id="listPlans")
def list_plans(ctx: Ctx, actor: PlanReader) -> PlansOut:
    finding, found = pacing.list_plans(ctx, actor)
    return PlansOut.model_validate({"finding": finding, "plans": found})


@router.post("/plans/imports", operation_id="previewPlans")
def preview_plans(ctx: Ctx, actor: PlanWriter, files: list[UploadFile]) -> Preview:
    return pacing.preview(ctx, actor, contents(files))


@router.post("/plans/imports/{import_id}/apply", operation_id="applyPlans")
def apply_plans(ctx: Ctx, actor: PlanWriter, import_id: str, body: ApplyIn = ApplyIn()) -> Preview:
    return pacing.apply(ctx, actor, import_id, body.yes)


@router.post("/plans/taught", operation_id="sayTaught", status_code=204)
def say_taught(ctx: Ctx, actor: Teacher, body: TaughtIn) -> None:
    pacing.say_taught(ctx, actor, number(body.class_id), number(body.lesson_id), body.on)


@router.get("/plans/{plan_id}", operation_id="getPlan")
def get_plan(ctx: Ctx, actor: PlanReader, plan_id: str) -> PlanPage:
    return pacing.get_plan(ctx, actor, number(plan_id))
