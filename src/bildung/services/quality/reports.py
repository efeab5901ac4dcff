"""Reports that are made in the background, one after the other, and kept for whoever asked for them."""

from __future__ import annotations

import csv
import io
import logging
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, field
from datetime import date, datetime
from pathlib import Path
from typing import Any, Literal, get_args

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.errors import Refused
from bildung.core.school.schooltime import school_day
from bildung.formats.table import plain_text
from bildung.reports import pictures
from bildung.reports.apart import print_apart
from bildung.reports.document import Size, to_pdf, to_workbook
from bildung.services.calendar.years import zone_of
from bildung.services.quality import grid
from bildung.services.quality.judged import limits
from bildung.services.quality.printing.asked import ReportRequest
from bildung.services.quality.printing.write import question_of, write
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared import audit, jobs
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound, Problem
from bildung.services.shared.jobs import Job, Stopped
from bildung.services.shared.results import KeptResults
from bildung.services.shared.whoasked import actor_of
from bildung.services.shared.wire import Id
from bildung.store.files import write_durably
from bildung.store.models import KeptReport, PlannedSession, Sitting

log = logging.getLogger(__name__)
Format = Literal["pdf", "xlsx"]
MOST = 200
WANTED = "reports"
SAMPLE = 2


@dataclass(frozen=True, kw_only=True)
class ReportLine:
    """A report that was asked for. state: making, done, failed or stopped. what, done, total: how far it is."""

    id: Id
    question: str
    title: str
    where: str
    format: str
    named: bool
    veiled: bool
    state: str
    says: str
    pages: int | None
    created_at: datetime
    done_at: datetime | None
    what: str
    done: int
    total: int


def make(ctx: Context, actor: Actor, asked: ReportRequest, format: str, size: str) -> int:
    """Begin it; what cannot be made is refused at once, or said in the list. Its id."""
    scope(actor, Action.QUALITY_READ)
    question = question_of(asked.question)
    if format not in get_args(Format) or size not in get_args(Size):
        raise Invalid(f"a report is {' or '.join(get_args(Format))}, on {' or '.join(get_args(Size))}", "format")
    wanted = {
        "wanted": _plain(asked.wanted),
        "settings": _changed(asked.settings),
        "klass": asked.klass,
        "veiled": asked.veiled,
        "size": size,
    }

    def work(db: Session) -> int:
        mine = db.scalars(select(KeptReport).where(KeptReport.person_id == actor.person_id)).all()
        if len(mine) >= MOST:
            raise Conflict(f"you have {MOST} saved reports; delete some first")
        row = KeptReport(
            person_id=actor.person_id,
            question=question.name,
            title=question.asks,
            wanted=wanted,
            sessions=[],
            named=question.named and not asked.veiled,
            format=format,
            state="making",
            created_at=ctx.clock(),
        )
        db.add(row)
        db.flush()
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "report.make",
            f"report:{row.id}",
            None,
            {"question": question.name, "named": row.named},
        )
        return row.id

    id = ctx.store.write(work)
    if ctx.worker:  # the first makes them, and goes on after a restart
        ctx.bus.publish(WANTED, {"report": id})
    else:
        _begin(ctx, actor, id)
    return id


def _plain(wanted: ScopeRequest) -> dict[str, Any]:
    return {
        name: value.isoformat() if isinstance(value, date) else value for name, value in asdict(wanted).items() if value
    }


def _read(wanted: dict[str, Any]) -> ScopeRequest:
    days = {name: date.fromisoformat(wanted[name]) for name in ("since", "until") if name in wanted}
    rest: dict[str, Any] = {
        name: value if isinstance(value, bool) else tuple(value) for name, value in wanted.items() if name not in days
    }
    return ScopeRequest(**rest, **days)  # type: ignore[arg-type]


def _changed(settings: Settings) -> dict[str, float]:
    usual = asdict(DEFAULTS)
    return {name: value for name, value in asdict(settings).items() if value != usual[name]}


@dataclass
class ReportWork:
    """Reports that are being made, one at a time: each is long, and answers must be saved meanwhile.

    Attributes
    ----------
    making
        Their ids.
    pool
        The one thread that makes them.
    samples
        First pages of reports, as pictures.
    """

    making: set[int] = field(default_factory=set)
    pool: ThreadPoolExecutor = field(default_factory=lambda: ThreadPoolExecutor(1, "report"))
    samples: KeptResults[bytes] = field(default_factory=lambda: KeptResults(24))


