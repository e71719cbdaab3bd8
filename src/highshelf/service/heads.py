"""HEAD: what GET would answer, without its body (RFC 9110, 9.3.2). The server itself sends none to whoever asked so."""

from __future__ import annotations

import re

from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send

# These never come to an end by themselves.
STREAMS = re.compile(r"^/api/v1/(watch|jobs/[^/]+/events)$")


class Heads:
    """ASGI middleware."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        answers: ASGIApp = self._app
        if scope["type"] == "http" and scope["method"] == "HEAD":
            if STREAMS.match(str(scope["path"])):
                answers = Response(status_code=405, headers={"Allow": "GET"})
            scope = {**scope, "method": "GET"}
        await answers(scope, receive, send)
