"""Slowing down guessing: so many failures by key within a while, then a wait."""

from __future__ import annotations

import threading
from collections import defaultdict, deque
from datetime import datetime, timedelta

from bildung.services.errors import TooMany


class Throttle:
    def __init__(self, failures: int, within: timedelta) -> None:
        self.failures, self.within = failures, within
        self._lock = threading.Lock()
        self._seen: defaultdict[str, deque[datetime]] = defaultdict(deque)

    def check(self, key: str, now: datetime) -> None:
        """TooMany while the limit is passed."""
        with self._lock:
            if len(self._seen) > 10_000:
                self._seen.clear()
            seen = self._seen[key]
            while seen and now - seen[0] > self.within:
                seen.popleft()
            if len(seen) >= self.failures:
                minutes = int(self.within.total_seconds() // 60)
                raise TooMany(f"{self.failures} tries failed; wait up to {minutes} minutes, or ask the coordinator")

    def failed(self, key: str, now: datetime) -> None:
        with self._lock:
            self._seen[key].append(now)