def _begin(ctx: Context, actor: Actor, id: int) -> None:
    work = ctx.own(ReportWork)
    work.making.add(id)
    job = jobs.begin(ctx, actor, _job(id))
    job.what = "waiting its turn"
    work.pool.submit(_work, ctx, actor, id, job)


def _job(id: int) -> str:
    return f"report {id}"


def _work(ctx: Context, actor: Actor, id: int, job: Job) -> None:
    try:
        with ctx.store.read() as db:
            row = db.get(KeptReport, id)
            if row is None or row.state != "making":
                return
            given, question, format = row.wanted, row.question, row.format
        said = dict(given["settings"])
        asked = ReportRequest(
            question=question,
            wanted=_read(given["wanted"]),
            settings=limits(said, said.pop("watch_line", None)),
            klass=given["klass"],
            veiled=given["veiled"],
        )
        document, sessions = write(ctx, actor, asked, job)
        pages = None
        if format == "pdf":
            job.tell("laying out pages", 0, 0)
            data = print_apart(document, given["size"], lambda: job.tell("laying out pages", 0, 0))
            pages = len(pictures.open_document(data))
        else:
            data = to_workbook(document)
        path = _folder(ctx) / f"{id}.{format}"
        write_durably(path, data)
        _end(
            ctx,
            id,
            "done",
            "",
            file=path.name,
            pages=pages,
            sessions=sessions,
            wanted={**given, "where": document.where},
        )
    except Stopped:
        if not job.ending:  # else it is made when the server is back
            _end(ctx, id, "stopped", "it was stopped")
    except (Problem, Refused) as error:
        _end(ctx, id, "failed", str(error))
    except Exception:
        log.exception("report %s failed", id)
        _end(
            ctx,
            id,
            "failed",
            "something went wrong while the report was created; try again, and tell the server administrator",
        )
    finally:
        ctx.own(ReportWork).making.discard(id)
        jobs.end(ctx, actor, _job(id))


def _end(ctx: Context, id: int, state: str, says: str, **more: Any) -> None:
    def work(db: Session) -> None:
        row = db.get(KeptReport, id)
        if row is None:  # given up meanwhile
            return
        row.state, row.says, row.done_at = state, says, ctx.clock()
        for name, value in more.items():
            setattr(row, name, value)

    ctx.store.write(work)


def _folder(ctx: Context) -> Path:
    folder: Path = ctx.store.folder / "reports"
    folder.mkdir(exist_ok=True)
    return folder


def list_reports(ctx: Context, actor: Actor) -> list[ReportLine]:
    """One's own, the newest first."""
    scope(actor, Action.QUALITY_READ)
    with ctx.store.read() as db:
        rows = db.scalars(
            select(KeptReport).where(KeptReport.person_id == actor.person_id).order_by(KeptReport.id.desc())
        ).all()
    found = []
    for r in rows:
        job = jobs.look_or_wait(ctx, actor, _job(r.id)) if r.state == "making" else Job()
        found.append(
            ReportLine(
                id=r.id,
                question=r.question,
                title=r.title,
                where=r.wanted.get("where", ""),
                format=r.format,
                named=r.named,
                veiled=bool(r.wanted.get("veiled")),
                state=r.state,
                says=r.says,
                pages=r.pages,
                created_at=r.created_at,
                done_at=r.done_at,
                what=job.what,
                done=job.done,
                total=job.total,
            )
        )
    return found


def _own(db: Session, actor: Actor, id: int) -> KeptReport:
    scope(actor, Action.QUALITY_READ)
    row = db.get(KeptReport, id)
    if row is None or row.person_id != actor.person_id:
        raise NotFound("there is no such report, or it is not yours")
    return row


def file_of(ctx: Context, actor: Actor, id: int) -> tuple[str, str, bytes]:
    """Name, format and content. Whoever has lost the right to its answers since has lost the report."""
    with ctx.store.read() as db:
        row = _own(db, actor, id)
        if row.state != "done":
            raise Conflict(
                "this report is not finished yet"
                if row.state == "making"
                else f"this report could not be created: {row.says}"
            )
        action = Action.ANSWERS_READ if row.named else Action.QUALITY_READ
        mine = set(
            db.scalars(select(PlannedSession.id).where(PlannedSession.id.in_(row.sessions), scope(actor, action)))
        )
        if not mine:
            raise NotFound("the answers in this report are no longer yours to see")
        path = _folder(ctx) / row.file
        name = f"{row.question}-{school_day(row.created_at, zone_of(db))}-{row.id}.{row.format}"
        return name, row.format, path.read_bytes()


