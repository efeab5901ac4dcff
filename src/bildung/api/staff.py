"""Everything but the routes of students, in the order in which it is tried."""

from __future__ import annotations

from fastapi import APIRouter, FastAPI

from bildung.api.bank import bank, frameworks
from bildung.api.building import assembling, companions, forms, paper
from bildung.api.calendar import pacing, windows, year
from bildung.api.corrections import corrections
from bildung.api.door import signin
from bildung.api.growth import growth, measures
from bildung.api.live import live
from bildung.api.mastery import entering as mastery_entering
from bildung.api.mastery import mastery
from bildung.api.own import own
from bildung.api.participation import participation
from bildung.api.people import accommodations, classes, directory, groups, settings
from bildung.api.planning import planning
from bildung.api.quality import quality, reports
from bildung.api.releasing import releasing
from bildung.api.rosters import fromsystem, rosters
from bildung.api.scoring import scoring
from bildung.api.sessions import sessions
from bildung.api.shared import contract, waiting
from bildung.api.today import today

ROUTERS: tuple[APIRouter, ...] = (
    signin.router,
    own.router,
    live.router,
    scoring.router,
    corrections.router,
    releasing.router,
    growth.router,
    measures.router,
    mastery_entering.router,
    mastery.router,
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


def install(app: FastAPI) -> None:
    """Before the pages, which take every address."""
    # a router included is built a second time, route by route; these carry their whole path already
    app.router.routes[-1:-1] = [route for router in ROUTERS for route in router.routes]
    contract.install(app)
