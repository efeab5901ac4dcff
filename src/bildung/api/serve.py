"""Running the server."""

from __future__ import annotations

import signal
import socket
from types import FrameType

import uvicorn

from bildung.api.app import create_app
from bildung.services.context import Context


class Server(uvicorn.Server):
    """Ends open event streams first, so that a stop does not wait for them."""

    context: Context

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        self.context.bus.stop()
        super().handle_exit(sig, frame)


def serve(ctx: Context, host: str, port: int) -> None:
    """Until told to stop."""
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    config = uvicorn.Config(
        create_app(ctx), host=host, port=port, log_level="warning", timeout_graceful_shutdown=3, access_log=False
    )
    server = Server(config)
    server.context = ctx
    server.run()
    ctx.store.close()


def port_is_free(host: str, port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        return probe.connect_ex((host, port)) != 0
