"""Several web workers on one data folder: what happens in one is told to the others through the store.

A look ten times a second writes what this worker published since (a burst as one message), how far its jobs are, and reads
what the others did. With one worker none of this runs.
"""

from __future__ import annotations

import json
import logging
import threading
from collections import deque
from datetime import timedelta
from typing import Any

from sqlalchemy import Connection, delete, func, insert, select
from sqlalchemy.dialects.sqlite import insert as upsert

from bildung.services.shared.bus import Bus, Message
from bildung.services.shared.context import Context
from bildung.services.shared.jobs import Job, RunningJobs
from bildung.store.models import Happened, RunningJob

log = logging.getLogger(__name__)
LOOK = 0.1  # seconds
KEPT = timedelta(minutes=2)  # longer than any worker takes between two looks
MOST = 1000  # messages of one look; what is more is an open page that reads itself again anyway


class SharedBus(Bus):
    """Tells its own listeners at once, the others at the next look."""

    def __init__(self) -> None:
        super().__init__()
        self.unsaid: deque[tuple[str, Message]] = deque(maxlen=MOST)

    def publish(self, topic: str, message: Message) -> None:
        """As any bus, and to the others."""
        if not self.stopping:
            self.unsaid.append((topic, message))
        super().publish(topic, message)

    def heard(self, topic: str, message: Message) -> None:
        """From another worker."""
        super().publish(topic, message)


class Sharing:
    """The looks of one worker. ctx: with a SharedBus."""

    def __init__(self, ctx: Context) -> None:
        assert isinstance(ctx.bus, SharedBus)
        self._ctx, self._bus = ctx, ctx.bus
        self._written: dict[tuple[int, str], tuple[str, int, int]] = {}
        self._stopping = threading.Event()
        with ctx.store.read() as db:
            self._last = db.scalar(select(func.max(Happened.id))) or 0
        gone = delete(RunningJob).where(RunningJob.worker == ctx.worker)  # of the one that had this number before
        ctx.store.write(lambda db: db.execute(gone))
        self._thread = threading.Thread(target=self._run, name="sharing", daemon=True)

    def start(self) -> None:
        """Look until stopped."""
        self._thread.start()

    def stop(self) -> None:
        """The last look has been when this returns."""
        self._stopping.set()
        if self._thread.is_alive():
            self._thread.join(5)

    def _run(self) -> None:
        while not self._stopping.wait(LOOK):
            try:
                self.look()
            except Exception:  # a full disk, a busy store: the next look is soon
                log.exception("what happens could not be shared")

    def look(self) -> None:
        """Once."""
        self._tell()
        self._hear()

    def _tell(self) -> None:
        said: dict[str, dict[str, Any]] = {}
        now = self._ctx.clock()
        while self._bus.unsaid:
            topic, message = self._bus.unsaid.popleft()
            row = {"worker": self._ctx.worker, "topic": topic, "message": message, "at": now}
            said[topic + json.dumps(message)] = row
        running = {key: (job.what, job.done, job.total) for key, job in list(self._ctx.own(RunningJobs).named.items())}
        moved = {key: at for key, at in running.items() if self._written.get(key) != at}
        ended = self._written.keys() - running.keys()
        if not (said or moved or ended):
            return

        def work(connection: Connection) -> None:
            if said:
                connection.execute(insert(Happened), list(said.values()))
                connection.execute(delete(Happened).where(Happened.at < now - KEPT))
            for (person, name), (what, done, total) in moved.items():
                at = {"what": what, "done": done, "total": total, "worker": self._ctx.worker}
                row = upsert(RunningJob).values(person_id=person, name=name, stop=False, **at)
                connection.execute(row.on_conflict_do_update(index_elements=["person_id", "name"], set_=at))
            for person, name in ended:
                connection.execute(delete(RunningJob).where(RunningJob.person_id == person, RunningJob.name == name))

        self._ctx.store.write_soon(work).result()
        self._written = running

    def _hear(self) -> None:
        with self._ctx.store.read() as db:
            news = db.execute(
                select(Happened.id, Happened.worker, Happened.topic, Happened.message)
                .where(Happened.id > self._last)
                .order_by(Happened.id)
            ).all()
            stops = (
                db.execute(
                    select(RunningJob.person_id, RunningJob.name).where(
                        RunningJob.worker == self._ctx.worker, RunningJob.stop.is_(True)
                    )
                ).all()
                if self._written
                else []
            )
        for id, worker, topic, message in news:
            self._last = id
            if worker != self._ctx.worker:
                self._bus.heard(topic, message)
        jobs = self._ctx.own(RunningJobs).named
        for person, name in stops:
            job: Job | None = jobs.get((person, name))
            if job is not None:
                job.stop()
