"""The server under load: a process of its own, whose processor time can be read, and which can be killed."""

from __future__ import annotations

import contextlib
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

STARTS_WITHIN = 60  # seconds


class Served:
    """port: chosen once, so that devices find it again. helpers: processes beside it; None: as many as it takes by itself. workers: that
    answer requests."""

    def __init__(self, folder: Path, helpers: int | None = None, workers: int = 1) -> None:
        self.folder, self.helpers, self.workers = folder, helpers, workers
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port: int = free.getsockname()[1]
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> float:
        """Seconds until the first answer."""
        began = time.monotonic()
        self.process = subprocess.Popen(
            [
                *(sys.executable, "-m", "bildung.cli", "serve", "--data", str(self.folder), "--port", str(self.port)),
                *("--workers", str(self.workers)),
                *([] if self.helpers is None else ["--helpers", str(self.helpers)]),
            ],
            stdout=subprocess.DEVNULL,
        )
        while time.monotonic() - began < STARTS_WITHIN:
            with contextlib.suppress(OSError):
                urllib.request.urlopen(f"http://127.0.0.1:{self.port}/api/welcome", timeout=2).close()
                return time.monotonic() - began
            time.sleep(0.02)
        raise RuntimeError("the server did not start within a minute")

    def kill(self) -> None:
        """At once, as a power cut would."""
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def stop(self) -> float:
        """Seconds that it took to end as it should."""
        assert self.process is not None
        began = time.monotonic()
        self.process.terminate()
        try:
            self.process.wait(15)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
        return time.monotonic() - began
