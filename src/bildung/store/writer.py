"""The one writer: queued work in one thread, many pieces to a commit.

Each piece runs in a savepoint of its own, so that one that fails leaves the others alone; nobody
is answered before the commit is on disk. Under load the cost of a commit is shared by all that wait.

Two queues: what must not wait (answers of students) and the rest. They take turns, and a commit of the rest ends as soon
as something of the first is waiting, so that an answer waits for one piece of other work at most.
"""

from __future__ import annotations

import contextlib
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from typing import Any, TypeVar

from sqlalchemy import Connection, Engine
from sqlalchemy.orm import Session

T = TypeVar("T")
BATCH = 64
LONGEST = 0.02  # seconds of work after which a commit of the rest takes nothing more in

_Job = tuple[Callable[[Connection], Any], "Future[Any]"]


class Writer:
    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._first: deque[_Job] = deque()
        self._rest: deque[_Job] = deque()
        self._wake = threading.Condition()
        self._stopping = False
        self._thread = threading.Thread(target=self._loop, name="writer", daemon=True)
        self._thread.start()

    def run(self, work: Callable[[Session], T]) -> T:
        """Work on objects; returns once it is on disk."""

        def in_session(connection: Connection) -> T:
            with Session(connection, join_transaction_mode="create_savepoint") as session:
                result = work(session)
                session.commit()
            return result

        return self._put(self._rest, in_session).result()

    def soon(self, work: Callable[[Connection], T]) -> Future[T]:
        """Short work on rows, before all others, without waiting for it; done once it is on disk."""
        return self._put(self._first, work)

    def stop(self) -> None:
        """What is queued is still done."""
        with self._wake:
            self._stopping = True
            self._wake.notify()
        self._thread.join()

    def _put(self, jobs: deque[_Job], work: Callable[[Connection], T]) -> Future[T]:
        future: Future[T] = Future()
        future.set_running_or_notify_cancel()  # from here on it cannot be canceled: whoever no longer waits is no reason to stop
        with self._wake:
            if self._stopping:
                raise RuntimeError("the store is closed")
            jobs.append((work, future))
            self._wake.notify()
        return future

    def _loop(self) -> None:
        rest_next = False
        while True:
            with self._wake:
                while not (self._first or self._rest or self._stopping):
                    self._wake.wait()
                if not (self._first or self._rest):
                    return
            of_rest = bool(self._rest) and (rest_next or not self._first)
            if of_rest:
                self._commit(self._of_rest(), apart=True)
            else:
                self._commit_first([self._first.popleft() for _ in range(min(BATCH, len(self._first)))])
            rest_next = not of_rest

    def _commit_first(self, jobs: list[_Job]) -> None:
        """All without savepoints, which cost as much as the work; where one fails, each once more by itself."""
        try:
            with self._engine.begin() as connection:
                results = [work(connection) for work, _ in jobs]
        except BaseException:
            for job in jobs:
                self._commit(iter([job]), apart=False)
            return
        for (_, future), result in zip(jobs, results, strict=True):
            future.set_result(result)

    def _of_rest(self) -> Iterator[_Job]:
        began = time.monotonic()
        for _ in range(min(BATCH, len(self._rest))):
            yield self._rest.popleft()
            if self._first or time.monotonic() - began > LONGEST:
                return

    def _commit(self, jobs: Iterator[_Job], apart: bool) -> None:
        """apart: each in a savepoint, so that one that fails leaves the others alone."""
        taken: list[Future[Any]] = []
        done: list[tuple[Future[Any], Any]] = []
        try:
            with self._engine.begin() as connection:
                for work, future in jobs:
                    taken.append(future)
                    try:
                        with connection.begin_nested() if apart else contextlib.nullcontext():
                            result = work(connection)
                        done.append((future, result))
                    except BaseException as error:
                        future.set_exception(error)
                        if not apart:
                            raise
        except BaseException as error:
            # nobody waits for ever on a disk that is full
            for future in taken or [future for _, future in jobs]:
                if not future.done():
                    future.set_exception(error)
            return
        for future, result in done:
            future.set_result(result)
