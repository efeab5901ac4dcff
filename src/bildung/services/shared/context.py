"""What every service needs: the store, the time, and somebody to tell."""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from bildung.core.school.clockwatch import ClockWatch
from bildung.services.shared.bus import Bus
from bildung.store.store import Store

log = logging.getLogger("bildung")


def system_clock() -> datetime:
    return datetime.now(UTC)


@dataclass
class Context:
    store: Store
    clock: Callable[[], datetime] = system_clock
    bus: Bus = field(default_factory=Bus)
    cache: dict[Any, Any] = field(default_factory=dict)
    watch: ClockWatch = field(default_factory=ClockWatch)
    counter: Callable[[], float] | None = None
    _steady: bool = True

    def look_at_clock(self) -> None:
        """Before what the server does by itself. counter: seconds that only count on; None: the clock is not doubted, as
        in a test that turns it."""
        if self.counter is None:
            return
        before = self._steady
        self._steady = self.watch.steady(self.clock(), self.counter())
        if before and not self._steady:
            log.warning("the clock jumped by %.0f s; nothing closes by itself until it is confirmed", self.watch.jumped)

    def clock_steady(self) -> bool:
        """Whether the clock can be acted on."""
        return self._steady
