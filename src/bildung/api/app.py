"""The application: routers, errors, pages, and what runs beside them."""

from __future__ import annotations

import asyncio
import contextlib
import gc
from collections.abc import AsyncIterator
from typing import Any

from fastapi import FastAPI
from fastapi.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from bildung.api import (
    bank,
    building,
    companions,
    contract,
    federation,
    frameworks,
    organisation,
    own,
    pages,
    paper,
    people,
    problems,
    quality,
    reports,
    sessions,
    signin,
    sit,
    tests,
)
from bildung.api.schemas import ProblemOut
from bildung.services.answers.itemhistory import refresh as refresh_history
from bildung.services.quality.lines import keep_asked, keep_current
from bildung.services.quality.reports import resume as resume_reports
from bildung.services.rosters.fromsystem import nightly
from bildung.services.sessions.running import close_overdue
from bildung.services.shared.context import Context
from bildung.services.shared.staging import MAX_UPLOAD
from bildung.services.sitting.taking import hand_in_overdue
from bildung.services.upkeep.backups import nightly_backup
from bildung.services.upkeep.retention import sweep as sweep_old
from bildung.services.upkeep.rounds import Upkeep

SWEEP_SECONDS = 30
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


def create_app(ctx: Context) -> FastAPI:
    @contextlib.asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        await run_in_threadpool(resume_reports, ctx)
        sweep = asyncio.create_task(_sweep(ctx))
        warm = asyncio.create_task(run_in_threadpool(_warm_up))
        # what was loaded stays: without this each full collection looks through it again, in the middle of an answer
        gc.collect()
        gc.freeze()
        yield
        gc.unfreeze()
        sweep.cancel()
        warm.cancel()
        ctx.bus.stop()

    errors: dict[int | str, dict[str, Any]] = {status: {"model": ProblemOut} for status in (401, 403, 404, 409, 422)}
    app = FastAPI(
        title="Bildung", version="1", lifespan=lifespan, docs_url=None, redoc_url=None,
        openapi_url=None, responses=errors,
    )  # fmt: skip
    app.state.context = ctx
    problems.install(app)
    for module in (
        signin,
        own,
        paper,
        people,
        organisation,
        federation,
        frameworks,
        bank,
        building,
        companions,
        tests,
        sessions,
        sit,
        quality,
        reports,
    ):
        app.include_router(module.router)
    app.include_router(bank.media_router)
    app.include_router(contract.router)
    contract.install(app)
    pages.install(app)
    app.add_middleware(BoundedBody)
    return app


def _warm_up() -> None:
    """Load what the first analysis needs while nobody waits: half a second of reading libraries."""
    from bildung.core.classical.analysis import analyse
    from bildung.core.data.responses import ItemColumn, table_from_cells

    items = [ItemColumn(name, "choice", 1.0, ("A", "B"), ("A",)) for name in "abc"]
    cells = [["A" if (row + at) % 3 else "B" for at in range(3)] for row in range(70)]
    analyse(table_from_cells(items, ["A"] * 3, cells))


def judge_what_closed(ctx: Context) -> None:
    """The history of items, and the line of each test, before anybody asks for them."""
    if refresh_history(ctx):
        keep_current(ctx)


async def _sweep(ctx: Context) -> None:
    """Sessions past their end close, a backup is made and the records system asked at night, and once a day what is kept
    too long goes."""
    upkeep = Upkeep(
        [close_overdue, hand_in_overdue, judge_what_closed, keep_asked, nightly, nightly_backup], [sweep_old]
    )
    while True:
        await run_in_threadpool(upkeep.look, ctx)
        await asyncio.sleep(SWEEP_SECONDS)
