"""A stand-in for a federation's sign-in provider: OpenID Connect with code and PKCE, and a list instead of passwords."""

from __future__ import annotations

import base64
import hashlib
import html
import json
import secrets
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import jwt
from cryptography.hazmat.primitives.asymmetric import rsa
from fastapi import FastAPI, Form, HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse

CLIENT, SECRET = "bildung", "stand-in"
KEY_ID = "stand-in"
LIFETIME = 300


@dataclass(frozen=True)
class Account:
    """subject: the provider's own id of the person. what: shown on its page."""

    subject: str
    username: str
    name: str
    what: str


@dataclass(frozen=True, kw_only=True)
class _Code:
    account: Account
    client: str
    redirect: str
    nonce: str
    challenge: str


def create_provider(accounts: Callable[[], Sequence[Account]]) -> FastAPI:
    """accounts: asked anew for each page, so that the list is as the school's is now."""
    app = FastAPI(title="Sign-in provider (stand-in)", docs_url=None, redoc_url=None, openapi_url=None)
    key = rsa.generate_private_key(public_exponent=65537, key_size=2048)
    codes: dict[str, _Code] = {}

    def issuer(request: Request) -> str:
        return f"{request.url.scheme}://{request.url.netloc}"

    @app.get("/.well-known/openid-configuration")
    def configuration(request: Request) -> dict[str, Any]:
        here = issuer(request)
        return {
            "issuer": here,
            "authorization_endpoint": f"{here}/authorize",
            "token_endpoint": f"{here}/token",
            "jwks_uri": f"{here}/keys",
            "response_types_supported": ["code"],
            "subject_types_supported": ["public"],
            "id_token_signing_alg_values_supported": ["RS256"],
            "code_challenge_methods_supported": ["S256"],
        }

    @app.get("/keys")
    def keys() -> dict[str, Any]:
        public = json.loads(jwt.algorithms.RSAAlgorithm.to_jwk(key.public_key()))
        return {"keys": [{**public, "kid": KEY_ID, "use": "sig", "alg": "RS256"}]}

    @app.get("/authorize", response_class=HTMLResponse)
    def authorize(
        client_id: str, redirect_uri: str, state: str, nonce: str, code_challenge: str, response_type: str = "code"
    ) -> str:
        if client_id != CLIENT or response_type != "code":
            raise HTTPException(400, "unknown client")
        hidden = "".join(
            f'<input type=hidden name="{name}" value="{html.escape(value)}">'
            for name, value in (
                ("redirect_uri", redirect_uri),
                ("state", state),
                ("nonce", nonce),
                ("challenge", code_challenge),
            )
        )
        rows = "".join(
            f'<p><button name=subject value="{html.escape(a.subject)}">{html.escape(a.name)}</button> {html.escape(a.what)}</p>'
            for a in accounts()
        )
        return (
            "<!doctype html><meta charset=utf-8><meta name=viewport content='width=device-width'><title>Sign-in provider (stand-in)</title>"
            "<body style='font: 16px/1.5 sans-serif; max-width: 32rem; margin: 2rem auto; padding: 0 1rem'>"
            "<h1>School account</h1><p>A stand-in for the federation's sign-in provider. Who are you?</p>"
            f"<form method=post action=/chosen>{hidden}{rows}</form>"
        )

    @app.post("/chosen")
    def chosen(
        subject: str = Form(),
        redirect_uri: str = Form(),
        state: str = Form(),
        nonce: str = Form(),
        challenge: str = Form(),
    ) -> RedirectResponse:
        account = next((a for a in accounts() if a.subject == subject), None)
        if account is None:
            raise HTTPException(400, "nobody of that name")
        code = secrets.token_urlsafe(24)
        codes[code] = _Code(account=account, client=CLIENT, redirect=redirect_uri, nonce=nonce, challenge=challenge)
        return RedirectResponse(f"{redirect_uri}?code={code}&state={state}", 303)

    @app.post("/token")
    def token(
        request: Request,
        code: str = Form(),
        redirect_uri: str = Form(),
        client_id: str = Form(),
        client_secret: str = Form(),
        code_verifier: str = Form(),
        grant_type: str = Form(),
    ) -> dict[str, Any]:
        held = codes.pop(code, None)
        digest = base64.urlsafe_b64encode(hashlib.sha256(code_verifier.encode()).digest()).rstrip(b"=").decode()
        if (
            held is None
            or grant_type != "authorization_code"
            or (client_id, client_secret) != (CLIENT, SECRET)
            or held.redirect != redirect_uri
            or held.challenge != digest
        ):
            raise HTTPException(400, "invalid_grant")
        now = int(time.time())
        claims = {
            "iss": issuer(request),
            "sub": held.account.subject,
            "aud": CLIENT,
            "iat": now,
            "exp": now + LIFETIME,
            "nonce": held.nonce,
            "preferred_username": held.account.username,
            "name": held.account.name,
        }
        signed = jwt.encode(claims, key, algorithm="RS256", headers={"kid": KEY_ID})
        return {
            "access_token": secrets.token_urlsafe(16),
            "token_type": "Bearer",
            "id_token": signed,
            "expires_in": LIFETIME,
        }

    return app