def drop_report(ctx: Context, actor: Actor, id: int) -> None:
    """Stops it where it is being made; then it is gone, with its file."""
    job = jobs.find(ctx, actor, _job(id))
    if job is not None:
        job.stop()

    ctx.store.write(lambda db: db.delete(_own(db, actor, id)))
    remove_strays(ctx)


def forget(db: Session, person_id: int) -> None:
    """In the transaction that erases a student: kept reports that name students of a session they sat. The files go
    with `remove_strays`."""
    theirs = set(db.scalars(select(Sitting.session_id).where(Sitting.person_id == person_id)))
    for row in db.scalars(select(KeptReport).where(KeptReport.named.is_(True))):
        if theirs & set(row.sessions):
            db.delete(row)


def remove_strays(ctx: Context) -> None:
    """Files that no kept report has any more."""
    with ctx.store.read() as db:
        known = set(db.scalars(select(KeptReport.file)))
        making = {str(id) for id in db.scalars(select(KeptReport.id).where(KeptReport.state == "making"))}
    for path in _folder(ctx).iterdir():
        if path.name not in known and path.stem not in making:
            path.unlink(missing_ok=True)


def resume(ctx: Context) -> int:
    """After a restart: what was being made is begun again, with the rights that its owner has now. How many."""
    with ctx.store.read() as db:
        rows = db.execute(
            select(KeptReport.id, KeptReport.person_id).where(KeptReport.state == "making").order_by(KeptReport.id)
        ).all()
        waiting = [(id, actor_of(db, person)) for id, person in rows]
    for id, actor in waiting:
        if id not in ctx.own(ReportWork).making:
            _begin(ctx, actor, id)
    return len(waiting)


def sample(ctx: Context, actor: Actor, asked: ReportRequest, size: str) -> bytes:
    """The first page of it as a picture, made of the chosen scope with a few items or students only."""
    if size not in get_args(Size):
        raise Invalid(f"paper is {' or '.join(get_args(Size))}", "size")
    few = ReportRequest(
        question=asked.question,
        wanted=asked.wanted,
        settings=asked.settings,
        klass=asked.klass,
        veiled=asked.veiled,
        most=SAMPLE,
    )
    document, sessions = write(ctx, actor, few, Job())
    with ctx.store.read() as db:
        versions = tuple(
            db.execute(
                select(PlannedSession.id, PlannedSession.data_version).where(PlannedSession.id.in_(sessions))
            ).all()
        )
    key = (
        few.question,
        few.wanted,
        few.settings,
        few.klass,
        few.veiled,
        size,
        actor.person_id,
        tuple(map(tuple, versions)),
    )

    def draw() -> bytes:
        found = pictures.page(to_pdf(document, size), 1)  # type: ignore[arg-type]
        assert found is not None
        return found

    return ctx.own(ReportWork).samples.get(key, draw)


def grid_file(ctx: Context, actor: Actor, asked: ReportRequest, kind: str) -> bytes:
    """The response grid as CSV or XLSX, in full."""
    if kind == "xlsx":
        document, _ = write(
            ctx,
            actor,
            ReportRequest(
                question="answers", wanted=asked.wanted, settings=asked.settings, klass=None, veiled=asked.veiled
            ),
            Job(),
        )
        return to_workbook(document)
    found = grid.grid(ctx, actor, asked.wanted, asked.settings)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(
        [
            "student (names hidden)" if asked.veiled else "student",
            "class",
            "points",
            "possible",
            *(i.item for i in found.items),
        ]
    )
    for at, s in enumerate(found.students):
        points = f"{s.earned:g}" if s.share is not None else ""
        writer.writerow(
            [
                plain_text(asked.name(s.name, s.alias)),
                plain_text(s.klass),
                points,
                f"{s.possible:g}",
                *(plain_text(grid.cell_text(i, i.codes[at])) for i in found.items),
            ]
        )
    return out.getvalue().encode("utf-8-sig")
