"""Installations that are looked at again by themselves, every so many hours: spread over that time, and a few at once.

Rules:
1. What is due is told by the store alone: when it was looked at last, and whether a look is under way. A service that was started anew
   does nothing twice.
2. The first look of an installation is put off by a share of its hours that its number says, so that a hundred that were made together
   are not looked at together.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Protocol

import structlog

from highshelf.core.errors import HighShelfError
from highshelf.store.store import Store
from highshelf.store.tables import InstallationRow, JobRow, PlanRow, now

log = structlog.get_logger()
LOOK_SECONDS = 60.0
# So many looks are under way at once at the most: hosts are not to be crowded, and people's own jobs come first.
AT_ONCE = 3


class Plans(Protocol):
    """What the schedule needs of `Undoer`."""

    def plan_recheck(self, number: str) -> PlanRow: ...


class Rechecks:
    """Begins them; one object a process."""

    def __init__(self, store: Store, plans: Plans, begin: Callable[[PlanRow], JobRow]) -> None:
        """`begin` begins the job of a plan."""
        self._store, self._plans, self._begin = store, plans, begin
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None

    def due(self, at: datetime) -> list[InstallationRow]:
        """Those that are to be looked at by then, the longest waiting first; what stands no more, or is looked at now, is not."""
        under_way = {job.installation for job in self._open()}
        found = []
        for row in self._store.looked_at_by_themselves():
            if row.id in under_way or row.facts.get("taken_back") or row.facts.get("replaced_by"):
                continue
            if (since := due_at(row, self._last(row))) <= at:
                found.append((since, row))
        return [row for _, row in sorted(found, key=lambda one: one[0])]

    def look(self, at: datetime | None = None) -> list[str]:
        """Begin what is due, as many as may be under way; returns the jobs."""
        room = AT_ONCE - len(self._open())
        begun = []
        for row in self.due(at or now())[: max(room, 0)]:
            try:
                begun.append(self._begin(self._plans.plan_recheck(row.id)).id)
            except HighShelfError as fault:
                log.warning("recheck", installation=row.id, error=fault.message)
        return begun

    def _open(self) -> list[JobRow]:
        return [job for job in self._store.jobs.open() if job.kind == "recheck"]

    def _last(self, row: InstallationRow) -> datetime | None:
        """When it was looked at last, whatever came of it: a look that failed is not begun again each minute."""
        jobs = self._store.jobs_on(row.id, "recheck")
        return aware(jobs[0].created_at) if jobs else None

    def start(self) -> None:
        """Look every minute, until `stop`."""

        def work() -> None:
            while not self._stop.wait(LOOK_SECONDS):
                try:
                    if not self._store.disk.full:
                        self.look()
                except Exception as fault:
                    log.error("recheck", error=f"{type(fault).__name__}: {fault}")

        self._thread = threading.Thread(target=work, name="rechecks", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()
        if self._thread is not None:
            self._thread.join(5)


def aware(time: datetime) -> datetime:
    """The store's times are UTC, and have lost the word for it."""
    return time if time.tzinfo else time.replace(tzinfo=UTC)


def due_at(row: InstallationRow, last: datetime | None) -> datetime:
    """When it is to be looked at next.

    Args:
        last: when it was looked at last, None when never.
    """
    hours = timedelta(hours=int(row.facts["recheck_hours"]))
    if last is not None:
        return last + hours
    share = int(row.id[:4], 16) / 0x10000
    return aware(datetime.fromisoformat(row.facts.get("recheck_since") or row.created_at.isoformat())) + hours * share
