"""Results that are kept while they are asked for, by what they rest on."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

from bildung.services.shared.context import Context

T = TypeVar("T")


class KeptResults:
    """The `most` results that were used last; may be asked by several threads at once. Two that ask for the same new
    result both make it, which costs time and nothing else."""

    def __init__(self, most: int) -> None:
        self.most = most
        self._lock = threading.Lock()
        self._results: OrderedDict[Hashable, Any] = OrderedDict()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        with self._lock:
            if key in self._results:
                self._results.move_to_end(key)
                return self._results[key]  # type: ignore[no-any-return]
        found = make()
        with self._lock:
            self._results[key] = found
            while len(self._results) > self.most:
                self._results.popitem(last=False)
        return found


def kept(ctx: Context, name: str, most: int) -> KeptResults:
    found: KeptResults = ctx.cache.setdefault(f"kept.{name}", KeptResults(most))
    return found
