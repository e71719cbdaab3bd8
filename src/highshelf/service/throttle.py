"""Failed sign-ins slow down: after a few, whoever tries has to wait. In memory; a restart forgets them.

Counted are a name tried from one address, an address with any names, and a name tried from anywhere: the last with
so many tries that a stranger cannot lock an operator out in passing.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

from highshelf.core.errors import ThrottledError

WINDOW_SECONDS = 600.0
TRIES = {"both": 5, "sender": 20, "name": 100}
# Beyond this many the oldest are forgotten: a flood of made-up names does not fill the memory.
MOST = 10_000
Key = tuple[str, str]


def keys_of(sender: str, name: str = "") -> list[Key]:
    named = [("both", f"{sender} {name}"), ("name", name)] if name else []
    return [("sender", sender), *named]


class Throttle:
    """Counts failures of the last ten minutes by key."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._failed: dict[Key, list[float]] = {}
        self._lock = threading.Lock()

    def _recent(self, key: Key) -> list[float]:
        return [t for t in self._failed.get(key, []) if t > self._clock() - WINDOW_SECONDS]

    def check(self, sender: str, name: str = "") -> None:
        """Raises ThrottledError while sender or name have failed too often."""
        with self._lock:
            full = [r for k in keys_of(sender, name) if len(r := self._recent(k)) >= TRIES[k[0]]]
            wait = max((r[0] + WINDOW_SECONDS - self._clock() for r in full), default=0.0)
        if wait > 0:
            minutes = int(wait // 60) + 1
            raise ThrottledError("too many failed sign-ins", hint=f"try again in {minutes} min", seconds=int(wait) + 1)

    def failed(self, sender: str, name: str = "") -> None:
        with self._lock:
            for key in keys_of(sender, name):
                recent = self._recent(key)
                self._failed.pop(key, None)
                self._failed[key] = [*recent, self._clock()][-TRIES[key[0]] :]
            while len(self._failed) > MOST:
                self._failed.pop(next(iter(self._failed)))

    def forget(self, sender: str, name: str) -> None:
        """After a right password: the pair and the name start anew."""
        with self._lock:
            for key in keys_of(sender, name)[1:]:
                self._failed.pop(key, None)
