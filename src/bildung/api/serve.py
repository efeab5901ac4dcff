"""Running the server."""

from __future__ import annotations

import contextlib
import ipaddress
import signal
import socket
import time
from collections.abc import Sequence
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


def serve(ctx: Context, host: str, port: int, proxies: Sequence[str] = ()) -> None:
    """Until told to stop by Ctrl+C or SIGTERM: open requests end, event streams are closed. proxies: addresses whose
    forwarded headers are believed; nobody else's are."""
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    config = uvicorn.Config(
        create_app(ctx), host=host, port=port, log_level="warning", timeout_graceful_shutdown=3, access_log=False,
        proxy_headers=bool(proxies), forwarded_allow_ips=list(proxies),
    )  # fmt: skip
    ctx.counter = time.monotonic
    server = Server(config)
    server.context = ctx
    with contextlib.suppress(KeyboardInterrupt):  # the signal that ended it is raised once more
        server.run()


def is_here(host: str) -> bool:
    """Whether only this machine reaches the address."""
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def port_is_free(host: str, port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        return probe.connect_ex((host, port)) != 0
