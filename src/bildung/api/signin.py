"""Signing in and out, and who one is."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request, Response

from bildung.api.guard import SITTING_COOKIE, STAFF_COOKIE, Anybody, Ctx, Staff, Student, number
from bildung.api.schemas import Me, PasswordChange, SignInOut, SitterOut, StaffSignIn, StudentSignIn, Welcome
from bildung.services import accounts, signin
from bildung.services.access import Action, Actor, Sitter

router = APIRouter(prefix="/api", tags=["signin"])
STATIONS = (
    ("Bank", "/bank", Action.BANK_READ),
    ("Tests", "/tests", Action.TESTS_READ),
    ("Sessions", "/sessions", Action.SESSIONS_READ),
    ("Item quality", "/quality", Action.QUALITY_READ),
    ("People", "/people", Action.PEOPLE_READ),
)


def _address(request: Request) -> str:
    return request.client.host if request.client else ""


def _set(request: Request, response: Response, name: str, secret: str) -> None:
    response.set_cookie(name, secret, httponly=True, samesite="strict", secure=request.url.scheme == "https", path="/")


@router.get("/welcome", operation_id="welcome", dependencies=[Depends(Anybody())])
def welcome(ctx: Ctx) -> Welcome:
    return Welcome.model_validate(signin.welcome(ctx))


@router.post("/signin", operation_id="signIn", dependencies=[Depends(Anybody())])
def sign_in(body: StaffSignIn, request: Request, response: Response, ctx: Ctx) -> SitterOut:
    device = request.headers.get("user-agent", "")
    token = signin.sign_in_staff(ctx, body.username, body.password, _address(request), device)
    _set(request, response, STAFF_COOKIE, token.secret)
    return SitterOut(csrf=token.csrf)


@router.post("/sit/join", operation_id="joinSession", dependencies=[Depends(Anybody())])
def join(body: StudentSignIn, request: Request, response: Response, ctx: Ctx) -> SitterOut:
    token = signin.sign_in_student(ctx, body.session_code, body.own_code, _address(request))
    _set(request, response, SITTING_COOKIE, token.secret)
    return SitterOut(csrf=token.csrf)


@router.post("/sit/leave", operation_id="leaveSitting", status_code=204)
def leave(sitter: Annotated[Sitter, Depends(Student())], response: Response, ctx: Ctx) -> None:
    signin.sign_out(ctx, sitter.sign_in_id)
    response.delete_cookie(SITTING_COOKIE, path="/")


@router.post("/signout", operation_id="signOut", status_code=204)
def sign_out(actor: Annotated[Actor, Depends(Staff(None))], response: Response, ctx: Ctx) -> None:
    signin.sign_out(ctx, actor.sign_in_id)
    response.delete_cookie(STAFF_COOKIE, path="/")


@router.get("/me", operation_id="me")
def me(actor: Annotated[Actor, Depends(Staff(None))]) -> Me:
    stations: list[Any] = [{"name": name, "path": path} for name, path, action in STATIONS if actor.may(action)]
    may = [action.value for action in Action if actor.may(action)]
    roles = sorted({grant.role for grant in actor.grants})
    return Me(
        name=actor.name, roles=roles, csrf=actor.csrf, stations=stations, may=may, must_change=actor.must_change
    )  # fmt: skip


@router.put("/me/password", operation_id="changePassword", status_code=204)
def change_password(ctx: Ctx, actor: Annotated[Actor, Depends(Staff(None))], body: PasswordChange) -> None:
    accounts.change_password(ctx, actor, body.old, body.new)


@router.get("/me/sign-ins", operation_id="listSignIns")
def list_sign_ins(ctx: Ctx, actor: Annotated[Actor, Depends(Staff(None))]) -> list[SignInOut]:
    return [SignInOut.model_validate(line) for line in accounts.list_sign_ins(ctx, actor)]


@router.delete("/me/sign-ins/{sign_in_id}", operation_id="endSignIn", status_code=204)
def end_sign_in(ctx: Ctx, actor: Annotated[Actor, Depends(Staff(None))], sign_in_id: str) -> None:
    accounts.end_sign_in(ctx, actor, number(sign_in_id))
