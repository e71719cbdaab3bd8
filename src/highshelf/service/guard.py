"""What stands before every route of the API: who asks, how much is sent, how long it takes; in this order.

Rules:
1. Nothing of a body is read before it is known who asks, but for the few calls that anybody may make.
2. A body is read whole, up to a bound, within a time; archives alone stream, with bounds of their own (store/shelf.py).
3. JSON is UTF-8 (RFC 8259, 8.1) and holds no half of a surrogate pair: such a text could be kept and never sent again.
4. While the disk is full nothing is changed, but whoever wants to look may sign in.
"""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from functools import partial

import anyio
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from highshelf.core.errors import HighShelfError, InputError
from highshelf.service.deps import SAFE, caller, rooms
from highshelf.service.faults import answer
from highshelf.service.settings import Settings

API = "/api/v1"
DOOR_BYTES, USUAL_BYTES, IMPORT_BYTES = 16 << 10, 1 << 20, 24 << 20
# A body comes within so long, and an archive never pauses for longer.
BODY_SECONDS, PAUSE_SECONDS = 15.0, 60.0
SURROGATE = re.compile(rb"\\u[dD][89a-fA-F]")


@dataclass(frozen=True)
class Bounds:
    """`bytes` 0: the body is streamed to the route."""

    open: bool = False
    bytes: int = USUAL_BYTES
    when_full: bool = False


DOOR = Bounds(open=True, bytes=DOOR_BYTES, when_full=True)
BOUNDS: dict[tuple[str, str], Bounds] = {
    ("GET", "/session"): DOOR,
    ("POST", "/session"): DOOR,
    ("DELETE", "/session"): DOOR,
    ("POST", "/session/invited"): DOOR,
    ("POST", "/session/accept"): DOOR,
    # What the service can do is in the package anyway; what it holds is behind the token.
    ("GET", "/openapi.json"): DOOR,
    ("HEAD", "/openapi.json"): DOOR,
    ("POST", "/accounts/import"): Bounds(bytes=IMPORT_BYTES),
    ("POST", "/accounts/letter"): Bounds(when_full=True),
    ("POST", "/plans/preview"): Bounds(when_full=True),
    ("POST", "/releases"): Bounds(bytes=0),
    ("POST", "/dumps"): Bounds(bytes=0),
}


class TooLargeError(InputError):
    code = "too-large"


class TooSlowError(InputError):
    code = "too-slow"


class ForeignHostError(InputError):
    code = "foreign-host"


class Guard:
    """ASGI middleware."""

    def __init__(self, app: ASGIApp, settings: Settings) -> None:
        self._app, self._settings = app, settings

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        try:
            receive = await self._let_in(scope, receive)
        except HighShelfError as fault:
            await answer(fault)(scope, receive, send)
            return
        await self._app(scope, receive, send)

    async def _let_in(self, scope: Scope, receive: Receive) -> Receive:
        """What the route may read of the request. Raises whatever speaks against it."""
        request = Request(scope)
        host = request.headers.get("host", "")
        if not self._settings.answers_to(host):
            raise ForeignHostError(
                f"this service does not answer to the name {host[:100]!r}",
                hint="open it by its own address; further names are given with `serve --name` and `--public`",
            )
        path = str(scope["path"])
        if not path.startswith(API + "/"):
            return await _bounded(request, receive, DOOR_BYTES)
        bounds = BOUNDS.get((request.method, path.removeprefix(API)), Bounds())
        if not bounds.open:
            await self._ask_who(request)
        elif request.method == "POST":
            # A flood of tries is turned away here: what it costs to route and to read them would hold up everybody else.
            rooms(request).queues["doors"].check()
        if request.method not in SAFE and not bounds.when_full:
            rooms(request).store.disk.check()
        return await _bounded(request, receive, bounds.bytes) if bounds.bytes else _unpaused(receive)

    async def _ask_who(self, request: Request) -> None:
        # A token is compared in no time; a session is looked up, in a thread of its own.
        by_token = "authorization" in request.headers
        who = caller(request) if by_token else await rooms(request).queues["callers"].run(partial(caller, request))
        request.scope.setdefault("state", {})["who"] = who


async def _bounded(request: Request, receive: Receive, limit: int) -> Receive:
    """The whole body, as one message. Raises TooLargeError, TooSlowError, InputError."""
    said = request.headers.get("content-length", "0")
    if not re.fullmatch(r"\d{1,15}", said) or int(said) > limit:
        raise _too_large(limit)
    body = bytearray()
    more = request.method not in SAFE or said != "0" or "transfer-encoding" in request.headers
    try:
        with anyio.fail_after(BODY_SECONDS):
            while more:
                message = await receive()
                if message["type"] != "http.request":
                    break
                body += message.get("body", b"")
                if len(body) > limit:
                    raise _too_large(limit)
                more = message.get("more_body", False)
    except TimeoutError:
        raise TooSlowError(
            f"the request did not come to its end within {BODY_SECONDS:.0f} s", hint="send it again"
        ) from None
    if "json" in request.headers.get("content-type", "") or SURROGATE.search(body):
        _check_text(bytes(body))
    return _Replay(bytes(body), receive)


def _too_large(limit: int) -> TooLargeError:
    return TooLargeError(
        f"the request is larger than {limit >> 10} kB",
        hint="archives and imports have calls of their own that take more",
    )


def _check_text(body: bytes) -> None:
    """Raises InputError when a JSON text is not UTF-8, or holds half a character."""
    try:
        body.decode("utf-8")
        if SURROGATE.search(body):
            json.dumps(json.loads(body), ensure_ascii=False).encode("utf-8")
    except UnicodeError:
        raise InputError("the request holds a text that is no Unicode text", hint="send it as UTF-8") from None
    except (ValueError, RecursionError):
        # What is wrong with its form is told by whoever reads it.
        return


class _Replay:
    """A body that was read, once; then whatever the connection says."""

    def __init__(self, body: bytes, receive: Receive) -> None:
        self._body: bytes | None = body
        self._receive = receive

    async def __call__(self) -> Message:
        if self._body is not None:
            body, self._body = self._body, None
            return {"type": "http.request", "body": body, "more_body": False}
        return await self._receive()


def _unpaused(receive: Receive) -> Receive:
    """A body that streams, but never pauses for long."""

    async def piece() -> Message:
        try:
            with anyio.fail_after(PAUSE_SECONDS):
                return await receive()
        except TimeoutError:
            return {"type": "http.disconnect"}

    return piece
