"""Telling open pages that something changed. Topics are strings such as "session:12"."""

from __future__ import annotations

import asyncio
import contextlib
import threading
from collections import defaultdict
from collections.abc import Callable, Iterator
from typing import Any

Message = dict[str, Any]


class Bus:
    def __init__(self) -> None:
        self._lock = threading.RLock()  # a signal may stop the server while this thread holds it
        self._listeners: dict[str, set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[Message]]]] = defaultdict(set)
        self._callbacks: dict[str, list[Callable[[], object]]] = defaultdict(list)
        self.stopping = False

    def on(self, topic: str, work: Callable[[], object]) -> None:
        """Short work that is done whenever this topic is published."""
        self._callbacks[topic].append(work)

    def publish(self, topic: str, message: Message) -> None:
        """From any thread; a listener that is too slow misses messages rather than hold others up."""
        with self._lock:
            listeners = list(self._listeners.get(topic, ()))
        for work in self._callbacks.get(topic, ()):
            work()
        for loop, queue in listeners:
            with contextlib.suppress(RuntimeError):  # its loop has ended
                loop.call_soon_threadsafe(_offer, queue, message)

    def listening(self) -> int:
        """How many listen now."""
        with self._lock:
            return sum(len(listeners) for listeners in self._listeners.values())

    def stop(self) -> None:
        """Wake everybody who listens, so that open streams end."""
        self.stopping = True
        with self._lock:
            topics = list(self._listeners)
        for topic in topics:
            self.publish(topic, {})

    @contextlib.contextmanager
    def listen(self, topic: str) -> Iterator[asyncio.Queue[Message]]:
        """Within a running event loop."""
        entry = (asyncio.get_running_loop(), asyncio.Queue[Message](maxsize=500))
        with self._lock:
            self._listeners[topic].add(entry)
        try:
            yield entry[1]
        finally:
            with self._lock:
                self._listeners[topic].discard(entry)
                if not self._listeners[topic]:
                    del self._listeners[topic]


def _offer(queue: asyncio.Queue[Message], message: Message) -> None:
    with contextlib.suppress(asyncio.QueueFull):
        queue.put_nowait(message)
