"""Errors as RFC 9457 problem details; the only place that knows how each is told."""

from __future__ import annotations

import logging
import secrets

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import DatabaseError, IntegrityError
from starlette.exceptions import HTTPException

from bildung.core.errors import Refused
from bildung.formats.problem import ImportProblem
from bildung.services.shared.errors import Problem, TooMany

TITLES = {404: "Not found", 405: "Not found", 413: "Too large"}
log = logging.getLogger("bildung")


def problem(status: int, title: str, detail: str, place: str | None = None) -> JSONResponse:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, "place": place}
    return JSONResponse(body, status, media_type="application/problem+json")


def store_trouble(what: str) -> str | None:
    """What the store's refusal means for the person, and what to do; None where it is a fault of ours."""
    for words, said in (
        (
            ("disk is full", "disk full"),
            "the server's disk is full, so nothing can be saved; the server administrator must free space",
        ),
        (
            ("readonly", "read-only"),
            "the server's data folder became read-only; the server administrator must restore write access",
        ),
        (("locked", "busy"), "another program holds the server's data; try again in a moment"),
        (
            ("malformed", "not a database", "corrupt"),
            "the server's data are damaged; the server administrator must stop it and restore a backup",
        ),
        (
            ("disk i/o error", "unable to open"),
            "the server's disk does not answer; the server administrator must check it",
        ),
    ):
        if any(word in what.lower() for word in words):
            return said
    return None


def install(app: FastAPI) -> None:
    @app.exception_handler(Problem)
    def said(request: Request, error: Problem) -> JSONResponse:
        answer = problem(error.status, error.title, error.detail, error.place)
        if isinstance(error, TooMany) and error.retry_after:
            answer.headers["Retry-After"] = str(max(1, round(error.retry_after.total_seconds())))
        return answer

    @app.exception_handler(ImportProblem)
    def file(request: Request, error: ImportProblem) -> JSONResponse:
        return problem(422, "The file cannot be read", str(error), error.file)

    @app.exception_handler(Refused)
    def refused(request: Request, error: Refused) -> JSONResponse:
        return problem(422, "Not accepted", str(error))

    @app.exception_handler(RequestValidationError)
    def malformed(request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
        return problem(422, "Not accepted", f"{place or 'request'}: {first['msg']}", place)

    @app.exception_handler(HTTPException)
    def http(request: Request, error: HTTPException) -> JSONResponse:
        return problem(error.status_code, TITLES.get(error.status_code, "Not accepted"), str(error.detail))

    @app.exception_handler(UnicodeEncodeError)
    def half(request: Request, error: UnicodeEncodeError) -> JSONResponse:
        return problem(422, "Not accepted", "a text holds half of a character (a lone surrogate); type it again")

    @app.exception_handler(DatabaseError)
    def store(request: Request, error: DatabaseError) -> JSONResponse:
        if isinstance(error, IntegrityError):
            return meanwhile(request, error)
        said = store_trouble(str(error.orig))
        if said is None:
            return unforeseen(request, error)
        log.error("the store refused at %s %s: %s", request.method, request.url.path, error.orig)
        return problem(503, "Not saved", said)

    @app.exception_handler(OverflowError)
    def too_large(request: Request, error: OverflowError) -> JSONResponse:
        return problem(422, "Not accepted", "a number is larger than this can count")

    @app.exception_handler(IntegrityError)
    def meanwhile(request: Request, error: IntegrityError) -> JSONResponse:
        # services look before they write; what still fails here was taken away or put there between the two
        log.warning("a clash at %s", request.url.path, exc_info=error)
        return problem(
            409,
            "Changed meanwhile",
            "something this refers to was changed meanwhile; nothing was done, load the page again",
        )

    @app.exception_handler(Exception)
    def unforeseen(request: Request, error: Exception) -> JSONResponse:
        number = secrets.token_hex(4).upper()
        log.error("unforeseen error, incident %s, at %s %s", number, request.method, request.url.path, exc_info=error)
        detail = f"nothing was changed; try again, or tell the server administrator the incident number {number}"
        return problem(500, "Something went wrong here", detail, number)
