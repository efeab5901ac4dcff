"""What the server does by itself: at every look, and once a day. What fails is tried again."""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from datetime import date, datetime, timedelta

from bildung.services.shared.context import Context

log = logging.getLogger("bildung")
Job = Callable[[Context], object]
AGAIN = timedelta(minutes=10)


def name_of(job: Job) -> str:
    """What a job is called in the log."""
    return getattr(job, "__name__", "a job")


class Upkeep:
    """every: at each look. daily: once a day each; one that failed is tried again after a while on the same day."""

    def __init__(self, every: Sequence[Job], daily: Sequence[Job]) -> None:
        self.every, self.daily = tuple(every), tuple(daily)
        self._done: dict[Job, date] = {}
        self._not_before: dict[Job, datetime] = {}
        self._stopping = False

    def stop(self) -> None:
        """The server ends: what is not begun is left for the next start, and what its end cuts off is not worth a word."""
        self._stopping = True

    def look(self, ctx: Context) -> None:
        """Do what is to be done now; what fails is logged and tried again."""
        ctx.look_at_clock()
        for job in self.every:
            self._run(ctx, job, "at the next look")
        now = ctx.clock()
        for job in self.daily:
            if self._done.get(job) != now.date() and self._not_before.get(job, now) <= now:
                if self._run(ctx, job, f"in {AGAIN.total_seconds() / 60:.0f} minutes"):
                    self._done[job] = now.date()
                else:
                    self._not_before[job] = now + AGAIN

    def _run(self, ctx: Context, job: Job, again: str) -> bool:
        if self._stopping:
            return False
        try:
            job(ctx)
        except Exception:
            if self._stopping:
                return False
            log.exception("%s failed; it is tried again %s", name_of(job), again)
            return False
        return True
