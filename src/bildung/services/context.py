"""What every service needs: the store, the time, and somebody to tell."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from bildung.services.bus import Bus
from bildung.store.store import Store


def system_clock() -> datetime:
    return datetime.now(UTC)


@dataclass
class Context:
    store: Store
    clock: Callable[[], datetime] = system_clock
    bus: Bus = field(default_factory=Bus)
    cache: dict[Any, Any] = field(default_factory=dict)
