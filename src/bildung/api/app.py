"""The application: the routers of every station, errors, pages, and what runs beside them."""

from __future__ import annotations

import asyncio
import contextlib
import gc
from collections.abc import AsyncIterator

from fastapi import APIRouter, FastAPI
from fastapi.concurrency import run_in_threadpool
from fastapi.middleware.gzip import GZipMiddleware

from bildung.api.bank import bank, frameworks
from bildung.api.building import assembling, companions, forms, paper
from bildung.api.calendar import pacing, windows, year
from bildung.api.corrections import corrections
from bildung.api.door import signin
from bildung.api.live import live
from bildung.api.own import own
from bildung.api.participation import participation
from bildung.api.people import accommodations, classes, directory, groups, settings
from bildung.api.planning import planning
from bildung.api.quality import quality, reports
from bildung.api.releasing import releasing
from bildung.api.rosters import fromsystem, rosters
from bildung.api.scoring import scoring
from bildung.api.sessions import sessions
from bildung.api.shared import contract, pages, problems, waiting
from bildung.api.shared.body import BoundedBody
from bildung.api.sitting import sit
from bildung.api.today import today
from bildung.services.shared import jobs
from bildung.services.shared.context import Context
from bildung.services.upkeep import work

SWEEP_SECONDS = 30
COMPRESSED_FROM = 2000  # bytes: a receipt for an answer is shorter, a grid of 2,000 students is 2 MB
ROUTERS: tuple[APIRouter, ...] = (
    sit.router,  # first: routes are tried in turn, and answers of students come a hundred times a second
    signin.router,
    own.router,
    live.router,
    scoring.router,
    corrections.router,
    releasing.router,
    accommodations.router,
    rosters.router,  # before the directory, whose /api/people/{person_id} would take its addresses
    directory.router,
    classes.router,
    groups.router,
    settings.router,
    fromsystem.router,
    year.router,
    pacing.router,
    windows.router,
    planning.router,
    frameworks.router,
    bank.router,
    bank.media_router,
    paper.router,
    assembling.router,
    companions.router,
    forms.router,
    sessions.router,
    participation.router,
    today.router,
    quality.router,
    reports.router,
    waiting.router,
    contract.router,
)


def create_app(ctx: Context) -> FastAPI:
    """The application over one data folder."""

    @contextlib.asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        by_itself = []
        if not ctx.worker:  # one of several does what nobody asked for
            await run_in_threadpool(work.begin, ctx)
            by_itself.append(asyncio.create_task(_sweep(ctx)))
        warm = asyncio.create_task(run_in_threadpool(_warm_up))
        # what was loaded stays: without this each full collection looks through it again, in the middle of an answer
        gc.collect()
        gc.freeze()
        yield
        gc.unfreeze()
        for task in (*by_itself, warm):
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
    for router in ROUTERS:
        # a router included is built a second time, route by route; these carry their whole path already
        app.router.routes.extend(router.routes)
    contract.install(app)
    pages.install(app)
    app.add_middleware(GZipMiddleware, minimum_size=COMPRESSED_FROM, compresslevel=4)
    app.add_middleware(BoundedBody)
    return app


def _warm_up() -> None:
    """Load what the first analysis needs while nobody waits: half a second of reading libraries."""
    from bildung.core.classical.analysis import analyse
    from bildung.core.data.responses import ItemColumn, table_from_cells
    from bildung.services.shared.passwords import password_fits

    password_fits(None, "")  # the first unknown name takes no longer than the next

    items = [ItemColumn(name=name, kind="choice", points=1.0, options=("A", "B"), keys=("A",)) for name in "abc"]
    cells = [["A" if (row + at) % 3 else "B" for at in range(3)] for row in range(70)]
    analyse(table_from_cells(items, ["A"] * 3, cells))


async def _sweep(ctx: Context) -> None:
    rounds = work.rounds()
    while True:
        await run_in_threadpool(rounds.look, ctx)
        await asyncio.sleep(SWEEP_SECONDS)
