"""Signing in by the federation's OpenID Connect provider: authorization code with PKCE, the ID token checked here.

An account of the provider is bound to a person by its issuer and subject, at the first sign-in: where the subject is the
number of the records at once, else when a coordinator has confirmed whom its user name belongs to. A user name can be
given to somebody else later; a subject cannot. Nobody is made by signing in. The `place` of a problem here is a word that
the door has a sentence for.
"""

from __future__ import annotations

import base64
import hashlib
import secrets
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

import httpx2 as httpx
import jwt
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.usernames import normal_username
from bildung.services.door.signin import Token, sign_in_person
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotAllowed, NotFound
from bildung.services.shared.settings import setting
from bildung.services.shared.standins import Standins
from bildung.store.models import Person, ProviderAccount

SECONDS = 15
ALGORITHMS = ["RS256", "ES256"]
LEEWAY = 60


@dataclass(frozen=True)
class Attempt:
    """Held in the browser between leaving and coming back. where: the page to go on to."""

    state: str
    nonce: str
    verifier: str


@dataclass(frozen=True)
class _Provider:
    address: str
    client: str
    secret: str


def begin(ctx: Context, back: str) -> tuple[str, Attempt]:
    """The provider's address to go to, and what to remember until the way back. back: our own address."""
    provider = _provider(ctx)
    found = _configuration(provider)
    attempt = Attempt(secrets.token_urlsafe(16), secrets.token_urlsafe(16), secrets.token_urlsafe(48))
    challenge = base64.urlsafe_b64encode(hashlib.sha256(attempt.verifier.encode()).digest()).rstrip(b"=").decode()
    query = {
        "response_type": "code",
        "client_id": provider.client,
        "redirect_uri": back,
        "scope": "openid profile",
        "state": attempt.state,
        "nonce": attempt.nonce,
        "code_challenge": challenge,
        "code_challenge_method": "S256",
    }
    return f"{found['authorization_endpoint']}?{urlencode(query)}", attempt


def finish(ctx: Context, back: str, attempt: Attempt, state: str, code: str, address: str, device: str) -> Token:
    """The person whom the provider names, signed in."""
    if not secrets.compare_digest(state.encode(errors="replace"), attempt.state.encode(errors="replace")):
        raise Invalid("this way back belongs to another attempt; sign in again", "attempt")
    provider = _provider(ctx)
    found = _configuration(provider)
    claims = _claims(provider, found, back, attempt, code)
    person_id, waits = ctx.store.write(lambda db: _whose(db, ctx, claims))
    if person_id is not None:
        return sign_in_person(ctx, person_id, address, device)
    if waits:
        raise NotAllowed("this school account has not been confirmed yet; ask the coordinator", "waiting")
    raise NotFound("the school account is valid, but no one here is linked to it; ask the coordinator", "unknown")


def _whose(db: Session, ctx: Context, claims: dict[str, Any]) -> tuple[int | None, bool]:
    """The person of an account, None where nobody is; and whether somebody has to confirm it."""
    issuer, subject = str(claims["iss"]), str(claims["sub"])
    account = db.scalar(
        select(ProviderAccount).where(ProviderAccount.issuer == issuer, ProviderAccount.subject == subject)
    )
    if account is not None and account.person_id is not None:
        person = db.get_one(Person, account.person_id)
        return (person.id if person.active else None), False
    known = db.scalar(select(Person).where(Person.source_id == subject, Person.active.is_(True)))
    name = normal_username(str(claims.get("preferred_username") or ""))
    proposed = db.scalar(select(Person).where(Person.username == name, Person.active.is_(True))) if name else None
    if account is None and (known or proposed):
        account = ProviderAccount(issuer=issuer, subject=subject, name=name[:120], at=ctx.clock())
        db.add(account)
        account.proposed_id = proposed.id if proposed is not None else None
    if account is None:
        return None, False
    if known is not None:
        account.person_id, account.proposed_id = known.id, None
        audit.record(
            db, ctx.clock(), None, "provider.bind", f"person:{known.id}", None, {"by": "the number of the records"}
        )
        return known.id, False
    return None, account.proposed_id is not None


