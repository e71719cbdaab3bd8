"""Threads apart: what is slow by nature waits in a queue of its own and holds up nothing else.

`doors` is for signing in, where each try is hashed for a quarter of a second; `hosts` for calls that wait for somebody else's
server; `shelf` for reading archives; `streams` for live events. All other routes share the framework's threads and are done in milliseconds.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Coroutine
from datetime import datetime
from functools import partial, wraps
from typing import Any, Literal, ParamSpec, Protocol, TypeVar

import anyio
import anyio.to_thread

from highshelf.core.errors import ThrottledError

P = ParamSpec("P")
R = TypeVar("R")
Name = Literal["doors", "hosts", "shelf", "streams", "callers"]
# Hashing takes 64 MB each and a core while it lasts: one core stays for everybody else.
DOORS = max(1, min(4, (os.cpu_count() or 2) // 2))
SIZES: dict[Name, tuple[int, int]] = {
    "doors": (DOORS, 8),
    "hosts": (48, 400),
    "shelf": (4, 100),
    "streams": (2, 100_000),
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


class Ends(Protocol):
    """Something that is under way until it has an end."""

    finished_at: datetime | None


E = TypeVar("E", bound=Ends)


async def until_over(look: Callable[[], E], seconds: float) -> E:
    """What is under way when it has ended, or as it is after so many seconds; no thread is held meanwhile."""
    deadline = anyio.current_time() + seconds
    while True:
        row = await anyio.to_thread.run_sync(look)
        if row.finished_at is not None or anyio.current_time() > deadline:
            return row
        await anyio.sleep(0.15)
