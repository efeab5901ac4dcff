"""The bound on what a request may bring."""

from __future__ import annotations

from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from bildung.services.shared.staging import MAX_UPLOAD

MAX_BODY = MAX_UPLOAD + 1024 * 1024


class BoundedBody:
    """Refuses a request body past the limit while it comes in, whatever its headers say."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        seen = 0

        async def bounded() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > MAX_BODY:
                raise HTTPException(413, f"at most {MAX_BODY // 2**20} MB are taken at once")
            return message

        await self.app(scope, bounded, send)
