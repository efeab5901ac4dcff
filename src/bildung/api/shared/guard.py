"""Who asks, and whether the route is for them. Every route names its guard; a test walks them all."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Query, Request
from fastapi.concurrency import run_in_threadpool

from bildung.services.door import signin
from bildung.services.shared.access import Action, Actor, Own, Sitter
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotAllowed, NotSignedIn, Problem

STAFF_COOKIE, SITTING_COOKIE, OWN_COOKIE = "bildung_staff", "bildung_sitting", "bildung_own"
CSRF_HEADER = "x-bildung-csrf"
SAFE = ("GET", "HEAD", "OPTIONS")


def context(request: Request) -> Context:
    ctx: Context = request.app.state.context
    return ctx


async def _context(request: Request) -> Context:
    """The same as a dependency: async, since what is not is sent to a thread for each request."""
    return context(request)


Ctx = Annotated[Context, Depends(_context)]


class StaffGuard:
    """A signed-in member of staff whose role includes the action or the other one; None: any staff. substitutes: also whoever
    opened one session with its code."""

    def __init__(self, action: Action | None, other: Action | None = None, substitutes: bool = False) -> None:
        self.action, self.other, self.substitutes = action, other, substitutes

    def __call__(self, request: Request) -> Actor:
        actor = signin.actor_of(context(request), request.cookies.get(STAFF_COOKIE))
        if actor.substitute and self.action is None and not self.substitutes:
            raise NotAllowed("a substitute's code opens one session and nothing else")
        if self.action is not None and not (
            actor.may(self.action) or (self.other is not None and actor.may(self.other))
        ):
            raise NotAllowed(f"your role does not include {self.action.value.replace('.', ': ')}")
        if self.action is not None and actor.must_change:
            raise NotAllowed("your password was given to you; choose one of your own first")
        check_csrf(request, actor.csrf)
        return actor


class StudentGuard:
    """A student at a sitting."""

    def __call__(self, request: Request) -> Sitter:
        sitter = signin.sitter_of(context(request), request.cookies.get(SITTING_COOKIE))
        check_csrf(request, sitter.csrf)
        return sitter


class SavingGuard(StudentGuard):
    """A student whose answers are saved: who it is is kept at hand, and whether the sign-in still holds is looked at where
    the answers are written. A hundred answers a second cost no reading of the store for it."""

    async def __call__(self, request: Request) -> Sitter:  # type: ignore[override]
        ctx, secret = context(request), request.cookies.get(SITTING_COOKIE)
        sitter = signin.sitter_at_hand(ctx, secret)
        if sitter is None:
            sitter = await run_in_threadpool(signin.sitter_of, ctx, secret)
        check_csrf(request, sitter.csrf)
        return sitter


class OwnPageGuard:
    """A student at their own page, or a family. changing: also while the password is not their own yet."""

    def __init__(self, kind: str, changing: bool = False) -> None:
        self.kind, self.changing = kind, changing

    def __call__(self, request: Request) -> Own:
        own = signin.own_of(context(request), request.cookies.get(OWN_COOKIE), self.kind)
        check_csrf(request, own.csrf)
        if own.must_change and not self.changing:
            raise NotAllowed("your password was given to you; choose one of your own first")
        return own


class SignedIn:
    """Whoever is signed in in any way: staff, a student at a sitting, a student at their own page, a family. A substitute sees
    no picture of a test."""

    def __call__(self, request: Request) -> None:
        ctx = context(request)
        tries = (
            lambda: StaffGuard(None)(request),
            lambda: signin.sitter_of(ctx, request.cookies.get(SITTING_COOKIE)),
            lambda: signin.own_of(ctx, request.cookies.get(OWN_COOKIE), "student"),
            lambda: signin.own_of(ctx, request.cookies.get(OWN_COOKIE), "family"),
        )
        for attempt in tries:
            try:
                attempt()
                return
            except Problem:
                continue
        raise NotSignedIn("sign in first")


class Anybody:
    """Open before signing in. Writes must come from our own pages."""

    def __call__(self, request: Request) -> None:
        if request.method not in SAFE and request.headers.get("sec-fetch-site", "same-origin") not in (
            "same-origin",
            "none",
        ):
            raise NotAllowed("this request came from another site")


def check_csrf(request: Request, csrf: str) -> None:
    if request.method not in SAFE and request.headers.get(CSRF_HEADER) != csrf:
        raise NotAllowed("the page is out of date; reload it and try again")


Number = Annotated[int, Query(ge=-(2**31), le=2**31 - 1)]
"""A whole number in an address: within what every store and device counts in."""


def number(id: str) -> int:
    """An id as it came over the wire; one that is no number belongs to nothing."""
    return int(id) if id.isascii() and id.isdigit() and len(id) < 18 else -1


def number_or_none(id: str | None) -> int | None:
    """An id that may be left out, or be empty."""
    return None if not id else number(id)
