"""Classes, groups, the school year, course plans: how a federation is put together."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request, Response

from bildung.api.people.shapes import ClassesOut, CodeOut, DecideIn, DoorIn
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.services.people import classes
from bildung.services.people.classes import ClassPage
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api", tags=["organization"], route_class=LateRoute)
ClassReader = Annotated[Actor, Depends(StaffGuard(Action.CLASSES_READ))]
ClassRunner = Annotated[Actor, Depends(StaffGuard(Action.CLASSES_RUN))]


@router.get("/classes", operation_id="listClasses")
def list_classes(ctx: Ctx, actor: ClassReader, year: str | None = None) -> ClassesOut:
    finding, lines, all_years, shown = classes.list_classes(ctx, actor, number_or_none(year))
    return ClassesOut.model_validate({"finding": finding, "classes": lines, "years": all_years, "shown": shown})


@router.get(
    "/classes/codes.pdf",
    operation_id="classCodes",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
def codes(
    request: Request, ctx: Ctx, actor: ClassRunner, ids: Annotated[list[str], Query()], cards: bool = True
) -> Response:
    document = classes.sheets(ctx, actor, [number(id) for id in ids], str(request.base_url), cards)
    name = f'inline; filename="{"cards" if cards else "codes"}.pdf"'
    return Response(document, media_type="application/pdf", headers={"Content-Disposition": name})


@router.get("/classes/{class_id}", operation_id="getClass")
def get_class(ctx: Ctx, actor: ClassReader, class_id: str) -> ClassPage:
    return classes.get_class(ctx, actor, number(class_id))


@router.put("/classes/{class_id}/door", operation_id="setDoor")
def set_door(ctx: Ctx, actor: ClassRunner, class_id: str, body: DoorIn) -> CodeOut:
    return CodeOut(code=classes.set_door(ctx, actor, number(class_id), body.open_door, body.fresh_code))


@router.post("/classes/asking/{request_id}", operation_id="settleRequest", status_code=204)
def settle_request(ctx: Ctx, actor: ClassRunner, request_id: str, body: DecideIn) -> None:
    classes.settle_request(ctx, actor, number(request_id), body.let_in, number_or_none(body.person_id), body.why)
