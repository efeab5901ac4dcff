"""Running the server."""

from __future__ import annotations

import contextlib
import gc
import ipaddress
import signal
import socket
import ssl
import time
from collections.abc import Callable
from pathlib import Path
from types import FrameType

import uvicorn
from starlette.types import ASGIApp

from bildung.api.app import create_app
from bildung.api.elsewhere import Elsewhere, Shipped
from bildung.api.workers import Numbered, Others, Serving, sharing
from bildung.services.shared.context import Context
from bildung.services.shared.sharing import SharedBus

KEEP_ALIVE = 75  # seconds: longer than a student thinks between two answers, so that a connection is not made for each


class Server(uvicorn.Server):
    """Ends open event streams first, so that a stop does not wait for them. ending: told when it begins to end."""

    context: Context
    ending: Callable[[], None] | None = None

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        self.context.bus.stop()
        if self.ending:
            self.ending()
        super().handle_exit(sig, frame)


def tls_problem(cert: Path | None, key: Path | None) -> str:
    """Why a certificate and its key cannot be served with; empty where they can."""
    if cert is None or key is None:
        return "TLS wants both --cert and --key"
    for path in (cert, key):
        if not path.is_file():
            return f"{path} is no file; --cert and --key name PEM files"
    try:
        ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(cert, key)
    except (ssl.SSLError, OSError) as error:
        return f"{cert} and {key} are no certificate with its key: {getattr(error, 'reason', None) or error}"
    return ""


def serve(ctx: Context, how: Serving, workers: int = 1) -> None:
    """Until told to stop by Ctrl+C or SIGTERM: open requests end, event streams are closed. workers: processes that answer
    requests, this one among them."""
    listening = _listen(how.host, how.port)
    with contextlib.ExitStack() as stack:
        if workers > 1:
            ctx.bus, ctx.shared = SharedBus(), True
            stack.enter_context(sharing(ctx))
            others = Others(ctx, workers - 1, how, listening)
            stack.callback(others.stop)
        run(ctx, how, listening, others.tell if workers > 1 else None)


def run(ctx: Context, how: Serving, listening: socket.socket, ending: Callable[[], None] | None = None) -> None:
    """One worker, on a socket that all have. ending: called when it is told to end."""
    made = create_app(ctx, students_first=True)
    app: ASGIApp = made
    elsewhere = Elsewhere(ctx, how.helpers) if how.helpers else None
    if elsewhere:
        made.state.queue = elsewhere
        app = Shipped(app, elsewhere)
    config = uvicorn.Config(
        Numbered(app, ctx.worker) if ctx.shared else app,
        log_level="warning",
        timeout_graceful_shutdown=3,
        timeout_keep_alive=KEEP_ALIVE,
        access_log=False,
        proxy_headers=bool(how.proxies),
        forwarded_allow_ips=list(how.proxies),
        ssl_certfile=how.tls[0] if how.tls else None,
        ssl_keyfile=how.tls[1] if how.tls else None,
    )
    ctx.counter = time.monotonic
    server = Server(config)
    server.context, server.ending = ctx, ending
    gc.freeze()
    gc.enable()
    with contextlib.suppress(KeyboardInterrupt):  # the signal that ended it is raised once more
        signal.signal(signal.SIGTERM, signal.default_int_handler)
        try:
            server.run([listening])
        finally:
            if elsewhere:
                elsewhere.stop()


def _listen(host: str, port: int) -> socket.socket:
    """A socket that accepts as soon as somebody takes from it."""
    family = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[0][0]
    made = socket.create_server((host, port), family=family, backlog=2048)
    made.setblocking(False)
    return made


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
