"""How many pages wait to be computed, told to staff whose page takes its time. Students are never in it."""

from __future__ import annotations

from typing import Annotated, Protocol

from fastapi import APIRouter, Depends, Request
from pydantic import BaseModel

from bildung.api.shared.guard import StaffGuard
from bildung.services.shared.access import Actor

router = APIRouter(prefix="/api", tags=["shared"])


class Queue(Protocol):
    def waiting(self) -> int:
        """Pages that nobody has begun to compute."""


class PagesWaiting(BaseModel):
    """says: in words; empty where nothing waits."""

    pages: int
    says: str


@router.get("/waiting", operation_id="waitingPages")
def waiting_pages(request: Request, actor: Annotated[Actor, Depends(StaffGuard(None))]) -> PagesWaiting:
    queue: Queue | None = getattr(request.app.state, "queue", None)
    pages = queue.waiting() if queue else 0
    are = "page is" if pages == 1 else "pages are"
    return PagesWaiting(pages=pages, says=f"{pages} {are} waiting to be calculated." if pages else "")
