"""The built console, served from the package, and the headers that keep a browser within bounds.

Nothing inline, nothing from elsewhere, no frames: a text from a host that were taken for markup would still run nothing.
"""

from __future__ import annotations

from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import HTMLResponse
from starlette.datastructures import MutableHeaders
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from highshelf.service.settings import Settings

STATIC = Path(__file__).parent / "static"
CONSOLE_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; "
    "form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
# Answers of the API are data; should one be opened as a page, nothing in it runs.
DATA_POLICY = "default-src 'none'; frame-ancestors 'none'; sandbox"
EVERYWHERE = {
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=()",
}
NOT_BUILT = """<!doctype html><html lang="en"><title>High Shelf</title><h1>The console is not built in this checkout</h1>
<p>Run <code>./bin/demo</code> once, or use a package: those have it. The command line and the API work without it.</p></html>"""


class SafeHeaders:
    """ASGI middleware: policy, caching and the rest, by path."""

    def __init__(self, app: ASGIApp, settings: Settings) -> None:
        self._app, self._settings = app, settings

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        path = str(scope["path"])

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in EVERYWHERE.items():
                    headers[name] = value
                headers["Content-Security-Policy"] = DATA_POLICY if path.startswith("/api/") else CONSOLE_POLICY
                if self._settings.encrypted or scope["scheme"] == "https":
                    headers["Strict-Transport-Security"] = "max-age=31536000"
                headers["Cache-Control"] = _caching(path, int(message["status"]))
            await send(message)

        await self._app(scope, receive, with_headers)


def _caching(path: str, status: int) -> str:
    if path.startswith("/api/"):
        return "no-store"
    # Built files have a hash of their content in the name.
    return "public, max-age=31536000, immutable" if path.startswith("/assets/") and status == 200 else "no-cache"


def add_console(app: FastAPI) -> None:
    """Serve the console below `/`; its pages' addresses are all answered with its one document."""

    # Without this an address of the API that is none would be answered with the console's page.
    @app.api_route("/api/{rest:path}", methods=["GET", "HEAD"], include_in_schema=False)
    def nowhere(rest: str) -> None:
        raise HTTPException(404, "Not Found")

    if (STATIC / "index.html").is_file():
        app.frontend("/assets", directory=STATIC / "assets", fallback=None)
        app.frontend("/", directory=STATIC, fallback="index.html")
        return

    @app.get("/{rest:path}", include_in_schema=False)
    def not_built(rest: str) -> HTMLResponse:
        return HTMLResponse(NOT_BUILT, 503)
