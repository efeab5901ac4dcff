"""The contract of this interface, for staff who write to it."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, FastAPI, Request
from fastapi.responses import JSONResponse

from bildung.api.shared.guard import StaffGuard
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ProblemOut
from bildung.services.shared.access import Actor

PROBLEM = "ProblemOut"
ERRORS = {
    "401": "Unauthorized",
    "403": "Forbidden",
    "404": "Not Found",
    "409": "Conflict",
    "422": "Unprocessable Entity",
}
router = APIRouter(prefix="/api", tags=["contract"], route_class=LateRoute)


@router.get("/openapi.json", operation_id="contract", response_class=JSONResponse)
def contract(request: Request, actor: Annotated[Actor, Depends(StaffGuard(None))]) -> JSONResponse:
    document: dict[str, Any] = request.app.openapi()
    return JSONResponse(document)


def install(app: FastAPI) -> None:
    """Let the contract say what holds: every field of an answer is always there, also where a dataclass has a default."""
    written = app.openapi

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            document = written()
            schemas = document["components"]["schemas"]
            _errors(document)
            sent = _named(document["paths"], "requestBody", schemas)
            for name in _named(document["paths"], "responses", schemas) - sent - {PROBLEM}:
                if "properties" in schemas[name]:
                    schemas[name]["required"] = list(schemas[name]["properties"])
                    for field in schemas[name]["properties"].values():
                        field.pop("default", None)
            _pairs_as_lists(document)
        return app.openapi_schema or {}

    app.openapi = openapi  # type: ignore[method-assign]


def _errors(document: dict[str, Any]) -> None:
    """Any route may answer with a problem. Said here, once: as a model of each route it would be built 1,300 times at
    the start."""
    schemas = document["components"]["schemas"]
    schemas[PROBLEM] = ProblemOut.model_json_schema()
    for unused in ("HTTPValidationError", "ValidationError"):  # our own word for them goes out
        schemas.pop(unused, None)
    content = {"application/json": {"schema": {"$ref": f"#/components/schemas/{PROBLEM}"}}}
    for methods in document["paths"].values():
        for route in methods.values():
            answers = route["responses"] | {
                status: {"description": says, "content": content} for status, says in ERRORS.items()
            }
            route["responses"] = dict(sorted(answers.items()))


def _named(paths: dict[str, Any], part: str, schemas: dict[str, Any]) -> set[str]:
    """Names of the schemas that one part of any route reaches."""
    waiting: list[Any] = [route[part] for methods in paths.values() for route in methods.values() if part in route]
    found: set[str] = set()
    while waiting:
        value = waiting.pop()
        if isinstance(value, dict):
            name = str(value.get("$ref", "")).removeprefix("#/components/schemas/")
            if name and name not in found:
                found.add(name)
                waiting.append(schemas[name])
            waiting += value.values()
        elif isinstance(value, list):
            waiting += value
    return found


def _pairs_as_lists(value: Any) -> None:
    """A pair of two numbers is said as a list of numbers with its length, which clients read more easily."""
    if isinstance(value, dict):
        kinds = value.get("prefixItems")
        if kinds and all(kind == kinds[0] for kind in kinds):
            value["items"] = kinds[0]
            del value["prefixItems"]
        for part in value.values():
            _pairs_as_lists(part)
    elif isinstance(value, list):
        for part in value:
            _pairs_as_lists(part)
