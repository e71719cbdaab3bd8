"""An archive that goes over on several connections at once: who sends which of its bytes. Pure but for its lock.

Rules:
1. One connection sends from the front on, into the archive's own file; others send slices from the end backwards, each into a file of its own.
2. The front ends where the lowest slice begins: nothing is sent twice, and what follows the front while it arrives is not disturbed.
3. Slices get smaller towards the end, so that all are done at about the same time.
4. More connections win where the server limits each of them, or where a long line is more than one of them fills; elsewhere they only
   crowd. So it is tried with one slice, and kept when the rate has grown.
"""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import dataclass

LEAST_BYTES, MOST_BYTES = 256 << 10, 8 << 20
# Beyond the front's position this much may be on its way already.
AHEAD_BYTES = 1 << 20
WON = 1.3


@dataclass(frozen=True)
class Slice:
    """Bytes of the archive, from `start` to before `end`."""

    start: int
    end: int

    @property
    def size_bytes(self) -> int:
        return self.end - self.start


class Shares:
    """Who sends what of an archive of so many bytes.

    Args:
        at: how many of its first bytes are there already.
        whole: slices that are there as a whole, from an earlier try: those count that reach to the end without a gap.
    """

    def __init__(self, size: int, at: int = 0, whole: Sequence[Slice] = ()) -> None:
        self.size, self.at, self._lock = size, at, threading.Lock()
        self.done: list[Slice] = []
        self._left: list[Slice] = []
        self._end = size
        for one in sorted(whole, key=lambda s: -s.start):
            if one.end == self._end and one.start >= at:
                self._end = one.start
                self.done.append(one)

    @property
    def end(self) -> int:
        """Where the front will end, as things are."""
        with self._lock:
            return self._end

    @property
    def left_bytes(self) -> int:
        """What nobody has begun with."""
        with self._lock:
            return max(0, self._end - self.at)

    def advance(self, at: int, wanted: int) -> int:
        """How many bytes the front may read from `at` on; 0 at its end."""
        with self._lock:
            granted = max(0, min(wanted, self._end - at))
            self.at = max(self.at, at + granted)
            return granted

    def take(self, lanes: int) -> Slice | None:
        """The next slice for one of so many connections beside the front; None when the rest is better left to that."""
        with self._lock:
            if self._left:
                return self._left.pop()
            rest = self._end - self.at - AHEAD_BYTES
            size = min(MOST_BYTES, max(LEAST_BYTES, rest // (2 * (lanes + 1))))
            if rest < size:
                return None
            self._end -= size
            return Slice(self._end, self._end + size)

    def finished(self, one: Slice) -> None:
        with self._lock:
            self.done.append(one)

    def given_up(self, one: Slice) -> None:
        """Whoever began with it could not end it: somebody else takes it."""
        with self._lock:
            self._left.append(one)


def has_won(before: float, now: float) -> bool:
    """Whether a further connection was worth it, by the bytes a second of all together."""
    return now >= before * WON
