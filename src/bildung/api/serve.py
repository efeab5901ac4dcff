"""Running the server."""

from __future__ import annotations

import contextlib
import gc
import ipaddress
import signal
import socket
import ssl
import time
from collections.abc import Sequence
from pathlib import Path
from types import FrameType

import uvicorn

from bildung.api.app import create_app
from bildung.api.elsewhere import Elsewhere, Shipped
from bildung.services.shared.context import Context

KEEP_ALIVE = 75  # seconds: longer than a student thinks between two answers, so that a connection is not made for each


class Server(uvicorn.Server):
    """Ends open event streams first, so that a stop does not wait for them."""

    context: Context

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        self.context.bus.stop()
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


def serve(
    ctx: Context,
    host: str,
    port: int,
    proxies: Sequence[str] = (),
    tls: tuple[Path | None, Path | None] | None = None,
    workers: int = 0,
) -> None:
    """Until told to stop by Ctrl+C or SIGTERM: open requests end, event streams are closed. proxies: addresses whose
    forwarded headers are believed; nobody else's are. tls: a certificate with its chain and its key, PEM. workers: processes beside
    this one for heavy pages of staff, and one more for what they look at all the time; 0: none."""
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    app = create_app(ctx)
    elsewhere = Elsewhere(ctx, workers) if workers else None
    config = uvicorn.Config(
        Shipped(app, elsewhere) if elsewhere else app,
        host=host,
        port=port,
        log_level="warning",
        timeout_graceful_shutdown=3,
        timeout_keep_alive=KEEP_ALIVE,
        access_log=False,
        proxy_headers=bool(proxies),
        forwarded_allow_ips=list(proxies),
        ssl_certfile=tls[0] if tls else None,
        ssl_keyfile=tls[1] if tls else None,
    )
    ctx.counter = time.monotonic
    server = Server(config)
    server.context = ctx
    gc.freeze()
    gc.enable()
    with contextlib.suppress(KeyboardInterrupt):  # the signal that ended it is raised once more
        try:
            server.run()
        finally:
            if elsewhere:
                elsewhere.stop()


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
