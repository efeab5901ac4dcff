"""Folders that many tests begin with: made once by whoever comes first, in whatever process, and copied by the rest."""

from __future__ import annotations

import atexit
import contextlib
import fcntl
import functools
import os
import pickle
import shutil
import tempfile
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import TypeVar

T = TypeVar("T")
SHARED = "BILDUNG_TEST_TEMPLATES"  # names a folder that the processes of one run share


@functools.cache
def place() -> Path:
    """Where the templates of this run lie."""
    if shared := os.environ.get(SHARED):
        return Path(shared)
    own = Path(tempfile.mkdtemp(prefix="bildung-templates-"))
    atexit.register(shutil.rmtree, own, ignore_errors=True)
    return own


@contextlib.contextmanager
def _alone(name: str) -> Iterator[None]:
    """Nobody else makes this template meanwhile."""
    with (place() / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def template(name: str, make: Callable[[Path], T]) -> tuple[Path, T]:
    """The folder of this name, never to be written to, and what `make` returned when it filled it.

    Parameters
    ----------
    name
        What tells this template from all others.
    make
        Fills the folder it is given, which does not exist yet; what it returns can be pickled.
    """
    folder, result = place() / name, place() / f"{name}.pickle"
    if not result.exists():
        with _alone(name):
            if not result.exists():
                made = make(folder)
                partial = result.with_suffix(".partial")
                partial.write_bytes(pickle.dumps(made))
                partial.rename(result)
                return folder, made
    return folder, pickle.loads(result.read_bytes())


def copied(name: str, make: Callable[[Path], T], to: Path) -> T:
    """A copy of the template at `to`, which may exist; returns what `make` returned."""
    folder, result = template(name, make)
    shutil.copytree(folder, to, dirs_exist_ok=True)
    return result


def _demo(folder: Path) -> datetime:
    """One school, made today by the code that makes the whole demo; returns when that was."""
    from bildung.cli import _make
    from bildung.demo.district import one_school

    now = datetime.now(UTC)
    _make(folder, one_school, quiet=True)
    return now


def demo_folder(to: Path) -> datetime:
    """A copy of the demo, one for the tests of services and of pages; returns when it was made."""
    return copied("demo", _demo, to)
