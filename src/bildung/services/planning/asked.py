"""Plans that are being made outlive the server: what was cut off is begun again, and whoever looks sees that it goes on."""

from __future__ import annotations

import contextlib
import logging
import threading
from collections.abc import Iterator

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.services.planning import plans
from bildung.services.planning.document import PlanWishes, read_wishes, write_wishes
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Problem
from bildung.services.shared.jobs import Job
from bildung.services.shared.whoasked import actor_of
from bildung.store.models import AskedPlan, Person

log = logging.getLogger(__name__)


def make(ctx: Context, actor: Actor, school_id: int, window_id: int, wishes: PlanWishes, job: Job, again: bool) -> int:
    """As `plans.make`, and begun again where the server ends in the middle."""
    plans.check_wishes(wishes)
    with _written(ctx, actor, school_id, window_id, wishes, again, job):
        return plans.make(ctx, actor, school_id, window_id, wishes, job, again)


@contextlib.contextmanager
def _written(
    ctx: Context, actor: Actor, school_id: int, window_id: int, wishes: PlanWishes, again: bool, job: Job
) -> Iterator[None]:
    def work(db: Session) -> int:
        plans.may_plan(db, actor, school_id, window_id)
        row = AskedPlan(
            school_id=school_id,
            window_id=window_id,
            person_id=actor.person_id,
            wishes=write_wishes(wishes),
            again=again,
            at=ctx.clock(),
        )
        db.add(row)
        db.flush()
        return row.id

    id = ctx.store.write(work)
    try:
        yield
    finally:
        if not job.ending:
            _done(ctx, id)


def _done(ctx: Context, id: int) -> None:
    ctx.store.write(lambda db: db.execute(delete(AskedPlan).where(AskedPlan.id == id)))


def in_the_making(db: Session, school_id: int, window_id: int) -> str:
    """Who plans this window at this moment, in a sentence; empty where nobody does."""
    person = db.scalar(
        select(Person)
        .join(AskedPlan, AskedPlan.person_id == Person.id)
        .where(AskedPlan.school_id == school_id, AskedPlan.window_id == window_id)
        .order_by(AskedPlan.id.desc())
        .limit(1)
    )
    return f"{person.name} is having this window planned; the plan is shown here when it is done." if person else ""


def resume(ctx: Context) -> threading.Thread | None:
    """After a restart, one after the other and with the rights that each asker has now; whoever may no longer plan, or whose
    window has gone, gets none."""
    with ctx.store.read() as db:
        rows = [(row, actor_of(db, row.person_id)) for row in db.scalars(select(AskedPlan).order_by(AskedPlan.id))]
    if not rows:
        return None

    def work() -> None:
        for row, actor in rows:
            try:
                job = Job(person_id=actor.person_id)
                plans.make(ctx, actor, row.school_id, row.window_id, read_wishes(row.wishes), job, row.again)
            except Problem as problem:
                log.warning("the plan that was cut off could not be made: %s", problem)
            finally:
                _done(ctx, row.id)

    thread = threading.Thread(target=work, name="plans", daemon=True)
    thread.start()
    return thread
