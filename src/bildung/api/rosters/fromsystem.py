"""The school's records system: what changed there, and taking it in."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.rosters.shapes import LookIn, TakeIn
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.services.rosters import fromsystem
from bildung.services.rosters.fromsystem import RecordsPage
from bildung.services.shared import jobs
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api", tags=["federation"], route_class=LateRoute)
Importer = Annotated[Actor, Depends(StaffGuard(Action.PEOPLE_IMPORT))]


@router.get("/records", operation_id="getRecords")
def records(ctx: Ctx, actor: Importer, run: str | None = None) -> RecordsPage:
    return fromsystem.records_page(ctx, actor, number_or_none(run))


@router.post("/records/look", operation_id="lookAtRecords", status_code=204)
def look(ctx: Ctx, actor: Importer, body: LookIn, job: str = "") -> None:
    with jobs.working(ctx, actor, job) as work:
        fromsystem.look(ctx, actor, body.bulk, work)


@router.post("/records/{run_id}/decide", operation_id="decideRecords", status_code=204)
def decide(ctx: Ctx, actor: Importer, run_id: str, body: TakeIn) -> None:
    fromsystem.decide(ctx, actor, number(run_id), body.take)
