"""Printing in a process of its own, with low priority: laying out pages keeps a processor busy for seconds, and whoever
saves an answer meanwhile must not wait.

Run as a module this file is that process; both ends are this file, so nothing foreign is ever unpickled.
"""

from __future__ import annotations

import os
import pickle
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable

from bildung.core.errors import Refused
from bildung.reports.document import Document, Size, to_pdf

EVERY = 0.2
LONGEST = 600.0
NICENESS = "BILDUNG_PRINT_NICENESS"  # of the process: tests, which keep every core busy, set 0


def print_apart(document: Document, size: Size, tell: Callable[[], None] | None = None) -> bytes:
    """As `to_pdf`. tell: called several times a second; what it raises stops the work and passes through."""
    with (
        tempfile.TemporaryFile() as given
    ):  # not a pipe: `communicate` forgets what it could not write before a time-out
        pickle.dump((document, size), given)
        given.seek(0)
        process = subprocess.Popen(
            [sys.executable, "-m", "bildung.reports.apart"],
            stdin=given,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
        )
        out = _answer(process, tell)
    if process.returncode != 0 or not out.startswith(b"%PDF"):
        raise Refused("the pages could not be laid out; ask again")
    return out


def _answer(process: subprocess.Popen[bytes], tell: Callable[[], None] | None) -> bytes:
    """What the other process gives out; it is gone afterwards, however this ends."""
    started = time.monotonic()
    try:
        while True:
            try:
                return process.communicate(timeout=EVERY)[0]
            except subprocess.TimeoutExpired:
                if tell is not None:
                    tell()
                if time.monotonic() - started > LONGEST:
                    raise Refused(
                        f"laying it out took more than {LONGEST / 60:.0f} minutes; choose fewer students or items"
                    ) from None
    finally:
        process.kill()
        process.wait()


if __name__ == "__main__":
    os.nice(int(os.environ.get(NICENESS, "10")))
    sys.stdout.buffer.write(to_pdf(*pickle.loads(sys.stdin.buffer.read())))
