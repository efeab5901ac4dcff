"""The calendar of windows."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.calendar.shapes import CalendarOut, NewWindow
from bildung.api.shared.guard import Ctx, StaffGuard, number
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import Made
from bildung.services.calendar import windows
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api", tags=["sessions"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_READ))]
Planner = Annotated[Actor, Depends(StaffGuard(Action.YEARS_WRITE))]


@router.get("/calendar", operation_id="calendar")
def calendar(ctx: Ctx, actor: Reader) -> CalendarOut:
    return CalendarOut.model_validate(windows.calendar(ctx, actor))


@router.post("/windows", operation_id="createWindow", status_code=201)
def create_window(ctx: Ctx, actor: Planner, body: NewWindow) -> Made:
    return Made.model_validate({"ids": [windows.create_window(ctx, actor, body.name, body.start, body.end)]})


@router.post("/years/{year}/windows/copy", operation_id="copyWindows", status_code=204)
def copy_windows(ctx: Ctx, actor: Planner, year: str) -> None:
    """The windows of a school year once more, a year later."""
    windows.copy_windows(ctx, actor, number(year))
