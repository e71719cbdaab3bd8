"""Tells people who do not look: reads what jobs tell, writes notices down, sends them, and tries again.

One thread a process. What an event gives is written down together with having read it, so that a service that was started anew tells
nothing twice; what it sent and could not write down any more it sends again, under the same number.
"""

from __future__ import annotations

import json
import threading
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any

import structlog

from highshelf.core import notices
from highshelf.core.errors import HighShelfError, NoticeError
from highshelf.core.notices import Notice
from highshelf.core.ports import MailServer
from highshelf.engine.bench import Drivers
from highshelf.store.redacting import known_secrets
from highshelf.store.store import Store, new_id
from highshelf.store.tables import EventRow, InstallationRow, JobRow, NoticePlaceRow, NoticeRow, PlanRow, now

log = structlog.get_logger()
LOOK_SECONDS = 2.0
OLD_SECONDS = 3600.0


class Noticing:
    """One object a process."""

    def __init__(self, store: Store, drivers: Drivers, public: str = "") -> None:
        """`public`: the address by which people reach the console, "" when nobody said one."""
        self._store, self._drivers, self._public = store, drivers, public
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None

    def look(self) -> int:
        """Write down what is to be told, and send what is due. Returns how many went out."""
        self._read()
        sent = 0
        for row in self._store.notices.due(now()):
            if self._stop.is_set():
                break
            sent += self._send(row)
        return sent

    def _read(self) -> None:
        while found := self._store.notices.unread():
            places = [p for p in self._store.notices.places() if not p.silent]
            for event in found:
                told = self._told_of(event) if places else None
                rows = [] if told is None else [self._row(p, *told) for p in places if _wants(p, *told)]
                assert event.id is not None
                self._store.notices.read(event.id, rows)

    def _told_of(self, event: EventRow) -> tuple[Notice, JobRow] | None:
        """What an event is to people who do not look; None for most."""
        if event.kind not in ("question", "state"):
            return None
        job = self._store.find(JobRow, event.job_id)
        if job is None:
            return None
        about, see = self._about(job), self.see(f"/jobs/{job.id}")
        if event.kind == "question":
            options = tuple(str(one) for one in event.data.get("options") or ())
            return notices.of_question(about, event.text, options, see), job
        state = event.data.get("state")
        if state == "failed":
            return notices.of_end(about, job.error or {}, see), job
        if state != "done":
            return None
        if job.kind != "recheck":
            return notices.of_end(about, None, see), job
        row = self._store.find(InstallationRow, job.installation)
        seen = (row.facts.get("rechecked") or {}).get("seen", ()) if row is not None else ()
        wrong = {str(one["name"]): str(one["told"]) for one in seen if one["state"] == "wrong"}
        return (notices.of_wrong(about, wrong, self.see(f"/installations/{job.installation}")), job) if wrong else None

    def _about(self, job: JobRow) -> dict[str, str]:
        plan = self._store.find(PlanRow, job.plan_id)
        address = str(plan.body["address"]) if plan is not None else ""
        shared = {n: str(getattr(job, n)) for n in ("id", "kind", "account", "application")}
        return shared | {"address": address}

    def see(self, path: str) -> str:
        """Where the console shows it, "" when nobody said how people reach it."""
        return self._public.rstrip("/") + path if self._public else ""

    def _row(self, place: NoticePlaceRow, notice: Notice, job: JobRow) -> NoticeRow:
        # It leaves the house: whatever secret this process knows is covered once more.
        told = json.loads(known_secrets.redact(json.dumps(asdict(notice), ensure_ascii=False)))
        return NoticeRow(id=new_id(), place=place.id, job=job.id, notice=told)

    def try_place(self, place: NoticePlaceRow) -> None:
        """Send a trial there, at once.

        Raises:
            NoticeError, UnreachableError and its kin: it did not arrive.
        """
        self._hand_over(place, notices.of_trial(self.see("/")), new_id(), now(), None, self.see("/"))

    def _send(self, row: NoticeRow) -> int:
        place = self._store.find(NoticePlaceRow, row.place)
        if place is None or place.silent:
            self._store.notices.ended(row.id, "given-up", row.tries, "the place is silent")
            return 0
        job = self._store.find(JobRow, row.job)
        about = self._about(job) if job is not None else None
        at = row.created_at if row.created_at.tzinfo else row.created_at.replace(tzinfo=UTC)
        see = self.see(f"/jobs/{row.job}")
        tries = row.tries + 1
        try:
            self._hand_over(place, Notice(**row.notice), row.id, at, about, see)
        except HighShelfError as fault:
            pause = notices.pause_after(tries)
            log.warning("notice", place=place.id, tries=tries, error=fault.message)
            if pause is None:
                self._store.notices.ended(row.id, "given-up", tries, fault.message)
            else:
                self._store.notices.later(row.id, tries, fault.message, pause)
            return 0
        self._store.notices.ended(row.id, "sent", tries, "")
        return 1

    def _hand_over(
        self, place: NoticePlaceRow, notice: Notice, number: str, at: datetime, job: dict[str, str] | None, see: str
    ) -> None:
        secret = self._store.secret(f"notice/{place.id}/secret")
        if place.kind == "mail":
            server = MailServer(**place.server)
            letter = notices.letter_of(notice, number, at, server.sender, place.target)
            self._drivers.mail(server, secret, letter)
            return
        body = json.dumps(notices.body_of(notice, number, at.isoformat(), job, see)).encode()
        time = str(int(now().timestamp()))
        status = self._drivers.call(place.target, body, notices.headers_of(secret, time, body))
        if not 200 <= status < 300:
            raise NoticeError(
                f"{place.target} answers with status {status}", hint="it has to answer with a status of 200 to 299"
            )

    def start(self) -> None:
        """Look again and again, until `stop`."""

        def work() -> None:
            swept = 0.0
            while not self._stop.wait(LOOK_SECONDS):
                try:
                    if self._store.disk.full:
                        continue
                    self.look()
                    if (passed := now().timestamp()) - swept > OLD_SECONDS:
                        swept = passed
                        self._store.notices.forget_old()
                except Exception as fault:
                    log.error("notices", error=f"{type(fault).__name__}: {fault}")

        self._thread = threading.Thread(target=work, name="notices", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()
        if self._thread is not None:
            self._thread.join(5)


def _wants(place: NoticePlaceRow, notice: Notice, job: JobRow) -> bool:
    return notice.what in place.what and place.account in ("", job.account)


def shown(place: NoticePlaceRow) -> dict[str, Any]:
    """Of a place, what may be told: never its key, nor what a web address has behind its path."""
    target = place.target.partition("?")[0] + ("?…" if "?" in place.target else "")
    return {"target": target}
