"""Results sent to the school's records: what changed since the last sending, what was refused and why."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.formats.gradebook import WITH_ITS_TEST, GradeResult, LineItem, as_csv, send
from bildung.formats.oneroster_rest import Unreachable
from bildung.services.releasing.outgoing import Outgoing, digest, outgoing, unsent
from bildung.services.releasing.standing import sessions_with
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.records import records_system
from bildung.services.shared.wire import Id
from bildung.store.models import Form, Person, SchoolClass, SendingRun, SentResult, Window

MOST_LINES = 500
AT_ONCE = 200  # rows of one transaction


@dataclass(frozen=True, kw_only=True)
class OutgoingLine:
    """A result that the records have not, or have otherwise. sent: it was sent before."""

    name: str
    klass: str
    status: str
    score: float | None
    possible: float
    sent: bool


@dataclass(frozen=True)
class NotSent:
    """A result that cannot go, or was refused, and why."""

    name: str
    klass: str
    why: str


@dataclass(frozen=True, kw_only=True)
class SendingLine:
    """One sending. refused: what was not taken."""

    id: Id
    at: datetime
    by: str
    state: str
    sent: int
    refused: int
    message: str
    lines: list[NotSent]


@dataclass(frozen=True, kw_only=True)
class SendingPage:
    """system: whether a records system is set up. total: results that can go; unsent: of them, those that the records have not as they
    are now, of which the first are listed. unknown: results that cannot go."""

    finding: str
    system: bool
    address: str
    total: int
    unsent: int
    lines: list[OutgoingLine]
    unknown: list[NotSent]
    runs: list[SendingLine]


def sending_page(ctx: Context, actor: Actor, form_id: int, window_id: int) -> SendingPage:
    """What would go, what changed since the last sending first."""
    with ctx.store.read() as db:
        found = _outgoing(db, actor, form_id, window_id)
        _, results = unsent(db, form_id, window_id, found)
        before = set(db.scalars(select(SentResult.id).where(SentResult.form_id == form_id)))
        names = _names(db, results)
        klass = {i.class_id: i for i in found.items}
        titles = _titles(db, found)
        system = records_system(ctx, db)
        runs = [
            SendingLine(
                id=run.id,
                at=run.at,
                by=by,
                state=run.state,
                sent=run.sent,
                refused=run.refused,
                message=run.message,
                lines=[NotSent(**line) for line in run.lines],
            )
            for run, by in (
                (run, person.name)
                for run, person in db.execute(
                    select(SendingRun, Person)
                    .join(Person, Person.id == SendingRun.by_id)
                    .where(SendingRun.form_id == form_id, SendingRun.window_id == window_id)
                    .order_by(SendingRun.id.desc())
                    .limit(10)
                )
            )
        ]
    results.sort(key=lambda r: (r.id not in before, titles[r.class_id], names[r.student_id]))
    return SendingPage(
        finding=_finding(found, len(results), sum(r.id in before for r in results), runs),
        system=bool(system.address),
        address=system.address,
        total=len(found.results),
        unsent=len(results),
        lines=[
            OutgoingLine(
                name=names[r.student_id],
                klass=titles[r.class_id],
                status=r.status,
                score=r.score,
                possible=klass[r.class_id].possible,
                sent=r.id in before,
            )
            for r in results[:MOST_LINES]
        ],
        unknown=[NotSent(u.name, u.klass, u.why) for u in found.unknown],
        runs=runs,
    )


def send_results(ctx: Context, actor: Actor, form_id: int, window_id: int, job: Job | None = None) -> SendingLine:
    """Send what the records system has not, or has otherwise. What it took before it went down stays taken, and is not sent again."""
    with ctx.store.read() as db:
        found = _outgoing(db, actor, form_id, window_id)
        items, results = unsent(db, form_id, window_id, found)
        system, names, titles = records_system(ctx, db), _names(db, results), _titles(db, found)
    if not system.address:
        raise Conflict("no records system is set up; name its address in the settings, or download the files")
    if not items and not results:
        raise Conflict("the records have all of these results as they are now")
    by_id: dict[str, LineItem | GradeResult] = {i.id: i for i in items} | {r.id: r for r in results}
    taken: list[str] = []
    message, refused = "", []
    try:
        refused = send(
            system.address,
            system.client,
            system.secret,
            items,
            results,
            ctx.clock(),
            lambda _, id: taken.append(id),
            (job or Job()).tell,
        )
    except Unreachable as error:
        message = str(error)
    finally:
        _keep(ctx, form_id, window_id, {id: digest(by_id[id]) for id in taken})
    # a test that was refused is told once, and not with each of its results
    lines = [_not_sent(by_id[r.id], r.why, names, titles) for r in refused if r.why != WITH_ITS_TEST]

    def work(db: Session) -> int:
        run = SendingRun(
            form_id=form_id,
            window_id=window_id,
            at=ctx.clock(),
            by_id=actor.person_id,
            state="failed" if message else "done",
            sent=sum(isinstance(by_id[id], GradeResult) for id in taken),
            refused=sum(isinstance(by_id[r.id], GradeResult) for r in refused),
            lines=[asdict(line) for line in lines[:MOST_LINES]],
            message=message,
        )
        db.add(run)
        db.flush()
        after = {"sent": run.sent, "refused": run.refused}
        audit.record(db, run.at, actor.person_id, "records.send", f"form:{form_id}", None, after)
        return run.id

    id = ctx.store.write(work)
    return next(run for run in sending_page(ctx, actor, form_id, window_id).runs if run.id == id)


def as_files(ctx: Context, actor: Actor, form_id: int, window_id: int) -> tuple[str, bytes]:
    """The same as files of the open standard: a name, and a zip."""
    with ctx.store.read() as db:
        found = _outgoing(db, actor, form_id, window_id)
        form, window = db.get_one(Form, form_id), db.get_one(Window, window_id)
        name = f"{form.name}, {window.name}, gradebook.zip"
    return name, as_csv(found.items, found.results, ctx.clock())


def _outgoing(db: Session, actor: Actor, form_id: int, window_id: int) -> Outgoing:
    scope(actor, Action.SCORES_PLAN)
    form, window = db.get(Form, form_id), db.get(Window, window_id)
    sessions = sessions_with(db, actor, form_id, window_id) if form and window else []
    if form is None or window is None or not sessions:
        raise NotFound("there is no such test with results, or it is not yours to send")
    return outgoing(db, form, window, sessions)


def _keep(ctx: Context, form_id: int, window_id: int, digests: dict[str, str]) -> None:
    """What was taken, in pieces, so that nobody waits for a large test."""
    ids = list(digests)

    def work(db: Session, some: list[str]) -> None:
        for id in some:
            db.merge(SentResult(id=id, form_id=form_id, window_id=window_id, digest=digests[id], at=ctx.clock()))

    for at in range(0, len(ids), AT_ONCE):
        ctx.store.write(lambda db, at=at: work(db, ids[at : at + AT_ONCE]))  # type: ignore[misc]


def _names(db: Session, results: list[GradeResult]) -> dict[str, str]:
    ids = {r.student_id for r in results}
    return {p.source_id: p.name for p in db.scalars(select(Person).where(Person.source_id.in_(ids)))}


def _titles(db: Session, found: Outgoing) -> dict[str, str]:
    ids = {i.class_id for i in found.items}
    return {k.source_id: k.title for k in db.scalars(select(SchoolClass).where(SchoolClass.source_id.in_(ids)))}


def _not_sent(one: LineItem | GradeResult, why: str, names: dict[str, str], titles: dict[str, str]) -> NotSent:
    if isinstance(one, LineItem):
        return NotSent("", titles[one.class_id], why)
    return NotSent(names[one.student_id], titles[one.class_id], why)


def _finding(found: Outgoing, n: int, changed: int, runs: list[SendingLine]) -> str:
    if not found.results:
        return "There is no result that could go to the records."
    if runs and runs[0].state == "failed":
        return f"The last sending stopped: {runs[0].message}. {counted(n, 'result')} still to send."
    if not n:
        return f"The records have all {len(found.results)} results as they are now."
    if not runs:
        return f"None of the {len(found.results)} results has been sent to the records."
    if changed:
        verb = "differs" if changed == 1 else "differ"
        rest = f" {n - changed} more {'was' if n - changed == 1 else 'were'} never taken." if n > changed else ""
        return f"{counted(changed, 'result')} {verb} from what the records have.{rest}"
    return f"{n} of {len(found.results)} results are not in the records."
