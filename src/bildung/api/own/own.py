"""Students at their own page, families at theirs, and newcomers at the door of a class."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends, Request, Response

from bildung.api.own.shapes import AskIn, TicketIn, TicketOut, TicketStateOut
from bildung.api.shared.cookies import address_of, set_cookie
from bildung.api.shared.guard import OWN_COOKIE, SITTING_COOKIE, Anybody, Ctx, OwnPageGuard, number
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import PasswordChange, ReviewOut, SitterOut
from bildung.services.door import accounts, signin
from bildung.services.own import ownpage
from bildung.services.own.ownpage import OwnPage
from bildung.services.people import classes
from bildung.services.shared.access import Own
from bildung.services.sitting import reviewing

router = APIRouter(prefix="/api", tags=["own"], route_class=LateRoute)
StudentPage = Annotated[Own, Depends(OwnPageGuard("student"))]
FamilyPage = Annotated[Own, Depends(OwnPageGuard("family"))]
FamilyChanging = Annotated[Own, Depends(OwnPageGuard("family", changing=True))]


@router.get("/own", operation_id="ownPage")
def own_page(ctx: Ctx, own: StudentPage) -> OwnPage:
    return ownpage.own_page(ctx, own, False)


@router.post("/own/sessions/{session_id}/join", operation_id="joinFromOwn")
def join(ctx: Ctx, own: StudentPage, session_id: str, request: Request, response: Response) -> SitterOut:
    token = signin.join_session(ctx, own, number(session_id), address_of(request))
    set_cookie(request, response, SITTING_COOKIE, token.secret)
    return SitterOut(csrf=token.csrf, kind=token.kind)


@router.get("/own/sessions/{session_id}/review", operation_id="ownReview")
def review(ctx: Ctx, own: StudentPage, session_id: str) -> ReviewOut:
    return ReviewOut.model_validate(reviewing.review(ctx, own.person_id, number(session_id)))


@router.post("/own/signout", operation_id="ownSignOut", status_code=204)
def sign_out(ctx: Ctx, own: StudentPage, response: Response) -> None:
    signin.sign_out(ctx, own.sign_in_id)
    response.delete_cookie(OWN_COOKIE, path="/")


@router.get("/family", operation_id="familyPage")
def family_page(ctx: Ctx, own: FamilyChanging) -> OwnPage:
    """While the password is not their own yet, nobody's name but theirs."""
    page = ownpage.own_page(ctx, own, True)
    return replace(page, children=[]) if own.must_change else page


@router.get("/family/children/{child}/sessions/{session_id}/review", operation_id="familyReview")
def family_review(ctx: Ctx, own: FamilyPage, child: str, session_id: str) -> ReviewOut:
    """A child's released results of one test, for a family that may see them."""
    return ReviewOut.model_validate(reviewing.review_child(ctx, own.person_id, number(child), number(session_id)))


@router.put("/family/password", operation_id="familyPassword", status_code=204)
def password(ctx: Ctx, own: FamilyChanging, body: PasswordChange) -> None:
    accounts.change_password(ctx, own, body.old, body.new)


@router.post("/family/signout", operation_id="familySignOut", status_code=204)
def family_sign_out(ctx: Ctx, own: FamilyChanging, response: Response) -> None:
    signin.sign_out(ctx, own.sign_in_id)
    response.delete_cookie(OWN_COOKIE, path="/")


@router.post("/join", operation_id="askToJoin", dependencies=[Depends(Anybody())])
def ask(ctx: Ctx, body: AskIn, request: Request) -> TicketOut:
    return TicketOut(ticket=classes.ask_to_join(ctx, body.code, body.given, body.family, address_of(request)))


@router.post("/join/state", operation_id="joinState", dependencies=[Depends(Anybody())])
def state(ctx: Ctx, body: TicketIn) -> TicketStateOut:
    return TicketStateOut.model_validate(classes.ticket_state(ctx, body.ticket))
