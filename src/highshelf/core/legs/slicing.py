"""Over FTP a large archive may go over on several connections; core/placing/slices.py says who sends what.

Rules:
1. It begins as ever, on one connection. Only when much is left after some seconds are others opened and tried.
2. Slices that are there as a whole are in the journal; after a break the rest goes on from the front.
3. At the end PHP on the host puts the slices behind the front, each in its place, and nothing of them stays.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Any, BinaryIO

from highshelf.core.errors import HelperError, HighShelfError
from highshelf.core.legs.job import Job
from highshelf.core.placing.slices import Shares, Slice, has_won
from highshelf.core.ports import HostFiles, Progress

# What one connection does is known after its start has passed; less than this is over before others have logged in.
SETTLE_SECONDS, WATCH_SECONDS, WORTH_SECONDS = 1.5, 2.5, 8.0
CONNECTIONS = 4


def may_slice(job: Job) -> bool:
    """Whether connections are apart, somebody there can put slices together, and no limit of ours is to be kept."""
    return not job.files().capabilities.parallel and job.way.by_helper and not job.plan.pace_bytes


class Front:
    """The archive from its front to wherever the lowest slice begins; as much of BinaryIO as drivers use."""

    def __init__(self, source: BinaryIO, shares: Shares) -> None:
        self._source, self._shares = source, shares

    def read(self, size: int = -1) -> bytes:
        at = self._source.tell()
        return self._source.read(self._shares.advance(at, size if size >= 0 else self._shares.size))

    def seek(self, offset: int, whence: int = 0) -> int:
        return self._source.seek(offset, whence)


class Window:
    """One slice of the archive, as a source of its own."""

    def __init__(self, source: BinaryIO, one: Slice) -> None:
        self._source, self._one = source, one

    def read(self, size: int = -1) -> bytes:
        left = self._one.end - self._source.tell()
        return self._source.read(left if size < 0 else min(size, left))

    def seek(self, offset: int, whence: int = 0) -> int:
        return self._source.seek(self._one.start + offset, whence) - self._one.start


class Crew:
    """The connections beside the front. `start` it, send the front, then `finish`.

    Args:
        path: of the archive on the host; a slice's file is called as it, with where it begins behind it.
        told: how many bytes of slices have gone over.
        settled: waits until nobody else uses the account's further connections.
    """

    def __init__(
        self, job: Job, path: str, shares: Shares, told: Progress, settled: Callable[[], None] = lambda: None
    ) -> None:
        self._settled = settled
        self._job, self._path, self._shares, self._told = job, path, shares, told
        self._lock, self._over = threading.Lock(), threading.Event()
        self._sent: dict[int, int] = {one.start: one.size_bytes for one in shares.done}
        self._front = 0
        self._threads: list[threading.Thread] = []
        self.connections = 1
        self._watcher = threading.Thread(target=self._watch, name="slices", daemon=True)

    def start(self) -> None:
        self._watcher.start()

    def note(self, at: int) -> None:
        """How far the front is."""
        self._front = at

    @property
    def sliced(self) -> int:
        return sum(self._sent.values())

    def finish(self) -> None:
        """Wait for slices that are under way; what was given up goes over now. Raises what that fails with."""
        self.stop()
        with self._job.archive(self._job.way.archive) as source:
            while (one := self._shares.take(10**9)) is not None:
                self._send(self._job.files(), source, one)

    def stop(self) -> None:
        """No slice is begun any more; waits for those that are under way."""
        self._over.set()
        self._watcher.join()
        for thread in self._threads:
            thread.join()

    def _watch(self) -> None:
        if self._over.wait(SETTLE_SECONDS):
            return
        began, before = time.monotonic(), self._front
        if self._over.wait(WATCH_SECONDS):
            return
        alone = (self._front - before) / (time.monotonic() - began)
        if alone <= 0 or self._shares.left_bytes / alone < WORTH_SECONDS:
            return
        self._settled()
        lanes = self._job.lanes(CONNECTIONS)[1:]
        if not lanes or not self._try(lanes[0], alone):
            return
        self.connections = 1 + len(lanes)
        self._job.say(f"{self.connections} connections at once carry more than one: the archive goes over in slices")
        for lane in lanes:
            thread = threading.Thread(target=self._toil, args=(lane, len(lanes)), name="slice", daemon=True)
            self._threads.append(thread)
            thread.start()

    def _try(self, lane: HostFiles, alone: float) -> bool:
        """One slice beside the front: has the rate of both together grown?"""
        one = self._shares.take(CONNECTIONS)
        if one is None:
            return False
        began, before = time.monotonic(), self._front
        with self._job.archive(self._job.way.archive) as source:
            if not self._sent_whole(lane, source, one):
                return False
        both = (self._front - before + one.size_bytes) / max(time.monotonic() - began, 0.001)
        return has_won(alone, both)

    def _toil(self, lane: HostFiles, lanes: int) -> None:
        with self._job.archive(self._job.way.archive) as source:
            while not self._over.is_set() and (one := self._shares.take(lanes)) is not None:
                if not self._sent_whole(lane, source, one):
                    return

    def _sent_whole(self, lane: HostFiles, source: BinaryIO, one: Slice) -> bool:
        try:
            self._send(lane, source, one)
        except HighShelfError:
            # The front, or another one, brings it; what is wrong with the account will be told there.
            self._sent.pop(one.start, None)
            self._shares.given_up(one)
            return False
        return True

    def _send(self, lane: HostFiles, source: BinaryIO, one: Slice) -> None:
        def told(sent: int) -> None:
            with self._lock:
                self._sent[one.start] = sent
                self._told(self.sliced)

        lane.upload(f"{self._path}.{one.start}", Window(source, one), progress=told, cancel=self._job.cancel)  # type: ignore[arg-type]
        with self._lock:
            self._sent[one.start] = one.size_bytes
            self._shares.finished(one)
            keep_slices(self._job, self._shares.done)


def keep_slices(job: Job, done: list[Slice]) -> None:
    facts = job.journal.facts("place", "carry")
    job.journal.keep("place", "carry", {**facts, "slices": [[one.start, one.end] for one in done]})


def kept_slices(job: Job) -> list[Slice]:
    return [Slice(*pair) for pair in job.journal.facts("place", "carry").get("slices", [])]


def join(job: Job, size: int) -> None:
    """PHP puts the slices behind the front. Raises HelperError when what comes of it is not as long as the archive."""
    capability = "untar" if job.way.name == "helper-tar" else "unpack"
    before = -1
    while True:
        job.cancel.check()
        answer: dict[str, Any] = job.helper().call(capability, {"join": True})
        if answer["there"] == size:
            return
        if answer["there"] <= before or answer["stuck"]:
            raise HelperError(f"the slices of the archive do not fit together: {answer['there']} of {size} bytes")
        before = answer["there"]
