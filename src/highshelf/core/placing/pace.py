"""A limit of politeness on the rate, and what is told while bytes go over."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable
from types import TracebackType
from typing import BinaryIO

from highshelf.core.ports import CancelToken

# So much may go over at once after a rest: less would chop the line into drops, more would be no limit.
BURST_SECONDS = 0.25
# The rate that is told is that of the last seconds: over the whole time it would hide a line that has become slow.
RATE_WINDOW_SECONDS = 5.0


class Pace:
    """So many bytes a second, over all lanes together; 0 is no limit."""

    def __init__(
        self, bytes_per_second: float, cancel: CancelToken, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self._rate, self._cancel, self._clock = bytes_per_second, cancel, clock
        self._free_at, self._lock = clock(), threading.Lock()

    def take(self, size: int) -> None:
        """Wait until so many more bytes may go. Raises CancelledError."""
        if not self._rate:
            return
        with self._lock:
            self._free_at = max(self._free_at, self._clock() - BURST_SECONDS) + size / self._rate
            wait = self._free_at - self._clock()
        if wait > 0:
            self._cancel.rest(wait)

    def reader(self, source: BinaryIO) -> BinaryIO:
        """The source, read no faster than this pace."""
        return PacedReader(source, self) if self._rate else source  # type: ignore[return-value]


class PacedReader:
    """A source of bytes that gives them at a pace; as much of BinaryIO as drivers use."""

    def __init__(self, source: BinaryIO, pace: Pace) -> None:
        self._source, self._pace = source, pace

    def read(self, size: int = -1) -> bytes:
        block = self._source.read(size)
        self._pace.take(len(block))
        return block

    def seek(self, offset: int, whence: int = 0) -> int:
        return self._source.seek(offset, whence)

    def tell(self) -> int:
        return self._source.tell()

    def close(self) -> None:
        self._source.close()

    def __enter__(self) -> PacedReader:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, fault: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()


class Rate:
    """Bytes a second over the last few seconds. `begun`: what was there before."""

    def __init__(self, begun: int = 0, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._seen = deque([(clock(), begun)])

    def note(self, done: int) -> None:
        now = self._clock()
        self._seen.append((now, done))
        while len(self._seen) > 2 and now - self._seen[1][0] > RATE_WINDOW_SECONDS:
            self._seen.popleft()

    def bytes_per_second(self) -> float:
        (then, before), (now, done) = self._seen[0], self._seen[-1]
        return max(0, done - before) / (now - then) if now > then else 0.0
