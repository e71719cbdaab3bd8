"""Connections: who says nothing, or reads nothing, is let go; when there are too many, whoever has said least goes first.

Rules:
1. A request's headers come within `HEADER_SECONDS`; an answer that nobody reads is given up after `UNREAD_SECONDS`.
2. There are at most `MOST` connections. One more takes the place of the oldest that has no request of somebody we know
   under way, so that a crowd of silent ones keeps nobody out.
"""

from __future__ import annotations

import asyncio
import contextlib
import resource
from collections.abc import Callable
from typing import Any, ClassVar

import h11
import structlog
from uvicorn.protocols.http.h11_impl import H11Protocol

log = structlog.get_logger()
MOST = 512
HEADER_SECONDS, UNREAD_SECONDS = 10.0, 30.0
LATE = (
    b"HTTP/1.1 408 Request Timeout\r\nContent-Type: text/plain\r\nContent-Length: 26\r\nConnection: close\r\n\r\n"
    b"the request never came in\n"
)


def raise_file_limit(wanted: int = 8192) -> None:
    """Room for all connections beside files and databases: the usual 1024 is what a crowd of them uses up."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    limit = wanted if hard == resource.RLIM_INFINITY else min(wanted, hard)
    if soft < limit:
        resource.setrlimit(resource.RLIMIT_NOFILE, (limit, hard))


class Connection(H11Protocol):
    """One connection, within bounds. Most of HTTP is the library's."""

    # All that are open, the oldest first.
    _open: ClassVar[dict[Connection, None]] = {}

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._timer: asyncio.TimerHandle | None = None
        if len(self._open) >= MOST:
            given_up = next((c for c in self._open if c.can_go), self)
            given_up.transport.abort()
            self._open.pop(given_up, None)
        self._open[self] = None
        self._watch()

    def connection_lost(self, exc: Exception | None) -> None:
        self._open.pop(self, None)
        self._wait(None)
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        self._watch()

    def send_400_response(self, msg: str) -> None:
        cycle: Any = self.cycle
        if cycle is not None and not cycle.response_complete:
            # A body that breaks off in the middle: whoever reads it is told that nobody is there, and has nothing more to say.
            cycle.disconnected = True
            cycle.message_event.set()
        try:
            super().send_400_response(msg)
        except h11.LocalProtocolError:
            # A HEAD has no answer with a body, and one that has begun is not begun again: what the library wants to say cannot be said.
            self.transport.close()

    def on_response_complete(self) -> None:
        super().on_response_complete()
        self._watch()

    def pause_writing(self) -> None:
        super().pause_writing()
        self._wait(UNREAD_SECONDS, self._unread)

    def resume_writing(self) -> None:
        super().resume_writing()
        self._wait(None)

    @property
    def can_go(self) -> bool:
        """Nothing of somebody we know is under way on it."""
        return self._is_silent or not (self.scope or {}).get("state", {}).get("who")

    @property
    def _is_silent(self) -> bool:
        """No request has come whole since the last answer."""
        cycle: Any = self.cycle
        return self.conn.their_state is h11.IDLE and (cycle is None or cycle.response_complete)

    def _watch(self) -> None:
        """The clock runs while headers are wanted; between two requests the library's own does."""
        if not self._is_silent:
            self._wait(None)
        elif self._timer is None and self.timeout_keep_alive_task is None:
            self._wait(HEADER_SECONDS, self._late)

    def _wait(self, seconds: float | None, then: Callable[[], None] | None = None) -> None:
        if self._timer is not None:
            self._timer.cancel()
            self._timer = None
        if seconds is not None and then is not None:
            self._timer = self.loop.call_later(seconds, then)

    def _late(self) -> None:
        with contextlib.suppress(Exception):
            self.transport.write(LATE)
        self.transport.close()

    def _unread(self) -> None:
        self.transport.abort()
