"""The school year: its days, closed days and windows."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.calendar.shapes import ClosedIn, WindowChange, YearIn
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import IdOut
from bildung.services.calendar import years
from bildung.services.calendar.years import YearPage
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api", tags=["organization"], route_class=LateRoute)
YearReader = Annotated[Actor, Depends(StaffGuard(Action.YEARS_READ))]
YearWriter = Annotated[Actor, Depends(StaffGuard(Action.YEARS_WRITE))]


@router.get("/year", operation_id="getYear")
def get_year(ctx: Ctx, actor: YearReader, year: str | None = None) -> YearPage | None:
    found = years.year_page(ctx, actor, number_or_none(year))
    return None if found is None else found


@router.post("/year", operation_id="makeYear")
def make_year(ctx: Ctx, actor: YearWriter, body: YearIn) -> IdOut:
    return IdOut(id=str(years.change_year(ctx, actor, None, body.title, body.start, body.end, body.weekdays)))


@router.put("/year/{year_id}", operation_id="changeYear", status_code=204)
def change_year(ctx: Ctx, actor: YearWriter, year_id: str, body: YearIn) -> None:
    years.change_year(ctx, actor, number(year_id), body.title, body.start, body.end, body.weekdays)


@router.post("/year/closed", operation_id="closeDays")
def close_days(ctx: Ctx, actor: YearWriter, body: ClosedIn) -> IdOut:
    return IdOut(id=str(years.close_days(ctx, actor, body.name, body.start, body.end, number_or_none(body.school_id))))


@router.delete("/year/closed/{closed_id}", operation_id="openDays", status_code=204)
def open_days(ctx: Ctx, actor: YearWriter, closed_id: str) -> None:
    years.open_days(ctx, actor, number(closed_id))


@router.put("/year/windows/{window_id}", operation_id="changeWindow", status_code=204)
def change_window(ctx: Ctx, actor: YearWriter, window_id: str, body: WindowChange) -> None:
    years.change_window(ctx, actor, number(window_id), body.name, body.start, body.end)
