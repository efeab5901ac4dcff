"""The school's records system, asked at night or now: what changed there changes here, and is shown."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.formats.oneroster import Roster
from bildung.formats.oneroster_rest import Unreachable, fetch, roster_from
from bildung.formats.problem import ImportProblem
from bildung.services.calendar.years import local_today
from bildung.services.rosters.plan import known, plan_roster
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.records import records_system
from bildung.services.shared.settings import setting
from bildung.services.shared.staging import Planned, PreviewLine, count, shown_lines
from bildung.services.shared.wire import Id
from bildung.store.models import Federation, Person, RecordsRun

KEPT_RUNS = 200
TRIES = 3


@dataclass(frozen=True, kw_only=True)
class RunLine:
    """state: done, waiting, left or failed. by: who asked for it, or empty for the nightly one."""

    id: Id
    at: datetime
    state: str
    bulk: bool
    counts: dict[str, int]
    message: str
    by: str


@dataclass(frozen=True, kw_only=True)
class RecordsPage:
    """lines: of the run that is shown, as an import's preview. next_at: when the next nightly one is due."""

    finding: str
    on: bool
    address: str
    next_at: datetime | None
    runs: list[RunLine]
    shown: RunLine | None
    lines: list[PreviewLine]


def records_page(ctx: Context, actor: Actor, run_id: int | None = None) -> RecordsPage:
    """The records system that is followed: its runs, and the lines of one of them."""
    scope(actor, Action.PEOPLE_IMPORT)
    with ctx.store.read() as db:
        rows = db.scalars(select(RecordsRun).order_by(RecordsRun.id.desc()).limit(30)).all()
        names = {
            p.id: p.name
            for p in db.scalars(select(Person).where(Person.id.in_([r.person_id for r in rows if r.person_id])))
        }
        runs = [
            RunLine(
                id=r.id,
                at=r.at,
                state=r.state,
                bulk=r.bulk,
                counts=r.counts,
                message=r.message,
                by=names.get(r.person_id or 0, ""),
            )
            for r in rows
        ]
        on, address = bool(setting(db, "records_on")), records_system(ctx, db).address
        # what changed last is what one comes to see; a run that changed nothing is listed, not shown
        telling = next((r for r in rows if r.id == run_id), None) or next(
            (r for r in rows if r.lines or r.state == "failed"), None
        )
        shown = next((line for line in runs if telling is not None and line.id == telling.id), None)
        due = _due(ctx, db) if on else None
        return RecordsPage(
            finding=_finding(runs, address),
            on=on,
            address=address,
            next_at=due,
            runs=runs,
            shown=shown,
            lines=[_line(line) for line in telling.lines] if telling else [],
        )


def _line(kept: dict[str, Any]) -> PreviewLine:
    """A line of a preview from how it was kept."""
    return PreviewLine(**kept)


def _finding(runs: list[RunLine], address: str) -> str:
    if not address:
        return "No records system is set up yet. With one, rosters are updated every night."
    if not runs:
        return "The records system has not been synced yet."
    last = runs[0]
    if last.state == "waiting":
        return "Changes from the records system await your decision; nothing has been changed yet."
    if last.state == "failed":
        return f"The last sync with the records system failed: {last.message}."
    moves = last.counts.get("added", 0) + last.counts.get("changed", 0)
    left = last.counts.get("left_out", 0)
    text = (
        f"The last sync made {moves} {'change' if moves == 1 else 'changes'}"
        if moves
        else "The last sync changed nothing"
    )
    return text + (f", {left} could not be taken." if left else ".")


def look(ctx: Context, actor: Actor | None, bulk: bool, job: Job | None = None) -> int:
    """Ask the records system now. bulk: for everything, not only for what changed since the last look. The run's id."""
    if actor is not None:
        scope(actor, Action.PEOPLE_IMPORT)
    with ctx.store.read() as db:
        system = records_system(ctx, db)
        last = db.scalar(select(RecordsRun).where(RecordsRun.state == "done").order_by(RecordsRun.id.desc()).limit(1))
        since = None if bulk or last is None else last.at
        waits = db.scalar(select(RecordsRun.id).where(RecordsRun.state == "waiting"))
    if not system.address:
        raise Invalid("enter the records system's address under Settings first", "records_address")
    if waits is not None:
        raise Conflict("an earlier sync still awaits a decision; decide it first")
    started = ctx.clock()
    try:
        found = fetch(system.address, system.client, system.secret, since, (job or Job()).tell)
        return _take(ctx, actor, found, since is None, started, job, False)
    except (Unreachable, ImportProblem) as error:
        message = str(error)
        return ctx.store.write(lambda db: _record(db, actor, started, "failed", since is None, {}, [], message))


