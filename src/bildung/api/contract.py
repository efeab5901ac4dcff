"""The contract of this interface, for staff who write to it."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request
from fastapi.responses import JSONResponse

from bildung.api.guard import StaffGuard
from bildung.services.shared.access import Actor

router = APIRouter(prefix="/api", tags=["contract"])


@router.get("/openapi.json", operation_id="contract", response_class=JSONResponse)
def contract(request: Request, actor: Annotated[Actor, Depends(StaffGuard(None))]) -> JSONResponse:
    document: dict[str, Any] = request.app.openapi()
    return JSONResponse(document)
