"""One step of a leg, one step of undoing: run an act, note what came of it, turn errors into the job's error.

Rules:
1. An act that the journal calls done is never run again.
2. A step never raises: what goes wrong is written to the job and returned as `failed`, so that the engine does not retry it by itself.
3. Retryable errors are tried again here, a few times, with the act deciding from the outside world what is left to do.
"""

from __future__ import annotations

import contextlib
import threading
import time
import traceback
from typing import Any, Literal, TypedDict

import structlog

from highshelf.core.errors import CancelledError, FaultError, HighShelfError, PausedError
from highshelf.core.legs.job import Act, Ask, Done, More
from highshelf.core.legs.registry import ACTS, ORDER, act_of
from highshelf.core.legs.trees import clear_leftovers
from highshelf.core.ports import CancelToken
from highshelf.engine.bench import Drivers, Workbench, log_in_ahead
from highshelf.engine.connections import Connections
from highshelf.engine.fetching import Fetcher
from highshelf.engine.packing import Packer
from highshelf.engine.surveyor import Surveyor
from highshelf.store.licences import hand_over
from highshelf.store.store import Store, new_id
from highshelf.store.tables import JobRow, PlanRow, QuestionRow, now

log = structlog.get_logger()
TRIES = 3
PAUSE_SECONDS = 1.5
# A new step logs in anew. Acts are journalled each for itself, so a long step loses nothing when it is cut off.
STEP_SECONDS = 20.0


class Outcome(TypedDict):
    """What a step tells the workflow. It goes into the engine's tables: ids and words, never values."""

    move: Literal["advance", "ask", "done", "failed"]
    question: str


def outcome(move: Literal["advance", "ask", "done", "failed"], question: str = "") -> Outcome:
    return {"move": move, "question": question}


def _figures(facts: dict[str, Any]) -> dict[str, Any]:
    """The numbers among an act's facts that people watch."""
    return {n: facts[n] for n in ("bytes", "files", "of_files") if isinstance(facts.get(n), int)}


