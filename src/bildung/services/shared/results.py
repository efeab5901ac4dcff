"""Results that are kept while they are asked for, by what they rest on."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

T = TypeVar("T")


class KeptResults(Generic[T]):
    """The `most` results that were used last; may be asked by several threads at once. Two that ask for the same new
    result both make it, which costs time and nothing else."""

    def __init__(self, most: int) -> None:
        self.most = most
        self._lock = threading.Lock()
        self._results: OrderedDict[Hashable, T] = OrderedDict()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The result kept under this key, made and kept where there is none."""
        with self._lock:
            if key in self._results:
                self._results.move_to_end(key)
                return self._results[key]
        found = make()
        with self._lock:
            self._results[key] = found
            while len(self._results) > self.most:
                self._results.popitem(last=False)
        return found
