"""Server-sent events: telling an open page that something moved."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator, Awaitable, Callable
from datetime import timedelta
from typing import Any

from fastapi import Request
from fastapi.responses import StreamingResponse

from bildung.services.shared.context import Context
from bildung.services.shared.errors import Problem, TooMany

RECHECK_SECONDS = 15.0
MOST_LISTENING = 5000  # streams of one server
RETRY = timedelta(minutes=1)
GATHER_SECONDS = 0.15
REST_SECONDS = 0.6  # after each: a page reads itself again, and many that do so all the time cost more than answers


def event(name: str, data: dict[str, Any]) -> str:
    return f"event: {name}\ndata: {json.dumps(data)}\n\n"


def event_stream(ctx: Context, events: AsyncIterator[str]) -> StreamingResponse:
    """TooMany where more pages listen than the server bears; such a page is no worse off than one without a connection."""
    if ctx.bus.listening() >= MOST_LISTENING:
        raise TooMany("too many pages are open at once; reload this one to see what is new", retry_after=RETRY)
    return StreamingResponse(
        events, media_type="text/event-stream", headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    )


async def moved_events(
    request: Request, ctx: Context, topic: str, still_allowed: Callable[[], Awaitable[None]] | None = None
) -> AsyncIterator[str]:
    """`moved` whenever something is published under the topic, a burst as one message. still_allowed: asked again now
    and then while the stream lives; a Problem ends it. The stream ends when the server stops or the page goes away."""
    with ctx.bus.listen(topic) as queue:
        yield event("open", {})
        while not ctx.bus.stopping and not await request.is_disconnected():
            try:
                await asyncio.wait_for(queue.get(), RECHECK_SECONDS)
            except TimeoutError:
                if still_allowed is not None:
                    try:
                        await still_allowed()
                    except Problem:
                        yield event("end", {"why": "signed out or no longer yours"})
                        return
                yield ": still here\n\n"
                continue
            if ctx.bus.stopping:
                return
            await asyncio.sleep(GATHER_SECONDS)  # thirty students answer in bursts
            while not queue.empty():
                queue.get_nowait()
            yield event("moved", {})
            await asyncio.sleep(REST_SECONDS)
