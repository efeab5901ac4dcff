"""The built pages: files as they are, every other address the application itself."""

from __future__ import annotations

import base64
import hashlib
import re
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.datastructures import MutableHeaders
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

# nothing here asks for any of these; a test that is taken does not want them either
PERMISSIONS = ", ".join(
    f"{name}=()"
    for name in (
        "accelerometer",
        "autoplay",
        "bluetooth",
        "camera",
        "display-capture",
        "geolocation",
        "gyroscope",
        "hid",
        "microphone",
        "midi",
        "payment",
        "serial",
        "usb",
        "xr-spatial-tracking",
    )
)
BUILD = Path(__file__).parents[4] / "ui" / "build"


def content_policy(index: str) -> str:
    """Scripts only from here, and the one inline starter by its hash."""
    hashes = " ".join(
        f"'sha256-{base64.b64encode(hashlib.sha256(body.encode()).digest()).decode()}'"
        for body in re.findall(r"<script>(.*?)</script>", index, re.DOTALL)
    )
    return (
        f"default-src 'none'; script-src 'self' {hashes}; style-src 'self' 'unsafe-inline'; img-src 'self' data:; media-src 'self'; "
        "font-src 'self'; connect-src 'self' ws://127.0.0.1:8791; worker-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    )


class SafeHeaders:
    """Adds the security headers that a response does not set itself."""

    def __init__(self, app: ASGIApp, policy: str) -> None:
        self.app = app
        self.policy = policy

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers.setdefault("Content-Security-Policy", self.policy)
                headers.setdefault("X-Content-Type-Options", "nosniff")
                headers.setdefault("Referrer-Policy", "same-origin")
                headers.setdefault("Permissions-Policy", PERMISSIONS)
                headers.setdefault("Cross-Origin-Opener-Policy", "same-origin")
                headers.setdefault("Cross-Origin-Resource-Policy", "same-origin")
                if scope.get("scheme") == "https":
                    headers.setdefault("Strict-Transport-Security", "max-age=31536000")
                if scope["path"].startswith("/api/"):
                    headers.setdefault("Cache-Control", "no-store")
            await send(message)

        await self.app(scope, receive, with_headers if scope["type"] == "http" else send)


def install(app: FastAPI, build: Path = BUILD) -> None:
    index = build / "index.html"
    text = index.read_text("utf-8") if index.exists() else "<p>The pages are not built: run ./bildung demo</p>"
    policy = content_policy(text)
    root = build.resolve()

    app.add_middleware(SafeHeaders, policy=policy)

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path == "api" or path.startswith("api/"):
            raise HTTPException(404, "there is no such address")
        if "\x00" in path:
            raise HTTPException(404, "there is no such address")
        file = (root / path).resolve()
        if path and file.is_relative_to(root) and file.is_file():
            cache = "public, max-age=31536000, immutable" if "/immutable/" in f"/{path}" else "no-cache"
            return FileResponse(file, headers={"Cache-Control": cache})
        return HTMLResponse(text, headers={"Cache-Control": "no-cache"})
