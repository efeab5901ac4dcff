"""Signing in by the federation's OpenID Connect provider: authorization code with PKCE, the ID token checked here.

Who comes back is somebody here already: by the token's user name, else by its subject as the number of the records.
Nobody is made by signing in.
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

from bildung.services.context import Context
from bildung.services.errors import Invalid, NotFound
from bildung.services.settings import setting
from bildung.services.signin import Token, sign_in_person
from bildung.store.models import Person

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
        "response_type": "code", "client_id": provider.client, "redirect_uri": back, "scope": "openid profile",
        "state": attempt.state, "nonce": attempt.nonce, "code_challenge": challenge, "code_challenge_method": "S256",
    }  # fmt: skip
    return f"{found['authorization_endpoint']}?{urlencode(query)}", attempt


def finish(ctx: Context, back: str, attempt: Attempt, state: str, code: str, address: str, device: str) -> Token:
    """The person whom the provider names, signed in."""
    if not secrets.compare_digest(state, attempt.state):
        raise Invalid("this way back belongs to another attempt; sign in again", "state")
    provider = _provider(ctx)
    found = _configuration(provider)
    claims = _claims(provider, found, back, attempt, code)
    with ctx.store.read() as db:
        person = _person(db, claims)
        if person is None:
            raise NotFound("the school account is right, but nobody here belongs to it; ask the coordinator")
        person_id = person.id
    return sign_in_person(ctx, person_id, address, device)


def _person(db: Session, claims: dict[str, Any]) -> Person | None:
    name, subject = str(claims.get("preferred_username") or ""), str(claims["sub"])
    for column, value in ((Person.username, name), (Person.source_id, subject)):
        if value:
            person = db.scalar(select(Person).where(column == value, Person.active.is_(True)))
            if person is not None:
                return person
    return None


def _provider(ctx: Context) -> _Provider:
    with ctx.store.read() as db:
        if not setting(db, "provider_on"):
            raise NotFound("no sign-in provider is in use here")
        address = str(setting(db, "provider_address") or ctx.cache.get("standin_provider", ""))
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
        raise Invalid("the sign-in provider cannot be reached; try again, or sign in with a password") from None
    if found.get("issuer", "").rstrip("/") != provider.address:
        raise Invalid("the sign-in provider calls itself by another name; ask the coordinator")
    return found


def _claims(provider: _Provider, found: dict[str, Any], back: str, attempt: Attempt, code: str) -> dict[str, Any]:
    """The ID token's claims, once signature, issuer, audience, time and nonce are right."""
    try:
        answer = httpx.post(
            found["token_endpoint"], timeout=SECONDS,
            data={"grant_type": "authorization_code", "code": code, "redirect_uri": back, "client_id": provider.client,
                  "client_secret": provider.secret, "code_verifier": attempt.verifier},
        )  # fmt: skip
        token = answer.json()["id_token"] if answer.status_code == 200 else None
        keys = jwt.PyJWKSet.from_dict(httpx.get(found["jwks_uri"], timeout=SECONDS).json())
    except (httpx.HTTPError, ValueError, KeyError, jwt.PyJWTError):
        token = None
    if token is None:
        raise Invalid("the sign-in provider did not confirm this; sign in again")
    try:
        key = keys[jwt.get_unverified_header(token)["kid"]]
        claims: dict[str, Any] = jwt.decode(
            token, key=key.key, algorithms=ALGORITHMS, audience=provider.client, issuer=found["issuer"], leeway=LEEWAY,
            options={"require": ["exp", "iat", "sub", "nonce"]},
        )  # fmt: skip
    except (jwt.PyJWTError, KeyError):
        raise Invalid("the sign-in provider's answer is not to be trusted; ask the coordinator") from None
    if not secrets.compare_digest(str(claims["nonce"]), attempt.nonce):
        raise Invalid("the sign-in provider's answer belongs to another attempt; sign in again")
    return claims
