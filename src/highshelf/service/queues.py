"""Threads apart: what is slow by nature waits in a queue of its own and holds up nothing else.

`doors` is for signing in, where each try is hashed for a quarter of a second; `hosts` for calls that wait for somebody else's
server; `shelf` for reading archives; `orders` for surveys that are begun;
`streams` for live events. All other routes share the framework's threads and are done in milliseconds.
"""

from __future__ import annotations

import asyncio
import contextlib
import os
from collections import Counter
from collections.abc import Callable, Coroutine
from functools import partial, wraps
from typing import Any, Literal, ParamSpec, TypeVar

import anyio
import anyio.to_thread

from highshelf.core.errors import ThrottledError

P = ParamSpec("P")
R = TypeVar("R")
Name = Literal["doors", "hosts", "shelf", "streams", "callers", "orders"]
# Hashing takes 64 MB each and a core while it lasts: one core stays for everybody else.
DOORS = max(1, min(4, (os.cpu_count() or 2) // 2))
LOOK_SECONDS = 0.15
SIZES: dict[Name, tuple[int, int]] = {
    "doors": (DOORS, 8),
    "hosts": (48, 400),
    "shelf": (4, 100),
    "streams": (2, 100_000),
    "orders": (2, 1_000),
    "callers": (4, 1_000),
}


class Queue:
    """So many threads, and so many who may wait for one."""

    def __init__(self, threads: int, most_waiting: int) -> None:
        self._limiter = anyio.CapacityLimiter(threads)
        self._most = most_waiting

    def check(self) -> None:
        """Raises ThrottledError when too many wait already."""
        if self._limiter.statistics().tasks_waiting >= self._most:
            raise ThrottledError("too many ask for this at once", hint="try again in a few seconds", seconds=3)

    async def run(self, work: Callable[[], R]) -> R:
        """Do it in one of the threads. Raises ThrottledError when too many wait already."""
        self.check()
        return await anyio.to_thread.run_sync(work, limiter=self._limiter)


class Queues:
    """All of a service's; made where its event loop runs."""

    def __init__(self) -> None:
        self._all = {name: Queue(*size) for name, size in SIZES.items()}

    def __getitem__(self, name: Name) -> Queue:
        return self._all[name]


def apart(name: Name) -> Callable[[Callable[P, R]], Callable[P, Coroutine[Any, Any, R]]]:
    """A route (with a parameter `room`) that is done in one of these queues instead of the shared threads."""

    def with_queue(route: Callable[P, R]) -> Callable[P, Coroutine[Any, Any, R]]:
        @wraps(route)
        async def waits(*args: P.args, **kwargs: P.kwargs) -> R:
            room: Any = kwargs["room"]
            queue: Queue = room.queues[name]
            return await queue.run(partial(route, *args, **kwargs))

        return waits

    return with_queue


class Figure:
    """What monitors ask for again and again: looked up each time, and what it was last when that takes longer than a moment.

    While forty surveys begin, every step of a query waits for its turn; whoever asks whether the service lives is not to.
    """

    def __init__(self, look: Callable[[], int], queue: Queue, patience_seconds: float = LOOK_SECONDS) -> None:
        self._look, self._queue, self._patience = look, queue, patience_seconds
        self._looking: asyncio.Task[int] | None = None
        self._last: int | None = None

    async def now(self) -> int:
        """The figure, at most so much older than the look that is under way takes."""
        if self._looking is None or self._looking.done():
            self._looking = asyncio.ensure_future(self._queue.run(self._look))
        patience = None if self._last is None else self._patience
        with contextlib.suppress(TimeoutError):
            self._last = await asyncio.wait_for(asyncio.shield(self._looking), patience)
        assert self._last is not None
        return self._last


class Endings:
    """Waits for what is under way to end: one look serves all who wait, and no thread is held meanwhile."""

    def __init__(self, look: Callable[[list[str]], set[str]], queue: Queue) -> None:
        """`look`: which of these ids have ended."""
        self._look, self._queue = look, queue
        self._waiting: Counter[str] = Counter()
        self._over: set[str] = set()
        self._looked_at, self._looking = 0.0, False

    async def wait(self, identity: str, seconds: float) -> None:
        """Until it has ended, or so many seconds have passed."""
        deadline = anyio.current_time() + seconds
        self._waiting[identity] += 1
        try:
            while identity not in self._over and anyio.current_time() < deadline:
                if not self._looking and anyio.current_time() - self._looked_at >= LOOK_SECONDS:
                    await self._look_once()
                    continue
                await anyio.sleep(LOOK_SECONDS)
        finally:
            self._waiting[identity] -= 1
            if not self._waiting[identity]:
                del self._waiting[identity]
                self._over.discard(identity)

    async def _look_once(self) -> None:
        self._looking = True
        try:
            self._over |= await self._queue.run(partial(self._look, list(self._waiting)))
        finally:
            self._looking, self._looked_at = False, anyio.current_time()