class Steps:
    """Runs steps of jobs. One object a process; cancel tokens live here."""

    def __init__(
        self,
        store: Store,
        drivers: Drivers,
        connections: Connections,
        surveyor: Surveyor,
        fetcher: Fetcher,
        packer: Packer,
    ) -> None:
        self.store, self._drivers, self._connections = store, drivers, connections
        self.surveyor, self.fetcher, self.packer = surveyor, fetcher, packer
        self._tokens: dict[str, CancelToken] = {}
        self._lock = threading.Lock()

    def token(self, job_id: str) -> CancelToken:
        with self._lock:
            token = self._tokens.setdefault(job_id, CancelToken())
        row = self.store.get(JobRow, job_id, "job")
        if row.cancel_asked:
            token.cancel()
        elif row.pause:
            token.pause()
        return token

    def log_in_ahead(self, job_id: str) -> None:
        """The login is under way while the queue is looked through. Never raises: the job is queued, and tells its faults itself."""
        with contextlib.suppress(HighShelfError):
            log_in_ahead(self.store, self._connections, job_id)

    def cancel(self, job_id: str) -> None:
        self.store.change(JobRow, job_id, cancel_asked=True, pause="")
        self.token(job_id).cancel()

    def pause(self, job_id: str) -> None:
        """No new byte within 2 s; the legs that run come to rest and wait for `resume`."""
        self.store.change(JobRow, job_id, pause=new_id())
        self.token(job_id).pause()

    def resume(self, job_id: str) -> None:
        """The pause is over; whoever calls wakes the legs that wait for its mark."""
        self.store.change(JobRow, job_id, pause="")
        self.token(job_id).resume()

    def step(self, job_id: str, leg: str) -> Outcome:
        """Run the leg's next acts, or go on with one, for about as long as a step should take."""
        store, journal = self.store, self.store.journal(job_id)
        row = store.get(JobRow, job_id, "job")
        if row.error:
            return outcome("failed")
        if row.pause:
            return self._rest(job_id, leg, row.pause)
        if leg == "database" and self._no_database(job_id):
            return outcome("done")
        if not journal.states(leg):
            store.event(job_id, leg, leg=leg, kind="leg")
        try:
            return self._tried(job_id, leg)
        except PausedError:
            # Resumed already when the mark is gone: then it simply goes on.
            mark = store.get(JobRow, job_id, "job").pause
            return self._rest(job_id, leg, mark) if mark else outcome("advance")
        except HighShelfError as fault:
            self._fail(job_id, leg, fault)
        except Exception as fault:
            log.error("fault", job=job_id, leg=leg, error=type(fault).__name__)
            told = f"High Shelf itself failed in {leg}: {type(fault).__name__}: {fault}"
            self._fail(
                job_id,
                leg,
                FaultError(told, hint="this is our fault; the service's log has more"),
                traceback.format_exc(),
            )
        return outcome("failed")

    def _rest(self, job_id: str, leg: str, mark: str) -> Outcome:
        """The leg waits for the end of the pause as it would for an answer; no connection is held meanwhile."""
        if self.store.get(JobRow, job_id, "job").state != "paused":
            self.store.set_state(job_id, "paused")
        self.store.event(job_id, f"{leg} rests", leg=leg)
        return outcome("ask", mark)

    def _next(self, bench: Workbench, leg: str) -> Act | None:
        states = bench.journal.states(leg)
        ours = (a for a in ACTS[leg] if not a.when or getattr(bench.plan, a.when))
        return next((a for a in ours if states.get(a.name) != "done"), None)

    def _no_database(self, job_id: str) -> bool:
        job = self.store.get(JobRow, job_id, "job")
        return bool(self.store.get(PlanRow, job.plan_id, "plan").body["database"] == "none")

    def _tried(self, job_id: str, leg: str) -> Outcome:
        for attempt in range(1, TRIES + 1):
            token = self.token(job_id)
            try:
                with Workbench(self.store, self._drivers, self._connections, job_id, leg, token) as bench:
                    return self._acts(bench, leg, token)
            except HighShelfError as fault:
                if not fault.retryable or attempt == TRIES:
                    raise
                self.store.event(job_id, f"{fault.message}; trying again", leg=leg, data={"code": fault.code})
                time.sleep(PAUSE_SECONDS * attempt)
        raise AssertionError("unreachable")

    def _acts(self, bench: Workbench, leg: str, token: CancelToken) -> Outcome:
        """Acts one after the other on the same connections, until the step has taken long enough."""
        # What a step that was cut off left on the host goes first; the database leg runs beside place and leaves no files.
        if leg != "database" and bench.leftovers():
            clear_leftovers(bench)
        started = time.monotonic()
        while True:
            token.check()
            act = self._next(bench, leg)
            if act is None:
                return outcome("done")
            bench.journal.open(leg, act.name)
            noted = self._noted(bench, leg, act, act.do(bench))
            if noted["move"] != "advance" or time.monotonic() - started > STEP_SECONDS:
                return noted

    def _noted(self, bench: Workbench, leg: str, act: Act, result: Done | More | Ask) -> Outcome:
        journal, store = bench.journal, self.store
        if isinstance(result, Ask):
            return outcome("ask", self._ask(bench.id, leg, result))
        if isinstance(result, Done):
            journal.done(leg, act.name, result.facts, bench.redact(result.told))
        if result.told:
            kind = "act" if isinstance(result, Done) else "note"
            store.event(
                bench.id,
                bench.redact(result.told),
                leg=leg,
                kind=kind,
                data={"act": act.name, **_figures(result.facts)},
            )
        return outcome("done" if isinstance(result, Done) and act is ACTS[leg][-1] else "advance")

    def _ask(self, job_id: str, leg: str, asked: Ask) -> str:
        known = self.store.open_question(job_id)
        if known is not None:
            return known.id
        row = QuestionRow(
            id=new_id(),
            job_id=job_id,
            leg=leg,
            value=asked.value,
            text=asked.text,
            options=list(asked.options),
            secret=asked.secret,
        )
        self.store.add(row)
        self.store.set_state(job_id, "waiting")
        self.store.event(
            job_id, asked.text, leg=leg, kind="question", data={"question": row.id, "options": list(asked.options)}
        )
        return row.id

    def _fail(self, job_id: str, leg: str, fault: HighShelfError, trace: str = "") -> None:
        with Workbench(self.store, self._drivers, self._connections, job_id, leg, CancelToken()) as bench:
            told: dict[str, Any] = {
                "code": fault.code,
                "message": bench.redact(fault.message),
                "hint": bench.redact(fault.hint),
                "leg": leg,
                "retryable": fault.retryable,
            }
            if trace:
                log.error("trace", job=job_id, trace=bench.redact(trace))
        # Two legs side by side: the first fault is the job's.
        if self.store.get(JobRow, job_id, "job").error is None:
            self.store.change(JobRow, job_id, error=told)
        kind = "cancelled" if isinstance(fault, CancelledError) else "error"
        self.store.event(job_id, told["message"], leg=leg, kind=kind, data={"code": fault.code, "hint": told["hint"]})

    def undo_step(self, job_id: str) -> Outcome:
        """Take back the newest act that is not taken back yet."""
        journal = self.store.journal(job_id)
        for row in journal.newest_first():
            act = act_of(row.leg, row.name) if row.leg in ORDER else None
            if row.state in ("undone", "undo-failed"):
                continue
            if act is None or act.undo is None or not row.facts:
                journal.mark(row.leg, row.name, "undone")
                continue
            self._undo(job_id, row.leg, act, dict(row.facts))
            return outcome("advance")
        return outcome("done")

    def _undo(self, job_id: str, leg: str, act: Act, facts: dict[str, Any]) -> None:
        journal = self.store.journal(job_id)
        assert act.undo is not None
        for attempt in range(1, TRIES + 1):
            try:
                with Workbench(self.store, self._drivers, self._connections, job_id, leg, CancelToken()) as bench:
                    act.undo(bench, facts)
                journal.mark(leg, act.name, "undone")
                self.store.event(job_id, f"taken back: {act.name}", leg=leg, kind="undo")
                return
            except Exception as fault:
                if attempt == TRIES:
                    journal.mark(leg, act.name, "undo-failed")
                    message = fault.message if isinstance(fault, HighShelfError) else f"{type(fault).__name__}: {fault}"
                    where = (
                        ", ".join(str(facts[k]) for k in ("folder", "name", "whole") if isinstance(facts.get(k), str))
                        or leg
                    )
                    with Workbench(self.store, self._drivers, self._connections, job_id, leg, CancelToken()) as bench:
                        text = bench.redact(f"could not take back {act.name}: {message}; see to it by hand ({where})")
                    self.store.event(job_id, text, leg=leg, kind="error")
                    return
                time.sleep(PAUSE_SECONDS * attempt)

    def answer(self, question_id: str, text: str) -> QuestionRow:
        """Keep the answer among the job's values; the workflow is woken by id alone."""
        row = self.store.get(QuestionRow, question_id, "question")
        self.store.values(row.job_id).set(row.value, text, secret=row.secret or None)
        answered = self.store.change(QuestionRow, question_id, answered_at=now())
        self.store.change(JobRow, row.job_id, state="running")
        self.store.event(
            row.job_id, f"answered: {row.value}", leg=row.leg, kind="answer", data={"question": question_id}
        )
        return answered

    def finish(self, job_id: str, *, undone: bool) -> None:
        row = self.store.get(JobRow, job_id, "job")
        if row.error is None:
            hand_over(self.store, job_id, row.installation)
            self.store.set_state(job_id, "done", finished_at=now())
            return
        if undone:
            hand_over(self.store, job_id)
        state = "cancelled" if row.error["code"] == "cancelled" else "failed"
        self.store.set_state(job_id, state, finished_at=now())
