"""The planner in a process of its own, so that its hundred thousands of small steps never hold up anybody's save."""

from __future__ import annotations

import multiprocessing
from collections.abc import Sequence
from multiprocessing.connection import Connection
from multiprocessing.synchronize import Event

from bildung.core.planning.chain import MadePlan, make_plan
from bildung.core.planning.problem import Problem
from bildung.core.planning.sessions import PlanSession
from bildung.services.shared.errors import Conflict
from bildung.services.shared.jobs import Job

SMALL = 20  # tests of classes: so few are planned where they are asked for, before a process would have begun
ASK = 0.1  # seconds between looks at whether somebody stopped it


def plan_apart(problem: Problem, seconds: float, before: Sequence[PlanSession], job: Job) -> MadePlan:
    """As `make_plan`; the job tells how far it is and can stop it with the best plan so far."""
    if len(problem.classes) < SMALL:
        return make_plan(problem, seconds, before, lambda: job.stopped, lambda *far: _tell(job, *far))
    context = multiprocessing.get_context("spawn")
    stop = context.Event()
    here, there = context.Pipe(duplex=False)
    worker = context.Process(target=_work, args=(problem, seconds, list(before), stop, there), daemon=True)
    worker.start()
    there.close()
    try:
        return _heard(here, stop, job)
    finally:
        here.close()
        worker.join(2)
        if worker.is_alive():
            worker.kill()


def _heard(here: Connection, stop: Event, job: Job) -> MadePlan:
    while True:
        if job.stopped:
            stop.set()
        try:
            if not here.poll(ASK):
                continue
            what, value = here.recv()
        except EOFError as error:
            raise Conflict("the planner ended without a plan; try again") from error
        if what == "plan":
            found: MadePlan = value
            return found
        _tell(job, *value)


def _tell(job: Job, what: str, done: int, total: int) -> None:
    job.what, job.done, job.total = what, done, total


def _work(problem: Problem, seconds: float, before: Sequence[PlanSession], stop: Event, there: Connection) -> None:
    """The other process."""
    there.send(("plan", make_plan(problem, seconds, before, stop.is_set, lambda *far: there.send(("far", far)))))
