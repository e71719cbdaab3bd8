"""`Idempotency-Key`: a POST that is sent again gets the first answer again, and nothing is done a second time.

The key is whatever the program chooses for one thing that it wants done (a random text); it counts for a day, for this operator alone.
Uploads are told apart by their address and size, everything else by the whole request.
"""

from __future__ import annotations

import hashlib
import re
from functools import partial

from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from highshelf.core.errors import ConflictError, HighShelfError, InputError
from highshelf.service.deps import rooms
from highshelf.service.faults import answer
from highshelf.store.repeats import Kept, begin, drop, end, ref_of

HEADER, AGAIN = "idempotency-key", b"x-answered-before"
KEY = re.compile(r"[\x21-\x7e]{1,128}")
UPLOADS = ("/api/v1/releases", "/api/v1/dumps")
KEEPS = ("content-type", "location", "link")
MOST_BYTES = 1 << 20


class Repeats:
    """ASGI middleware; behind the guard, which has found out who asks."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._under_way: set[str] = set()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        key = Request(scope).headers.get(HEADER) if scope["type"] == "http" and scope["method"] == "POST" else None
        who = scope.get("state", {}).get("who")
        if key is None or who is None:
            await self._app(scope, receive, send)
            return
        try:
            await self._once(scope, receive, send, who, key)
        except HighShelfError as fault:
            await answer(fault)(scope, receive, send)

    async def _once(self, scope: Scope, receive: Receive, send: Send, who: str, key: str) -> None:
        if not KEY.fullmatch(key):
            raise InputError(
                "the Idempotency-Key is no such key", hint="1 to 128 visible ASCII characters, such as a UUID"
            )
        ref = ref_of(who, key)
        if ref in self._under_way:
            raise _still("its first request is still being carried out")
        self._under_way.add(ref)
        try:
            await self._kept_or_done(scope, receive, send, ref)
        finally:
            self._under_way.discard(ref)

    async def _kept_or_done(self, scope: Scope, receive: Receive, send: Send, ref: str) -> None:
        request = Request(scope)
        store, run = rooms(request).store, rooms(request).queues["callers"].run
        mark, receive = await _mark(request, receive)
        known = await run(partial(begin, store, ref, mark))
        if known is not None and known.mark != mark:
            raise InputError(
                "this Idempotency-Key was used for another request",
                hint="take a new key for each thing that is to be done",
            )
        if known is not None and not known.status:
            raise _still(
                "its first request was cut off, and nobody knows whether it was carried out: look, then take a new key"
            )
        if known is not None:
            await _send_again(known, send)
            return
        heard = _Heard(send)
        try:
            await self._app(scope, receive, heard)
        finally:
            kept = heard.kept(mark)
            await run(partial(end, store, ref, kept) if kept is not None else partial(drop, store, ref))


def _still(why: str) -> ConflictError:
    return ConflictError(f"this Idempotency-Key is taken: {why}", hint="wait a moment and send the same again")


async def _mark(request: Request, receive: Receive) -> tuple[str, Receive]:
    """A hash of what is asked, and a way to read its body once more."""
    said = hashlib.sha256(f"{request.url.path}?{request.url.query}\n".encode())
    if request.url.path in UPLOADS:
        said.update(request.headers.get("content-length", "").encode())
        return said.hexdigest(), receive
    # The guard hands a whole body over as one message.
    message = await receive()
    said.update(message.get("body", b""))
    left = [message]

    async def again() -> Message:
        return left.pop() if left else await receive()

    return said.hexdigest(), again


class _Heard:
    """Passes an answer on, and keeps it."""

    def __init__(self, send: Send) -> None:
        self._send = send
        self._status, self._headers, self._body = 0, list[tuple[str, str]](), bytearray()

    async def __call__(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            self._status = message["status"]
            named = [(n.decode("latin-1").lower(), v.decode("latin-1")) for n, v in message.get("headers", [])]
            self._headers = [(n, v) for n, v in named if n in KEEPS]
        elif message["type"] == "http.response.body" and len(self._body) <= MOST_BYTES:
            self._body += message.get("body", b"")
        await self._send(message)

    def kept(self, mark: str) -> Kept | None:
        """The answer, when something was carried out; None for a refusal, a fault, or nothing at all."""
        if not 200 <= self._status < 400:
            return None
        if len(self._body) > MOST_BYTES:
            # Done, but too much to be said again: the key stays taken.
            return Kept(mark)
        return Kept(mark, self._status, tuple(self._headers), self._body.decode("utf-8", "replace"))


async def _send_again(kept: Kept, send: Send) -> None:
    body = kept.body.encode()
    headers = [(n.encode("latin-1"), v.encode("latin-1")) for n, v in kept.headers]
    headers += [(AGAIN, b"yes"), (b"content-length", str(len(body)).encode())]
    await send({"type": "http.response.start", "status": kept.status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
