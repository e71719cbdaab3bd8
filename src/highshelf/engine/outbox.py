"""The outbox: what the engine is still to be told of jobs, written with the change that it follows from.

Rules:
1. A change of a job and the word for the engine are one transaction of the store. The engine has a database of its own:
   between the two somebody may pull the plug.
2. A word is told at once, at each start, and every minute until the engine has taken it. Told twice it does nothing.
3. A job that is not over and has no workflow that goes on (the engine's database is older, or was lost; a step could not
   write down how it ended) begins a further run: the journal says what was done already. One that waits and gave its place back
   begins one when what it waits for has come.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Literal, Protocol

import structlog

from highshelf.store.disk import LOOK_SECONDS
from highshelf.store.store import Store
from highshelf.store.tables import JobRow, OutboxRow

log = structlog.get_logger()
AGAIN_SECONDS = 60.0
# So often, and for so long, after the disk was full: who found no room while it was may have fallen over.
SOON_SECONDS, SOON_FOR_SECONDS = 5.0, 60.0


class Wakes(Protocol):
    """What the outbox needs of the engine."""

    def submit(self, job_id: str, account: str, run: int = 0) -> None: ...
    def state(self, job_id: str, run: int) -> Literal["unknown", "open", "over"]: ...
    def wake(self, job_id: str, run: int, mark: str, leg: str = "") -> None: ...
    def look_after(self) -> list[str]: ...


class Outbox:
    """Tells the engine; one object a process."""

    def __init__(
        self,
        store: Store,
        engine: Wakes,
        again_seconds: float = AGAIN_SECONDS,
        others: Callable[[], None] = lambda: None,
    ) -> None:
        """`others` tells the engine once more of what is no job and was written down: surveys, fetches."""
        self._store, self._engine, self._again, self._others = store, engine, again_seconds, others
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None

    def send(self, job_id: str = "") -> int:
        """Tell what is noted, of one job or of all; returns how many words remain. Never raises: they are told later then."""
        left = 0
        for row in self._store.jobs.words(job_id):
            try:
                self._tell(row)
                self._store.delete(OutboxRow, row.id)
            except Exception as fault:
                log.warning("outbox", job=row.job_id, what=row.what, error=f"{type(fault).__name__}: {fault}")
                left += 1
        return left

    def _tell(self, row: OutboxRow) -> None:
        job = self._store.find(JobRow, row.job_id)
        if job is None or job.finished_at is not None:
            return
        state = self._engine.state(job.id, job.run)
        if state == "over":
            # It had given its place back: it goes on in a further run, behind those that have come since.
            with self._store.together():
                job = self._store.change(JobRow, job.id, run=job.run + 1)
                self._store.set_state(job.id, "queued")
        if state != "open" or row.what == "start":
            self._engine.submit(job.id, job.account, job.run)
        else:
            self._engine.wake(job.id, job.run, row.mark, row.leg)

    def take_up(self) -> list[str]:
        """At a start: everything that may not have reached the engine is told once more; returns the jobs that were lost."""
        # What is left of a run that is over is not to be picked up with the rest.
        try:
            self._engine.look_after()
        except Exception as fault:
            # On a full disk nothing can be cancelled: it is looked at again once there is room.
            log.warning("outbox", error=f"{type(fault).__name__}: {fault}")
        lost = self.look()
        self.send()
        for job in self._store.jobs.open():
            # What the outbox told just before a power cut may be missing in the engine's own database.
            for question in self._store.jobs.answered(job.id):
                self._engine.wake(job.id, job.run, question.id, question.leg)
        return lost

    def look(self) -> list[str]:
        """Begin a further run of every job that is not over and that no workflow goes on with; returns their ids."""
        lost = []
        for job in self._store.jobs.open():
            state = self._engine.state(job.id, job.run)
            if state == "open" or (state == "over" and self._store.jobs.rests(job.id)):
                continue
            with self._store.together():
                now = self._store.find(JobRow, job.id)
                if now is None or now.finished_at is not None or now.run != job.run:
                    continue
                if state == "over":
                    self._store.change(JobRow, job.id, run=job.run + 1)
                self._store.jobs.tell_later("start", job.id)
            lost.append(job.id)
        return lost

    def start(self) -> None:
        """Tell again every minute, until `stop`."""

        def work() -> None:
            looked_at, full_at = time.monotonic(), -SOON_FOR_SECONDS
            # Room is looked at often: whoever finds none must not wait long for the ballast's.
            while not self._stop.wait(LOOK_SECONDS):
                try:
                    self._store.disk.look()
                    if self._store.disk.full:
                        full_at = time.monotonic()
                        continue
                    soon = time.monotonic() - full_at < SOON_FOR_SECONDS
                    if time.monotonic() - looked_at < (SOON_SECONDS if soon else self._again):
                        continue
                    looked_at = time.monotonic()
                    for workflow in self._engine.look_after():
                        log.warning("outbox", workflow=workflow, what="begun again")
                    for job_id in self.look():
                        log.warning("outbox", job=job_id, what="a further run")
                    self.send()
                    self._others()
                except Exception as fault:
                    log.error("outbox", error=f"{type(fault).__name__}: {fault}")

        self._thread = threading.Thread(target=work, name="outbox", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()
        if self._thread is not None:
            self._thread.join(5)
