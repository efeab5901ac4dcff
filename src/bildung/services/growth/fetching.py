"""Scores and norms fetched from an outside test service; what comes is looked at like any other file."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from bildung.formats.oneroster_rest import Unreachable
from bildung.formats.testservice import get_file, list_files
from bildung.services.growth import scores
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.settings import setting
from bildung.services.shared.staging import Preview
from bildung.services.shared.standins import Standins


@dataclass(frozen=True)
class FetchableFile:
    """kind: scores or norms."""

    kind: str
    title: str
    path: str


@dataclass(frozen=True)
class TestService:
    """address: empty where none is set up. problem: why it does not answer; empty where it does."""

    address: str
    files: list[FetchableFile]
    problem: str


def service_files(ctx: Context, actor: Actor) -> TestService:
    """What the test service has."""
    scope(actor, Action.MEASURES_KEEP)
    with ctx.store.read() as db:
        address = _address(ctx, db)
    if not address:
        return TestService("", [], "")
    try:
        return TestService(address, [FetchableFile(f.kind, f.title, f.path) for f in list_files(address)], "")
    except Unreachable as error:
        return TestService(address, [], str(error))


def fetch_scores(ctx: Context, actor: Actor, measure_id: int, path: str, job: Job | None = None) -> Preview:
    """A file of scores, looked at first."""
    return scores.preview(ctx, actor, measure_id, {path.rsplit("/", 1)[-1]: fetch_file(ctx, actor, path)}, job=job)


def fetch_file(ctx: Context, actor: Actor, path: str) -> bytes:
    """One of the files that the service listed. Conflict where it does not answer."""
    scope(actor, Action.MEASURES_KEEP)
    with ctx.store.read() as db:
        address = _address(ctx, db)
    if not address:
        raise Conflict("no test service is set up; name its address in the settings")
    try:
        if path not in {f.path for f in list_files(address)}:
            raise NotFound("the test service has no such file")
        return get_file(address, path)
    except Unreachable as error:
        raise Conflict(str(error)) from None


def _address(ctx: Context, db: Session) -> str:
    """As named in the settings, else the simulated one where it runs beside us."""
    return str(setting(db, "testservice_address") or ctx.own(Standins).tests)
