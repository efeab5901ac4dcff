"""Long work that tells how far it is and can be stopped. The browser names the job; the work looks here."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator
from dataclasses import dataclass, field

from sqlalchemy import update

from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.store.models import RunningJob

LONGEST_ID = 40
KEPT = 200


class Stopped(Conflict):
    """Somebody stopped the work; whoever does it leaves nothing behind."""


@dataclass(kw_only=True)
class Job:
    """done of total, in steps of `what`. A job nobody asked for is one that nobody can stop. ending: it stops because the
    server does, so that what is begun again by itself is left for then."""

    person_id: int | None = None
    what: str = ""
    done: int = 0
    total: int = 0
    ending: bool = False
    _stop: threading.Event = field(default_factory=threading.Event)

    def tell(self, what: str, done: int, total: int) -> None:
        """Say how far it is; raises Stopped if it shall not go on."""
        self.what, self.done, self.total = what, done, total
        if self._stop.is_set():
            raise Stopped("it was stopped; nothing was changed")

    @property
    def stopped(self) -> bool:
        """Whether it shall end with what it has; for work whose best so far is worth keeping."""
        return self._stop.is_set()

    def stop(self) -> None:
        """Stop it at the next step that it tells."""
        self._stop.set()


class FarJob(Job):
    """A job of another worker, as it was a moment ago."""

    def __init__(self, ctx: Context, key: tuple[int, str], what: str, done: int, total: int) -> None:
        super().__init__(person_id=key[0], what=what, done=done, total=total)
        self._ctx, self._key = ctx, key

    def stop(self) -> None:
        """Its worker is told through the store."""
        person, name = self._key
        mine = update(RunningJob).where(RunningJob.person_id == person, RunningJob.name == name)
        self._ctx.store.write(lambda db: db.execute(mine.values(stop=True)))


@dataclass
class RunningJobs:
    """By who asked and the name they chose, the oldest first."""

    named: dict[tuple[int, str], Job] = field(default_factory=dict)


def begin(ctx: Context, actor: Actor, id: str) -> Job:
    """A job under a name that the asker chose; an empty name makes one that nobody looks at."""
    job = Job(person_id=actor.person_id)
    if id:
        jobs = ctx.own(RunningJobs).named
        while len(jobs) >= KEPT:
            jobs.pop(next(iter(jobs)))
        jobs[_key(actor, id)] = job
    return job


@contextlib.contextmanager
def working(ctx: Context, actor: Actor, id: str) -> Iterator[Job]:
    """A job that can be looked at under this name until the work in the block is over, however that ends."""
    try:
        yield begin(ctx, actor, id)
    finally:
        end(ctx, actor, id)


def look(ctx: Context, actor: Actor, id: str) -> Job:
    """A job that this person began; NotFound where there is none."""
    job = find(ctx, actor, id)
    if job is None:
        raise NotFound("there is no such job, or it is not yours")
    return job


def find(ctx: Context, actor: Actor, id: str) -> Job | None:
    """A running job that this person began, whichever worker does it."""
    key = _key(actor, id)
    job = ctx.own(RunningJobs).named.get(key)
    if job is not None or not ctx.shared:
        return job
    with ctx.store.read() as db:
        row = db.get(RunningJob, key)
        return None if row is None else FarJob(ctx, key, row.what, row.done, row.total)


def look_or_wait(ctx: Context, actor: Actor, id: str) -> Job:
    """As look; work that has not begun, or needs no telling, is one that says nothing yet."""
    return find(ctx, actor, id) or Job(person_id=actor.person_id)


def end(ctx: Context, actor: Actor, id: str) -> None:
    """Forget a job."""
    ctx.own(RunningJobs).named.pop(_key(actor, id), None)


def stop_all(ctx: Context) -> None:
    """The server ends: no work goes on for somebody who is no longer answered."""
    for job in list(ctx.own(RunningJobs).named.values()):
        job.ending = True
        job.stop()


def _key(actor: Actor, id: str) -> tuple[int, str]:
    return actor.person_id, id[:LONGEST_ID]
