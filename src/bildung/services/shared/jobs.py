"""Long work that tells how far it is and can be stopped. The browser names the job; the work looks here."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator
from dataclasses import dataclass, field

from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound

LONGEST_ID = 40
KEPT = 200


class Stopped(Conflict):
    """Somebody stopped the work; whoever does it leaves nothing behind."""


@dataclass(kw_only=True)
class Job:
    """done of total, in steps of `what`. A job nobody asked for is one that nobody can stop."""

    person_id: int | None = None
    what: str = ""
    done: int = 0
    total: int = 0
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
    job = ctx.own(RunningJobs).named.get(_key(actor, id))
    if job is None:
        raise NotFound("there is no such job, or it is not yours")
    return job


def look_or_wait(ctx: Context, actor: Actor, id: str) -> Job:
    """As look; work that has not begun, or needs no telling, is one that says nothing yet."""
    return ctx.own(RunningJobs).named.get(_key(actor, id)) or Job(person_id=actor.person_id)


def end(ctx: Context, actor: Actor, id: str) -> None:
    """Forget a job."""
    ctx.own(RunningJobs).named.pop(_key(actor, id), None)


def _key(actor: Actor, id: str) -> tuple[int, str]:
    return actor.person_id, id[:LONGEST_ID]
