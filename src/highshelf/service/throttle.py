"""Failed sign-ins slow down: after a few, whoever tries has to wait. In memory; a restart forgets them.

Rules:
1. A try is counted before it is looked at, and taken back when it was right: many at once are as many tries.
2. Counted are a name tried from one address, an address with any names, and a name tried from anywhere, the last with so
   many tries that a stranger does not lock an operator out in passing.
3. A browser in which the operator has signed in before is counted by itself: what others fail at does not keep it out.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

from highshelf.core.errors import ThrottledError

WINDOW_SECONDS = 600.0
TRIES = {"device": 10, "both": 5, "sender": 20, "name": 100}
# Beyond this many the oldest are forgotten: a flood of made-up names does not fill the memory.
MOST = 10_000
Key = tuple[str, str]


def keys_of(sender: str, name: str = "", device: str = "") -> list[Key]:
    if device:
        return [("device", device)]
    named = [("both", f"{sender} {name}"), ("name", name)] if name else []
    return [("sender", sender), *named]


class Throttle:
    """Counts tries of the last ten minutes by key."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._tried: dict[Key, list[float]] = {}
        self._lock = threading.Lock()

    def _recent(self, key: Key) -> list[float]:
        return [t for t in self._tried.get(key, []) if t > self._clock() - WINDOW_SECONDS]

    def begin(self, sender: str, name: str = "", device: str = "") -> None:
        """Count a try that is about to be made. Raises ThrottledError, and counts nothing, when there were too many."""
        keys = keys_of(sender, name, device)
        with self._lock:
            full = [r for k in keys if len(r := self._recent(k)) >= TRIES[k[0]]]
            wait = max((r[0] + WINDOW_SECONDS - self._clock() for r in full), default=0.0)
            if wait <= 0:
                for key in keys:
                    recent = self._recent(key)
                    self._tried.pop(key, None)
                    self._tried[key] = [*recent, self._clock()]
                while len(self._tried) > MOST:
                    self._tried.pop(next(iter(self._tried)))
        if wait > 0:
            minutes = int(wait // 60) + 1
            raise ThrottledError("too many failed sign-ins", hint=f"try again in {minutes} min", seconds=int(wait) + 1)

    def right(self, sender: str, name: str = "", device: str = "") -> None:
        """The try was a right one: the name starts anew, and the sender has one try less."""
        with self._lock:
            for key in keys_of(sender, name, device):
                if key[0] != "sender":
                    self._tried.pop(key, None)
                elif self._tried.get(key):
                    self._tried[key].pop()

    def take_back(self, sender: str, name: str = "", device: str = "") -> None:
        """The try was not looked at after all."""
        with self._lock:
            for key in keys_of(sender, name, device):
                if self._tried.get(key):
                    self._tried[key].pop()
