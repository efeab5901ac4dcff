"""What every service needs: the store, the time, and somebody to tell."""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any, TypeVar

from bildung.core.school.clockwatch import ClockWatch
from bildung.services.shared.bus import Bus
from bildung.store.store import Store

S = TypeVar("S")
JUST_BACK = 300.0  # seconds
log = logging.getLogger("bildung")


def system_clock() -> datetime:
    """The time of this machine, in UTC."""
    return datetime.now(UTC)


@dataclass(kw_only=True)
class Context:
    """worker: which of the web workers on this store; the first does what is done by itself. shared: there are others, so
    what they must know goes through the store."""

    store: Store
    clock: Callable[[], datetime] = system_clock
    bus: Bus = field(default_factory=Bus)
    watch: ClockWatch = field(default_factory=ClockWatch)
    counter: Callable[[], float] | None = None
    worker: int = 0
    shared: bool = False
    _steady: bool = True
    _since: float | None = None
    _owned: dict[type[Any], Any] = field(default_factory=dict)

    def own(self, kind: type[S]) -> S:
        """What a station keeps at hand between requests: the one object of this class, made with its defaults. The class
        belongs to whoever declares it, and its fields say what is kept."""
        found: S = self._owned.setdefault(kind, kind()) if kind not in self._owned else self._owned[kind]
        return found

    def forget(self) -> None:
        """Everything that is at hand; what is in the store stays."""
        self._owned.clear()

    def look_at_clock(self) -> None:
        """Before what the server does by itself. counter: seconds that only count on; None: the clock is not doubted, as
        in a test that turns it."""
        if self.counter is None:
            return
        if self._since is None:
            self._since = self.counter()
        before = self._steady
        self._steady = self.watch.steady(self.clock(), self.counter())
        if before and not self._steady:
            log.warning("the clock jumped by %.0f s; nothing closes by itself until it is confirmed", self.watch.jumped)

    def just_back(self) -> bool:
        """Whether the server was away until a moment ago: what devices hold is to come in before anything is closed."""
        return self.counter is not None and self._since is not None and self.counter() - self._since < JUST_BACK

    def clock_steady(self) -> bool:
        """Whether the clock can be acted on."""
        return self._steady
