"""What jobs tell, read once for all who listen: one look at the database serves every open stream."""

from __future__ import annotations

import contextlib
from collections import deque
from collections.abc import AsyncIterator, Callable, Sequence
from functools import partial

import anyio

from highshelf.service.queues import Queue
from highshelf.store.store import Store
from highshelf.store.tables import EventRow

POLL_SECONDS = 0.2
KEPT, AT_ONCE = 5_000, 2_000
# As many as the store gives at once when somebody comes late.
PART = 500


class Told:
    """The newest events in memory, and a word to all when there are more. Looks only while somebody listens."""

    def __init__(self, store: Store, queue: Queue) -> None:
        self._store, self._queue = store, queue
        self._kept: deque[EventRow] = deque(maxlen=KEPT)
        # Everything after this number is in `_kept`, up to the newest that was seen.
        self._after, self._newest = 0, -1
        self._listeners = 0
        self._more = anyio.Event()

    async def look(self) -> None:
        """Look for more, again and again, until it is cancelled."""
        while True:
            await anyio.sleep(POLL_SECONDS)
            if not self._listeners:
                self._newest = -1
                continue
            # A disk or database that is in trouble for a moment must not end every stream for good.
            with contextlib.suppress(Exception):
                await self._read()

    async def _read(self) -> None:
        if self._newest < 0:
            self._kept.clear()
            self._after = self._newest = await self._queue.run(self._store.last_event_id)
            # Whoever listens already looks once more: what came before this moment is in the store alone.
            self._wake()
        found = await self._queue.run(partial(self._store.all_events_after, self._newest, AT_ONCE))
        for row in found:
            if len(self._kept) == KEPT:
                self._after = self._kept[0].id or 0
            self._kept.append(row)
            self._newest = row.id or self._newest
        if found:
            self._wake()

    def _wake(self) -> None:
        more, self._more = self._more, anyio.Event()
        more.set()

    @contextlib.asynccontextmanager
    async def listening(self) -> AsyncIterator[None]:
        self._listeners += 1
        try:
            yield
        finally:
            self._listeners -= 1

    async def after(
        self, seen: int, job_id: str, from_store: Callable[[int], Sequence[EventRow]]
    ) -> tuple[Sequence[EventRow], int]:
        """Events after a number, of one job or of all, from memory or else from the store; and the number up to which all
        were seen now."""
        newest = self._newest
        if newest >= 0 and seen >= self._after:
            if seen >= newest:
                return [], seen
            return [r for r in self._kept if (r.id or 0) > seen and job_id in ("", r.job_id)], newest
        found = await self._queue.run(partial(from_store, seen))
        last = found[-1].id or seen if found else seen
        # A full answer may not be the whole of it.
        return found, last if len(found) >= PART else max(last, newest)

    async def wait(self, seconds: float) -> None:
        """Until there may be more, or so many seconds are over."""
        with anyio.move_on_after(seconds):
            await self._more.wait()

    async def run(self, work: Callable[[], object]) -> object:
        """Something about a stream that has to be looked up, in the queue of streams."""
        return await self._queue.run(work)
