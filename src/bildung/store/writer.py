"""The one writer: queued work in one thread, many pieces to a commit.

Each piece runs in a savepoint of its own, so that one that fails leaves the others alone; nobody
is answered before the commit is on disk. Under load the cost of a commit is shared by all that wait.
"""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from concurrent.futures import Future
from typing import Any, TypeVar

from sqlalchemy import Engine
from sqlalchemy.orm import Session

T = TypeVar("T")
BATCH = 64

_Job = tuple[Callable[[Session], Any], "Future[Any]"]


class Writer:
    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._jobs: queue.SimpleQueue[_Job | None] = queue.SimpleQueue()
        self._thread = threading.Thread(target=self._loop, name="writer", daemon=True)
        self._thread.start()

    def run(self, work: Callable[[Session], T]) -> T:
        if not self._thread.is_alive():
            raise RuntimeError("the store is closed")
        future: Future[T] = Future()
        self._jobs.put((work, future))
        return future.result()

    def stop(self) -> None:
        self._jobs.put(None)
        self._thread.join()

    def _loop(self) -> None:
        going = True
        while going:
            batch: list[_Job] = []
            job = self._jobs.get()
            while job is not None:
                batch.append(job)
                if len(batch) >= BATCH or self._jobs.empty():
                    break
                job = self._jobs.get()
            going = job is not None
            if batch:
                self._commit(batch)

    def _commit(self, batch: list[_Job]) -> None:
        done: list[tuple[Future[Any], Any]] = []
        try:
            with self._engine.begin() as connection:
                for work, future in batch:
                    try:
                        with Session(connection, join_transaction_mode="create_savepoint") as session:
                            result = work(session)
                            session.commit()
                        done.append((future, result))
                    except BaseException as error:
                        future.set_exception(error)
        except BaseException as error:
            # also those whose turn never came: nobody waits for ever on a disk that is full
            for _, future in batch:
                if not future.done():
                    future.set_exception(error)
            return
        for future, result in done:
            future.set_result(result)
