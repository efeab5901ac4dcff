"""The application: the routers of every station, errors, pages, and what runs beside them."""

from __future__ import annotations

import asyncio
import contextlib
import gc
import logging
import signal
from collections.abc import AsyncIterator, Callable
from types import ModuleType

from fastapi import FastAPI
from fastapi.concurrency import run_in_threadpool
from fastapi.middleware.gzip import GZipMiddleware

from bildung.api.shared import pages, problems
from bildung.api.shared.body import BoundedBody
from bildung.api.shared.first import StudentsFirst
from bildung.api.sitting import sit
from bildung.services.shared import jobs
from bildung.services.shared.context import Context

SWEEP_SECONDS = 30
COMPRESSED_FROM = 2000  # bytes: a receipt for an answer is shorter, a grid of 2,000 students is 2 MB
log = logging.getLogger("bildung")


def _staff_part() -> ModuleType:
    """All other routes; seconds the first time."""
    from bildung.api import staff

    return staff


def create_app(ctx: Context, students_first: bool = False) -> FastAPI:
    """The application over one data folder. students_first: it answers students as soon as their routes are read, and reads what
    staff need meanwhile; what asks for that waits until it is there."""
    here = asyncio.Event()

    def add_staff_part() -> None:
        _staff_part().install(app)
        here.set()

    @contextlib.asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        by_itself = [asyncio.create_task(_load(here, add_staff_part))]
        if not ctx.worker:  # one of several does what nobody asked for
            by_itself.append(asyncio.create_task(_sweep(ctx, here)))
        # what was loaded stays: without this each full collection looks through it again, in the middle of an answer
        gc.collect()
        gc.freeze()
        yield
        gc.unfreeze()
        for task in by_itself:
            task.cancel()
        jobs.stop_all(ctx)
        ctx.bus.stop()

    app = FastAPI(
        title="Bildung",
        version="1",
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
    )
    app.state.context = ctx
    problems.install(app)
    # first: routes are tried in turn, and answers come a hundred times a second
    app.router.routes.extend(sit.router.routes)
    pages.install(app)
    if not students_first:
        add_staff_part()
    app.add_middleware(StudentsFirst, here=here)
    app.add_middleware(GZipMiddleware, minimum_size=COMPRESSED_FROM, compresslevel=4)
    app.add_middleware(BoundedBody)
    return app


async def _load(here: asyncio.Event, add_staff_part: Callable[[], None]) -> None:
    """What was not needed for the first answer."""
    if not here.is_set():
        try:
            await run_in_threadpool(_staff_part)
            add_staff_part()
        except Exception:
            log.exception("the server cannot serve staff, so it ends")
            signal.raise_signal(signal.SIGTERM)
            return
        gc.freeze()
    await run_in_threadpool(_warm_up)


def _warm_up() -> None:
    """Load what the first analysis needs while nobody waits: half a second of reading libraries."""
    from bildung.core.classical.analysis import analyse
    from bildung.core.data.responses import ItemColumn, table_from_cells
    from bildung.services.shared.passwords import password_fits

    password_fits(None, "")  # the first unknown name takes no longer than the next

    items = [ItemColumn(name=name, kind="choice", points=1.0, options=("A", "B"), keys=("A",)) for name in "abc"]
    cells = [["A" if (row + at) % 3 else "B" for at in range(3)] for row in range(70)]
    analyse(table_from_cells(items, ["A"] * 3, cells))


async def _sweep(ctx: Context, here: asyncio.Event) -> None:
    await here.wait()
    from bildung.services.upkeep import work

    await run_in_threadpool(work.begin, ctx)
    rounds = work.rounds()
    try:
        while True:
            await run_in_threadpool(rounds.look, ctx)
            await asyncio.sleep(SWEEP_SECONDS)
    finally:
        rounds.stop()
