"""Running a stand-in beside the application, in a thread of its own on a free port."""

from __future__ import annotations

import contextlib
import socket
import threading
import time
from collections.abc import Iterator

import uvicorn
from fastapi import FastAPI

SECONDS = 20


class ServedBeside:
    def __init__(self, app: FastAPI) -> None:
        self.socket = socket.socket()
        self.socket.bind(("127.0.0.1", 0))
        self.address = f"http://127.0.0.1:{self.socket.getsockname()[1]}"
        self.server = uvicorn.Server(uvicorn.Config(app, log_level="warning", access_log=False, lifespan="off"))
        self.thread = threading.Thread(target=self.server.run, args=([self.socket],), daemon=True, name="stand-in")

    def start(self) -> str:
        """Its address, once it answers."""
        self.thread.start()
        deadline = time.monotonic() + SECONDS
        while not self.server.started:
            if time.monotonic() > deadline:
                raise RuntimeError("a stand-in did not start")
            time.sleep(0.01)
        return self.address

    def stop(self) -> None:
        self.server.should_exit = True
        self.thread.join(SECONDS)


@contextlib.contextmanager
def beside(app: FastAPI) -> Iterator[str]:
    running = ServedBeside(app)
    try:
        yield running.start()
    finally:
        running.stop()