def confirm(ctx: Context, actor: Actor, account_id: int, yes: bool) -> None:
    """A coordinator says that a waiting account is the person's whose user name it carries, or that it is not."""
    allowed = scope(actor, Action.ACCOUNTS_RESET)

    def work(db: Session) -> None:
        account = db.get(ProviderAccount, account_id)
        person = None
        if account is not None and account.proposed_id is not None:
            person = db.scalar(select(Person).where(Person.id == account.proposed_id, allowed))
        if account is None or person is None:
            raise NotFound("there is no such account waiting, or it is not yours to confirm")
        account.person_id, account.proposed_id = person.id if yes else None, None
        audit.record(
            db, ctx.clock(), actor.person_id, "provider.bind" if yes else "provider.refuse", f"person:{person.id}"
        )

    ctx.store.write(work)


def unbind(ctx: Context, actor: Actor, account_id: int) -> None:
    """The account signs this person in no more; at its next sign-in somebody confirms it again."""
    allowed = scope(actor, Action.ACCOUNTS_RESET)

    def work(db: Session) -> None:
        account = db.get(ProviderAccount, account_id)
        person = (
            None
            if account is None
            else db.scalar(select(Person).where(Person.id == (account.person_id or -1), allowed))
        )
        if account is None or person is None:
            raise NotFound("there is no such account, or it is not yours")
        db.delete(account)
        audit.record(db, ctx.clock(), actor.person_id, "provider.unbind", f"person:{person.id}")

    ctx.store.write(work)


def _provider(ctx: Context) -> _Provider:
    with ctx.store.read() as db:
        if not setting(db, "provider_on"):
            raise NotFound("no sign-in provider is in use here")
        address = str(setting(db, "provider_address") or ctx.own(Standins).provider)
        client, secret = setting(db, "provider_client") or "bildung", setting(db, "provider_secret") or "stand-in"
    if not address:
        raise NotFound("the sign-in provider's address is not set")
    return _Provider(address.rstrip("/"), str(client), str(secret))


def _configuration(provider: _Provider) -> dict[str, Any]:
    try:
        found: dict[str, Any] = httpx.get(
            f"{provider.address}/.well-known/openid-configuration", timeout=SECONDS
        ).json()
    except (httpx.HTTPError, ValueError):
        raise Invalid(
            "the sign-in provider cannot be reached; try again, or sign in with a password", "unreachable"
        ) from None
    if found.get("issuer", "").rstrip("/") != provider.address:
        raise Invalid("the sign-in provider calls itself by another name; ask the coordinator", "untrusted")
    return found


def _claims(provider: _Provider, found: dict[str, Any], back: str, attempt: Attempt, code: str) -> dict[str, Any]:
    """The ID token's claims, once signature, issuer, audience, time and nonce are right."""
    try:
        answer = httpx.post(
            found["token_endpoint"],
            timeout=SECONDS,
            data={
                "grant_type": "authorization_code",
                "code": code,
                "redirect_uri": back,
                "client_id": provider.client,
                "client_secret": provider.secret,
                "code_verifier": attempt.verifier,
            },
        )
        token = answer.json()["id_token"] if answer.status_code == 200 else None
        keys = jwt.PyJWKSet.from_dict(httpx.get(found["jwks_uri"], timeout=SECONDS).json())
    except (httpx.HTTPError, ValueError, KeyError, jwt.PyJWTError):
        token = None
    if token is None:
        raise Invalid("the sign-in provider did not confirm this; sign in again", "attempt")
    try:
        key = keys[jwt.get_unverified_header(token)["kid"]]
        claims: dict[str, Any] = jwt.decode(
            token,
            key=key.key,
            algorithms=ALGORITHMS,
            audience=provider.client,
            issuer=found["issuer"],
            leeway=LEEWAY,
            options={"require": ["exp", "iat", "sub", "nonce"]},
        )
    except (jwt.PyJWTError, KeyError):
        raise Invalid("the sign-in provider's answer is not to be trusted; ask the coordinator", "untrusted") from None
    if not secrets.compare_digest(str(claims["nonce"]), attempt.nonce):
        raise Invalid("the sign-in provider's answer belongs to another attempt; sign in again", "attempt")
    return claims
