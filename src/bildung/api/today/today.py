"""What is open, what comes next, and what waits for whoever asks."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query

from bildung.api.shared.guard import Ctx, StaffGuard
from bildung.api.shared.late import LateRoute
from bildung.services.shared.access import Actor
from bildung.services.today import page
from bildung.services.today.find import FoundThing, find_anything
from bildung.services.today.page import TodayPage

router = APIRouter(prefix="/api", tags=["today"], route_class=LateRoute)


@router.get("/today", operation_id="today")
def today(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(None))]) -> TodayPage:
    """What is open, what comes next, and what waits for this person."""
    return page.today_page(ctx, actor)


@router.get("/find", operation_id="findAnything")
def find(
    ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(None))], text: Annotated[str, Query(max_length=200)] = ""
) -> list[FoundThing]:
    """People, classes, tests, sessions and items that fit a text, the first of each kind."""
    return find_anything(ctx, actor, text)
