"""The one writer: queued work in one thread, many pieces to a commit.

Each piece runs in a savepoint of its own, so that one that fails leaves the others alone; nobody
is answered before the commit is on disk. Under load the cost of a commit is shared by all that wait.

Two queues: what must not wait (answers of students) and the rest. They take turns, and a commit of the rest ends as soon
as something of the first is waiting, so that an answer waits for one piece of other work at most. Work in pieces is ahead of
the rest from its first piece to its last: nobody but students writes in between, here or in another process.
"""

from __future__ import annotations

import contextlib
import logging
import sqlite3
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future
from typing import Any, NamedTuple, TypeVar

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from bildung.store.barrier import Barrier, Busy

T = TypeVar("T")
log = logging.getLogger(__name__)
BATCH = 64
AGAIN = 0.02  # seconds until what has to wait is tried again
LONGEST = 0.02  # seconds of work after which a commit of the rest takes nothing more in


WAITS = (OSError, sqlite3.OperationalError, OperationalError)
"""What may be otherwise in a moment: a disk that is full, a store that is busy."""


class HalfDone(Exception):
    """Bulk work whose first pieces are written and the others not yet; its log is on disk."""


class _Job(NamedTuple):
    """alone: in a commit of its own."""

    work: Callable[[Connection], Any]
    future: Future[Any]
    alone: bool = False


class Writer:
    def __init__(self, engine: Engine, barrier: Barrier) -> None:
        self._engine, self._barrier = engine, barrier
        self._pieces: deque[_Job] = deque()
        self._again = 0.0  # when a piece that failed, or waits for another process, is tried again
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

    def run_on_rows(self, work: Callable[[Connection], T]) -> T:
        """Work on rows, in its turn; returns once it is on disk."""
        return self._put(self._rest, work).result()

    def run_pieces(self, pieces: Sequence[Callable[[Connection], None]]) -> None:
        """One after the other, each in a commit of its own. Where the first fails nothing is done and the error raised; from
        then on they are all done, however often one has to be tried; HalfDone where the store is closed before, or where one
        can never be written, which only a fault of ours could bring about."""

        def begin(connection: Connection) -> None:
            if not self._barrier.close():
                raise Busy
            pieces[0](connection)

        last: Future[None] = Future()

        def go_on(first: Future[None]) -> None:  # in the writer's thread, before it takes anything else
            error = first.exception()
            if error is not None:
                self._barrier.open()
                last.set_exception(error)
                return
            self._pieces.extend(_Job(piece, Future(), alone=True) for piece in pieces[1:])
            if self._pieces:
                self._pieces[-1].future.add_done_callback(end)
            else:
                end(first)

        def end(done: Future[None]) -> None:
            self._barrier.open()
            error = done.exception()
            if error is None:
                last.set_result(None)
            else:
                last.set_exception(HalfDone(str(error)))

        self._put(self._rest, begin, alone=True).add_done_callback(go_on)
        last.result()

    def soon(self, work: Callable[[Connection], T]) -> Future[T]:
        """Short work on rows, before all others, without waiting for it; done once it is on disk."""
        return self._put(self._first, work)

    def stop(self) -> None:
        """What is queued is still done."""
        with self._wake:
            self._stopping = True
            self._wake.notify()
        self._thread.join()

    def _put(self, jobs: deque[_Job], work: Callable[[Connection], T], alone: bool = False) -> Future[T]:
        future: Future[T] = Future()
        future.set_running_or_notify_cancel()  # from here on it cannot be canceled: whoever no longer waits is no reason to stop
        with self._wake:
            if self._stopping:
                raise RuntimeError("the store is closed")
            jobs.append(_Job(work, future, alone))
            self._wake.notify()
        return future

    def _loop(self) -> None:
        rest_next = False
        while True:
            with self._wake:
                while not (self._first or self._may_go_on() or self._stopping):
                    self._wake.wait(self._pause())
                if not (self._first or self._rest or self._pieces):
                    return
            of_rest = self._may_go_on() and (rest_next or not self._first)
            if of_rest and self._pieces:
                self._next_piece()
            elif of_rest and not self._barrier.pass_by():  # another process is in the middle of its pieces
                self._again = time.monotonic() + AGAIN
            elif of_rest:
                try:
                    self._commit(self._of_rest(), apart=True)
                finally:
                    self._barrier.passed()
            elif self._first:
                self._commit_first([self._first.popleft() for _ in range(min(BATCH, len(self._first)))])
            rest_next = not of_rest

    def _may_go_on(self) -> bool:
        return bool(self._rest or self._pieces) and time.monotonic() >= self._again

    def _pause(self) -> float | None:
        """Until something can be done by itself."""
        return max(0.001, self._again - time.monotonic()) if self._rest or self._pieces else None

    def _next_piece(self) -> None:
        """What has begun is ended: a piece that cannot be written now is written later."""
        job = self._pieces[0]
        try:
            with self._engine.begin() as connection:
                job.work(connection)
        except Exception as error:
            if isinstance(error, WAITS) and not self._stopping:
                log.exception("a piece of bulk work could not be written; it is tried again")
                self._again = time.monotonic() + AGAIN
                return
            log.critical("bulk work was left half done", exc_info=error)
            left = list(self._pieces)
            self._pieces.clear()
            for one in left:
                one.future.set_exception(error)
            return
        self._pieces.popleft()
        job.future.set_result(None)

    def _commit_first(self, jobs: list[_Job]) -> None:
        """All without savepoints, which cost as much as the work; where one fails, each once more by itself."""
        try:
            with self._engine.begin() as connection:
                results = [job.work(connection) for job in jobs]
        except BaseException:
            for job in jobs:
                self._commit(iter([job]), apart=False)
            return
        for job, result in zip(jobs, results, strict=True):
            job.future.set_result(result)

    def _of_rest(self) -> Iterator[_Job]:
        began = time.monotonic()
        for at in range(min(BATCH, len(self._rest))):
            if at and self._rest[0].alone:
                return
            job = self._rest.popleft()
            yield job
            if job.alone or self._first or time.monotonic() - began > LONGEST:
                return

    def _commit(self, jobs: Iterator[_Job], apart: bool) -> None:
        """apart: each in a savepoint, so that one that fails leaves the others alone."""
        taken: list[Future[Any]] = []
        done: list[tuple[Future[Any], Any]] = []
        try:
            with self._engine.begin() as connection:
                for job in jobs:
                    taken.append(job.future)
                    try:
                        with connection.begin_nested() if apart else contextlib.nullcontext():
                            result = job.work(connection)
                        done.append((job.future, result))
                    except BaseException as error:
                        job.future.set_exception(error)
                        if not apart:
                            raise
        except BaseException as error:
            # nobody waits for ever on a disk that is full
            for future in taken or [job.future for job in jobs]:
                if not future.done():
                    future.set_exception(error)
            return
        for future, result in done:
            future.set_result(result)