def _take(
    ctx: Context,
    actor: Actor | None,
    found: dict[str, list[dict[str, Any]]],
    bulk: bool,
    at: datetime,
    job: Job | None,
    yes: bool,
) -> int:
    """Plan from a snapshot, write where nothing moved meanwhile; a few tries before it gives up."""
    for _ in range(TRIES):
        id = _try_once(ctx, actor, found, bulk, at, job, yes)
        if id is not None:
            return id
    message = "people were changed here at the same time, again and again"
    return ctx.store.write(lambda db: _record(db, actor, at, "failed", bulk, {}, [], message))


def _try_once(
    ctx: Context,
    actor: Actor | None,
    found: dict[str, list[dict[str, Any]]],
    bulk: bool,
    at: datetime,
    job: Job | None,
    yes: bool,
) -> int | None:
    """The run's id, or None where somebody changed people between the plan and the writing."""
    with ctx.store.read() as db:
        planned = _plan(ctx, db, found, bulk, job)
        stamp = planned.stamp(db)
    lines = [asdict(line) for line in shown_lines(planned.lines)]
    counts = count(planned.lines)
    waits = bool(planned.ask) and not yes

    def work(db: Session) -> int | None:
        if waits:
            return _record(db, actor, at, "waiting", bulk, counts, lines, planned.ask)
        if planned.stamp(db) != stamp:
            return None
        planned.apply(db)
        return _record(db, actor, at, "done", bulk, counts, lines, "")

    return ctx.store.write(work)


def _plan(ctx: Context, db: Session, found: dict[str, list[dict[str, Any]]], bulk: bool, job: Job | None) -> Planned:
    roster: Roster = roster_from(found, not bulk, known(db))
    return plan_roster(db, roster, local_today(ctx, db), job)


def _record(
    db: Session,
    actor: Actor | None,
    at: datetime,
    state: str,
    bulk: bool,
    counts: dict[str, int],
    lines: list[dict[str, str]],
    message: str,
) -> int:
    run = RecordsRun(
        at=at,
        state=state,
        bulk=bulk,
        counts=counts,
        lines=lines,
        message=message,
        person_id=actor.person_id if actor else None,
    )
    db.add(run)
    db.flush()
    if state != "failed":
        audit.record(db, at, run.person_id, "records.look", f"records:{run.id}", None, {"state": state, **counts})
    for old in db.scalars(select(RecordsRun).order_by(RecordsRun.id.desc()).offset(KEPT_RUNS)):
        db.delete(old)
    return run.id


def decide(ctx: Context, actor: Actor, run_id: int, take: bool) -> None:
    """What waits is taken after all, asked for again so that it is as it is now; or left, and asked again next time."""
    scope(actor, Action.PEOPLE_IMPORT)
    with ctx.store.read() as db:
        run = db.get(RecordsRun, run_id)
        if run is None or run.state != "waiting":
            raise NotFound("nothing is waiting here anymore")
        bulk = run.bulk
        last = db.scalar(select(RecordsRun).where(RecordsRun.state == "done").order_by(RecordsRun.id.desc()).limit(1))
        system, since = records_system(ctx, db), None if bulk or last is None else last.at
    if take:
        started = ctx.clock()
        try:
            found = fetch(system.address, system.client, system.secret, since, Job().tell)
            _take(ctx, actor, found, bulk, started, None, True)
        except (Unreachable, ImportProblem) as error:
            raise Conflict(str(error)) from None

    def work(db: Session) -> None:
        row = db.get_one(RecordsRun, run_id)
        row.state, row.decided_at = "taken" if take else "left", ctx.clock()
        audit.record(db, ctx.clock(), actor.person_id, "records.decide", f"records:{run_id}", None, {"taken": take})

    ctx.store.write(work)


def _due(ctx: Context, db: Session) -> datetime:
    """The next nightly look: at the hour of the settings, where the schools are."""
    zone = ZoneInfo(db.scalar(select(Federation.zone)) or "UTC")
    now = ctx.clock().astimezone(zone)
    at = now.replace(hour=int(setting(db, "records_hour")), minute=0, second=0, microsecond=0)
    return at if at > now else at + timedelta(days=1)


def nightly(ctx: Context) -> bool:
    """Run now and then by the server: looks once a night, after the hour of the settings. Whether it did."""
    with ctx.store.read() as db:
        if not setting(db, "records_on") or not records_system(ctx, db).address:
            return False
        due = _due(ctx, db) - timedelta(days=1)
        if db.scalar(select(RecordsRun.id).where(RecordsRun.at >= due).limit(1)) is not None:
            return False
        if db.scalar(select(RecordsRun.id).where(RecordsRun.state == "waiting")) is not None:
            return False
    look(ctx, None, False)
    return True
