"""Signing in and out, and who one is."""

from __future__ import annotations

import json
from typing import Annotated, Any, NamedTuple
from urllib.parse import urlencode

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import RedirectResponse

from bildung.api.door.shapes import ColleaguesOut, LetterKeys, Me, ShowIn, StaffSignIn, StudentSignIn, Welcome
from bildung.api.shared.cookies import address_of, set_cookie
from bildung.api.shared.guard import (
    OWN_COOKIE,
    SITTING_COOKIE,
    STAFF_COOKIE,
    Anybody,
    Ctx,
    StaffGuard,
    StudentGuard,
    number,
)
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import PasswordChange, SitterOut
from bildung.services.calendar import years
from bildung.services.door import accounts, firststeps, provider, signin
from bildung.services.door.accounts import SignInLine
from bildung.services.door.firststeps import FirstSteps
from bildung.services.door.signin import WhoseCodes
from bildung.services.people import colleagues
from bildung.services.shared.access import Action, Actor, Sitter
from bildung.services.shared.errors import Invalid, Problem

router = APIRouter(prefix="/api", tags=["signin"], route_class=LateRoute)
ATTEMPT_COOKIE = "bildung_attempt"
COOKIES = {"staff": STAFF_COOKIE, "family": OWN_COOKIE, "student": OWN_COOKIE, "sitting": SITTING_COOKIE}


class Stop(NamedTuple):
    """A station of the rail. letter: after `g`; none occurs twice, nor do those of stations to come. action: who sees it;
    None: everybody of staff."""

    name: str
    path: str
    letter: str
    action: Action | None


TODAY = Stop("Today", "/today", "t", None)
CALENDAR = Stop("Calendar", "/calendar", "c", Action.WINDOWS_READ)
BANK = Stop("Bank", "/bank", "b", Action.BANK_READ)
TESTS = Stop("Tests", "/tests", "e", Action.TESTS_READ)
SESSIONS = Stop("Sessions", "/sessions", "s", Action.SESSIONS_READ)
SCORING = Stop("Scoring", "/scoring", "o", Action.SCORES_GIVE)
QUALITY = Stop("Item quality", "/quality", "i", Action.QUALITY_READ)
MASTERY = Stop("Mastery", "/mastery", "m", Action.MASTERY_READ)
GROWTH = Stop("Growth", "/growth", "w", Action.GROWTH_READ)
PEOPLE = Stop("People", "/people", "p", Action.PEOPLE_READ)
STATIONS = (TODAY, CALENDAR, BANK, TESTS, SESSIONS, SCORING, QUALITY, MASTERY, GROWTH, PEOPLE)
# in the order in which a teacher meets them
AT_CLASS = (TODAY, SESSIONS, SCORING, MASTERY, GROWTH, TESTS, BANK, QUALITY, PEOPLE)


@router.get("/welcome", operation_id="welcome", dependencies=[Depends(Anybody())])
def welcome(ctx: Ctx) -> Welcome:
    return Welcome.model_validate(signin.welcome(ctx))


@router.post("/signin", operation_id="signIn", dependencies=[Depends(Anybody())])
def sign_in(body: StaffSignIn, request: Request, response: Response, ctx: Ctx) -> SitterOut:
    device = request.headers.get("user-agent", "")
    token = signin.sign_in_staff(ctx, body.username, body.password, address_of(request), device, body.end_others)
    set_cookie(request, response, COOKIES[token.kind], token.secret)
    return SitterOut(csrf=token.csrf, kind=token.kind)


@router.post("/sit/who", operation_id="whoseCodes", dependencies=[Depends(Anybody())])
def who(body: StudentSignIn, request: Request, ctx: Ctx) -> WhoseCodes:
    return signin.who(ctx, body.session_code, body.own_code, address_of(request), request.cookies.get(SITTING_COOKIE))


@router.post("/sit/join", operation_id="joinSession", dependencies=[Depends(Anybody())])
def join(body: StudentSignIn, request: Request, response: Response, ctx: Ctx) -> SitterOut:
    device = request.headers.get("user-agent", "")
    token = signin.sign_in_student(ctx, body.session_code, body.own_code, address_of(request), device, body.at_home)
    set_cookie(request, response, COOKIES[token.kind], token.secret)
    return SitterOut(csrf=token.csrf, kind=token.kind)


def _to_door(word: str | None) -> RedirectResponse:
    """The door has a sentence for each word; text of whoever made the link is never shown."""
    return RedirectResponse(f"/?{urlencode({'said': word or 'failed'})}", 303)


@router.get("/signin/provider", operation_id="toProvider", dependencies=[Depends(Anybody())])
def to_provider(request: Request, ctx: Ctx) -> RedirectResponse:
    """Off to the federation's sign-in provider; the attempt waits in a short-lived cookie of its own."""
    try:
        there, attempt = provider.begin(ctx, _back(request))
    except Invalid as error:  # somebody stands at the door: they read it there
        return _to_door(error.place)
    response = RedirectResponse(there, 303)
    # lax: the way back begins at the provider's address, and a strict cookie would stay behind
    response.set_cookie(
        ATTEMPT_COOKIE,
        json.dumps(vars(attempt)),
        max_age=600,
        httponly=True,
        samesite="lax",
        secure=request.url.scheme == "https",
        path="/api/signin",
    )
    return response


