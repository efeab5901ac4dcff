"""Accommodations: entered for a student, approved from the list, ended."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.people.shapes import AccommodationBody, ApproveIn, CaseManagerIn, DeclineIn
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.services.people import accommodations
from bildung.services.people.accommodations import AccommodationsPage, Entered
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api", tags=["people"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.SUPPORT_READ))]
Enterer = Annotated[Actor, Depends(StaffGuard(Action.SUPPORT_ENTER))]
Approver = Annotated[Actor, Depends(StaffGuard(Action.SUPPORT_WRITE))]


@router.get("/accommodations", operation_id="accommodationsPage")
def accommodations_page(ctx: Ctx, actor: Reader) -> AccommodationsPage:
    return accommodations.page(ctx, actor)


@router.post("/accommodations/approve", operation_id="approveAccommodations", status_code=204)
def approve(ctx: Ctx, actor: Approver, body: ApproveIn) -> None:
    accommodations.approve(ctx, actor, [number(id) for id in body.ids])


@router.post("/accommodations/{accommodation_id}/decline", operation_id="declineAccommodation", status_code=204)
def decline(ctx: Ctx, actor: Approver, accommodation_id: str, body: DeclineIn) -> None:
    accommodations.decline(ctx, actor, number(accommodation_id), body.why)


@router.put("/accommodations/{accommodation_id}", operation_id="changeAccommodation", status_code=204)
def change(ctx: Ctx, actor: Enterer, accommodation_id: str, body: AccommodationBody) -> None:
    accommodations.change(ctx, actor, number(accommodation_id), Entered(**body.model_dump()))


@router.delete("/accommodations/{accommodation_id}", operation_id="endAccommodation", status_code=204)
def end(ctx: Ctx, actor: Enterer, accommodation_id: str) -> None:
    accommodations.end(ctx, actor, number(accommodation_id))


@router.post("/people/{person_id}/accommodations", operation_id="enterAccommodation", status_code=204)
def enter(ctx: Ctx, actor: Enterer, person_id: str, body: AccommodationBody) -> None:
    accommodations.enter(ctx, actor, number(person_id), Entered(**body.model_dump()))


@router.put("/people/{person_id}/case-manager", operation_id="setCaseManager", status_code=204)
def set_case_manager(ctx: Ctx, actor: Approver, person_id: str, body: CaseManagerIn) -> None:
    accommodations.set_case_manager(ctx, actor, number(person_id), number_or_none(body.person_id))
