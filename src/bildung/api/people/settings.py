"""What the federation decides for itself, and the records system it follows."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query

from bildung.api.people.shapes import AttributeIn, SettingsBody, SettingsOut
from bildung.api.shared.guard import Ctx, StaffGuard, number
from bildung.api.shared.late import LateRoute
from bildung.services.people import attributes
from bildung.services.shared import settings
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.standins import Standins
from bildung.services.upkeep import backups, retention

router = APIRouter(prefix="/api", tags=["federation"], route_class=LateRoute)
Keeper = Annotated[Actor, Depends(StaffGuard(Action.SETTINGS))]


@router.get("/settings", operation_id="getSettings")
def get(ctx: Ctx, actor: Keeper) -> SettingsOut:
    return SettingsOut.model_validate(
        {
            "values": settings.settings(ctx, actor),
            "due": retention.due(ctx, actor),
            "attributes": attributes.list_attributes(ctx, actor),
            "backups": backups.backups(ctx, actor),
            "standins": {name: address for name, address in vars(ctx.own(Standins)).items() if address},
        }
    )


@router.put("/settings", operation_id="changeSettings", status_code=204)
def change(ctx: Ctx, actor: Keeper, body: SettingsBody) -> None:
    settings.change_settings(ctx, actor, body.values)


@router.post("/settings/attributes", operation_id="putAttribute", status_code=204)
def put_attribute(ctx: Ctx, actor: Keeper, body: AttributeIn) -> None:
    attributes.put_attribute(ctx, actor, body.name, body.seen_by)


@router.delete("/settings/attributes/{attribute_id}", operation_id="endAttribute", status_code=204)
def end_attribute(
    ctx: Ctx, actor: Keeper, attribute_id: str, students: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0
) -> None:
    attributes.end_attribute(ctx, actor, number(attribute_id), students)