@router.get("/signin/back", operation_id="fromProvider", dependencies=[Depends(Anybody())])
def from_provider(request: Request, ctx: Ctx, state: str = "", code: str = "") -> RedirectResponse:
    """Back from the provider: to one's own pages, or to the door with what went wrong."""
    try:
        held = json.loads(request.cookies.get(ATTEMPT_COOKIE, ""))
        attempt = provider.Attempt(str(held["state"]), str(held["nonce"]), str(held["verifier"]))
    except (ValueError, KeyError, TypeError):
        return _to_door("late")
    device = request.headers.get("user-agent", "")
    try:
        token = provider.finish(ctx, _back(request), attempt, state, code, address_of(request), device)
    except Problem as error:
        response = _to_door(error.place)
    else:
        response = RedirectResponse({"staff": "/start", "family": "/family", "student": "/own"}[token.kind], 303)
        set_cookie(request, response, COOKIES[token.kind], token.secret)
    response.delete_cookie(ATTEMPT_COOKIE, path="/api/signin")
    return response


def _back(request: Request) -> str:
    return f"{str(request.base_url).rstrip('/')}/api/signin/back"


@router.post("/sit/leave", operation_id="leaveSitting", status_code=204)
def leave(sitter: Annotated[Sitter, Depends(StudentGuard())], response: Response, ctx: Ctx) -> None:
    signin.sign_out(ctx, sitter.sign_in_id)
    response.delete_cookie(SITTING_COOKIE, path="/")


@router.post("/signout", operation_id="signOut", status_code=204)
def sign_out(
    actor: Annotated[Actor, Depends(StaffGuard(None, substitutes=True))], response: Response, ctx: Ctx
) -> None:
    signin.sign_out(ctx, actor.sign_in_id)
    response.delete_cookie(STAFF_COOKIE, path="/")


@router.get("/me/first-steps", operation_id="firstSteps")
def what_to_do_first(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(None))]) -> FirstSteps:
    """Of a new school: from its people to its first session."""
    return firststeps.first_steps(ctx, actor)


@router.get("/me", operation_id="me")
def me(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(None, substitutes=True))]) -> Me:
    stations: list[Any] = [
        {"name": s.name, "path": s.path, "letter": s.letter}
        for s in _rail(actor)
        if s.action is None or actor.may(s.action)
    ]
    may = [action.value for action in Action if actor.may(action)]
    roles = sorted({grant.role for grant in actor.grants})
    zone, formats = years.zone_and_style(ctx)
    return Me(
        name=actor.name,
        roles=roles,
        csrf=actor.csrf,
        stations=stations,
        may=may,
        must_change=actor.must_change,
        letter_keys=actor.letter_keys,
        zone=zone,
        formats=formats,
    )


def _rail(actor: Actor) -> tuple[Stop, ...]:
    roles = {grant.role for grant in actor.grants}
    if actor.substitute:
        return ()
    if roles == {"proctor"}:
        return (TODAY,)
    return STATIONS if "coordinator" in roles else AT_CLASS


@router.put("/me/password", operation_id="changePassword", status_code=204)
def change_password(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(None))], body: PasswordChange) -> None:
    accounts.change_password(ctx, actor, body.old, body.new)


@router.put("/me/letter-keys", operation_id="setLetterKeys", status_code=204)
def set_letter_keys(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(None))], body: LetterKeys) -> None:
    accounts.set_letter_keys(ctx, actor, body.on)


@router.get("/me/sign-ins", operation_id="listSignIns")
def list_sign_ins(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(None))]) -> list[SignInLine]:
    return accounts.list_sign_ins(ctx, actor)


@router.delete("/me/sign-ins/{sign_in_id}", operation_id="endSignIn", status_code=204)
def end_sign_in(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(None))], sign_in_id: str) -> None:
    accounts.end_sign_in(ctx, actor, number(sign_in_id))


@router.get("/me/colleagues", operation_id="listColleagues")
def list_colleagues(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(Action.CLASSES_READ))]) -> ColleaguesOut:
    lines, could = colleagues.colleagues(ctx, actor)
    return ColleaguesOut.model_validate({"colleagues": lines, "could_ask": could})


@router.post("/me/colleagues", operation_id="showClasses", status_code=204)
def show_classes(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(Action.CLASSES_RUN))], body: ShowIn) -> None:
    colleagues.show_classes(ctx, actor, number(body.person_id))


@router.delete("/me/colleagues/{consent_id}", operation_id="hideClasses", status_code=204)
def hide_classes(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(Action.CLASSES_RUN))], consent_id: str) -> None:
    colleagues.hide_classes(ctx, actor, number(consent_id))
