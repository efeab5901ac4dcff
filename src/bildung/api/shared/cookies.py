"""Where a request comes from, and the cookies that it is given."""

from __future__ import annotations

from fastapi import Request, Response


def address_of(request: Request) -> str:
    return request.client.host if request.client else ""


def set_cookie(request: Request, response: Response, name: str, secret: str) -> None:
    response.set_cookie(name, secret, httponly=True, samesite="strict", secure=request.url.scheme == "https", path="/")
