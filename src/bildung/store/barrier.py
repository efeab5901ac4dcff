"""Between processes on one data folder: while one writes in pieces, the others write nothing but answers."""

from __future__ import annotations

import contextlib
import os
import sys
from pathlib import Path

if sys.platform != "win32":
    import fcntl


class Busy(Exception):
    """Another process is writing just now; soon it is not."""


class Barrier:
    """A lock on a file: shared by whoever writes something whole, alone for whoever writes in pieces."""

    def __init__(self, path: Path) -> None:
        self._file = os.open(path, os.O_RDWR | os.O_CREAT, 0o600)
        self._closed = False

    def close(self) -> bool:
        """From now on the others wait; False where one of them writes at this moment."""
        self._closed = self._lock(alone=True)
        return self._closed

    def open(self) -> None:
        """The others go on."""
        self._closed = False
        self._unlock()

    def pass_by(self) -> bool:
        """Whether something whole can be written now; `passed` once it is."""
        return self._closed or self._lock(alone=False)

    def passed(self) -> None:
        """It is written."""
        if not self._closed:
            self._unlock()

    def give_up(self) -> None:
        """The store is closed."""
        if self._file >= 0:
            os.close(self._file)
        self._file = -1

    def _lock(self, alone: bool) -> bool:
        if sys.platform == "win32":  # one process there
            return True
        try:
            fcntl.flock(self._file, (fcntl.LOCK_EX if alone else fcntl.LOCK_SH) | fcntl.LOCK_NB)
        except BlockingIOError:
            return False
        except OSError:  # a file system without such locks: then one process serves it
            return True
        return True

    def _unlock(self) -> None:
        if sys.platform != "win32":
            with contextlib.suppress(OSError):
                fcntl.flock(self._file, fcntl.LOCK_UN)
