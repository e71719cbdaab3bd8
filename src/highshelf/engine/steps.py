"""One step of a leg, one step of undoing: run an act, note what came of it, turn errors into the job's error.

Rules:
1. An act that the journal calls done is never run again.
2. A step never raises: what goes wrong is written to the job and returned as `failed`, so that the engine does not retry it by itself.
3. Retryable errors are tried again here, a few times, with the act deciding from the outside world what is left to do.
"""

from __future__ import annotations

import contextlib
import json
import posixpath
import threading
import time
import traceback
from collections.abc import Callable
from typing import Any, Literal, TypedDict, TypeVar

import structlog

from highshelf.core.errors import (
    CancelledError,
    ConflictError,
    FaultError,
    HighShelfError,
    InputError,
    NoRoomError,
    PausedError,
    SupersededError,
    UnmetError,
)
from highshelf.core.jobs.kinds import DATABASE_KINDS, Kind, kind_of
from highshelf.core.legs.job import Act, Ask, Done, More
from highshelf.core.legs.trees import clear_leftovers
from highshelf.core.plan import Plan
from highshelf.core.ports import CancelToken
from highshelf.core.values import CATALOGUE
from highshelf.engine.bench import Drivers, Workbench, log_in_ahead
from highshelf.engine.connections import Connections
from highshelf.engine.fetching import Fetcher
from highshelf.engine.packing import Packer
from highshelf.engine.surveyor import Surveyor
from highshelf.store.licences import hand_over, take_licence
from highshelf.store.store import Store, new_id
from highshelf.store.tables import JobRow, PlanRow, QuestionRow, now

log = structlog.get_logger()
TRIES = 3
ABOUT_DATABASES = {kind.name for kind in DATABASE_KINDS}
PAUSE_SECONDS = 1.5
# A new step logs in anew. Acts are journalled each for itself, so a long step loses nothing when it is cut off.
STEP_SECONDS = 20.0


R = TypeVar("R")


def when_there_is_room(store: Store, work: Callable[[], R]) -> R:
    """Do something that is written down; while the disk is full it waits, and is done again from its beginning then."""
    while True:
        try:
            return work()
        except NoRoomError as fault:
            log.warning("room", fault=fault.message)
            time.sleep(PAUSE_SECONDS)
            store.disk.wait()


class Outcome(TypedDict):
    """What a step tells the workflow. It goes into the engine's tables: ids and words, never values."""

    move: Literal["advance", "ask", "done", "failed"]
    question: str


def outcome(move: Literal["advance", "ask", "done", "failed"], question: str = "") -> Outcome:
    return {"move": move, "question": question}


def _figures(facts: dict[str, Any]) -> dict[str, Any]:
    """The numbers among an act's facts that people watch."""
    return {n: facts[n] for n in ("bytes", "files", "of_files") if isinstance(facts.get(n), int)}


def _overlap(one: str, other: str) -> bool:
    return one == other or not one or not other or one.startswith(other + "/") or other.startswith(one + "/")


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
        superseded: Callable[[], None] = lambda: None,
    ) -> None:
        self._superseded = superseded
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

    def begin(self, row: JobRow, plan: Plan) -> JobRow:
        """Write a job down, with all that it begins with and the word for the engine: all of it or nothing.

        Raises:
            ConflictError: the plan was used already, or its licence key was taken meanwhile.
        """
        store = self.store
        with store.together():
            if store.jobs.of_plan(row.plan_id) is not None:
                raise ConflictError(
                    f"the plan {row.plan_id} was used already",
                    hint="make a new one: the account may look different now",
                )
            key = take_licence(store, plan.licence, row.id) if plan.licence else ""
            store.add(row)
            values = store.values(row.id)
            if key:
                values.set("licence.key", key, secret=True)
            for name, value in plan.settings.items():
                # Names of database and user are whole only after the panel added its part.
                if value != "?" and name not in ("database.name", "database.user"):
                    values.set(name, value)
            for name in (n for n, v in CATALOGUE.items() if v.secret):
                if secret := store.secret(f"plan/{row.plan_id}/{name}"):
                    values.set(name, secret, secret=True)
            for name, given in json.loads(store.secret(f"plan/{row.plan_id}/fields") or "{}").items():
                values.set(name, given, secret=True)
            store.jobs.tell_later("start", row.id)
        return row

    def start(self, planned: PlanRow, *, keep: bool = False, in_spite: bool = False) -> JobRow:
        """The job of a plan, written down; the outbox tells the engine of it.

        Raises:
            UnmetError: the account surely does not meet what the release needs, and nobody said `in_spite`.
            ConflictError: as `begin` does.
        """
        plan = Plan.from_dict(planned.body)
        if plan.forbids and not in_spite:
            raise UnmetError(plan.forbids, plan.account)
        row = JobRow(
            id=new_id(),
            kind=plan.kind,
            plan_id=planned.id,
            account=plan.account,
            application=plan.application,
            keep=keep or not kind_of(plan.kind).takes_back,
            installation=plan.installation,
        )
        row = self.begin(row, plan)
        for need in plan.forbids:
            self.store.event(row.id, f"started in spite of it: {need}")
        return row

    def cancel(self, job_id: str) -> JobRow:
        """Stop the job: one that has done nothing yet is over at once, another takes back what it did.

        Raises:
            ConflictError: it has ended already.
        """
        store = self.store
        with store.together():
            row = store.get(JobRow, job_id, "job")
            if row.finished_at is not None:
                raise ConflictError(f"the job {job_id} has ended already ({row.state})")
            mark, question = row.pause, store.open_question(job_id)
            store.change(JobRow, job_id, cancel_asked=True, pause="")
            if row.state == "queued" and not store.journal(job_id).newest_first():
                told = {"code": "cancelled", "message": "cancelled before it began", "hint": "", "leg": ""}
                store.change(JobRow, job_id, error={**told, "retryable": False})
                store.event(job_id, told["message"], kind="cancelled")
                self.finish(job_id, undone=True)
            # A job that the engine has never heard of, or has lost, is told of once more: it begins, and takes back.
            store.jobs.tell_later("start", job_id)
            if mark:
                store.jobs.tell_later("resumed", job_id, mark=mark)
            if question is not None:
                store.jobs.tell_later("answered", job_id, question.leg, question.id)
        self.token(job_id).cancel()
        return store.get(JobRow, job_id, "job")

    def pause(self, job_id: str) -> JobRow:
        """No new byte within 2 s; the legs that run come to rest and wait for `resume`.

        Raises:
            ConflictError: it has ended, or is taking things back.
        """
        with self.store.together():
            row = self.store.get(JobRow, job_id, "job")
            if row.finished_at is not None or row.error is not None or row.cancel_asked:
                what = "has ended already" if row.finished_at else "is taking things back"
                raise ConflictError(f"the job {job_id} {what} ({row.state})")
            if not row.pause:
                row = self.store.change(JobRow, job_id, pause=new_id())
        self.token(job_id).pause()
        return row

    def resume(self, job_id: str) -> JobRow:
        """The pause is over, and the engine is to wake the legs that wait for its mark.

        Raises:
            ConflictError: the job does not rest.
        """
        with self.store.together():
            row = self.store.get(JobRow, job_id, "job")
            if not row.pause:
                raise ConflictError(f"the job {job_id} does not rest (it is {row.state})")
            mark = row.pause
            row = self.store.change(JobRow, job_id, pause="")
            if row.state == "paused":
                waits = self.store.open_question(job_id)
                row = self.store.set_state(job_id, "waiting" if waits else "running")
            self.store.jobs.tell_later("resumed", job_id, mark=mark)
        self.token(job_id).resume()
        return row

    def _kind(self, job_id: str) -> Kind:
        return kind_of(self.store.get(JobRow, job_id, "job").kind)

    def groups(self, job_id: str) -> list[list[str]]:
        """Its legs in order; those that run side by side together."""
        return [list(group) for group in self._kind(job_id).groups]

    def mark(self, job_id: str, state: str) -> None:
        """The state of a job that goes on; one that has ended stays so."""
        with self.store.together():
            if self.store.get(JobRow, job_id, "job").finished_at is None:
                self.store.set_state(job_id, state)

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
            if not journal.newest_first():
                self._check_the_way(row)
            return self._tried(job_id, leg)
        except PausedError:
            # Resumed already when the mark is gone: then it simply goes on.
            mark = store.get(JobRow, job_id, "job").pause
            return self._rest(job_id, leg, mark) if mark else outcome("advance")
        except (SupersededError, NoRoomError):
            # The service that took over does what is left, and this one writes nothing any more, not even that. And what could
            # not be written down is no fault of the job: it waits (`when_there_is_room`).
            raise
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

    def _target(self, row: JobRow) -> str:
        """The folder that a job is about, as the transfer login sees it; "" is where it lands."""
        target = posixpath.normpath(str(self.store.get(PlanRow, row.plan_id, "plan").body["target"])).strip("/")
        return "" if target == "." else target

    def _overlapping(self, row: JobRow) -> list[JobRow]:
        """Other jobs of the account that are not over, and are about the same folder, one in it or one around it."""
        ours = self._target(row)
        others = (j for j in self.store.jobs.open() if j.account == row.account and j.id != row.id)
        return [j for j in others if _overlap(ours, self._target(j))]

    def may_give_way(self, job_id: str) -> bool:
        """Whether others of its account may go first: not while one is queued that would be in its way."""
        row = self.store.get(JobRow, job_id, "job")
        return not any(j.state == "queued" for j in self._overlapping(row))

    def park(self, job_id: str) -> bool:
        """Note that a job gives its place back; False when what it waits for has come in the meantime."""
        store = self.store
        with store.together():
            if not store.jobs.rests(job_id):
                return False
            row = store.get(JobRow, job_id, "job")
            store.event(job_id, f"other jobs of {row.account} may go first while it waits")
        return True

    def _check_the_way(self, row: JobRow) -> None:
        """Raises ConflictError: a job that waits has done something where this one is to begin."""
        for other in self._overlapping(row):
            if self.store.journal(other.id).newest_first():
                raise ConflictError(
                    f"the job {other.id} waits in the middle of its work at {self._target(other) or 'the document root'}",
                    hint=f"answer its question or cancel it (`highshelf job show {other.id}`), then make a new plan",
                )

    def _rest(self, job_id: str, leg: str, mark: str) -> Outcome:
        """The leg waits for the end of the pause as it would for an answer; no connection is held meanwhile."""
        if self.store.get(JobRow, job_id, "job").state != "paused":
            self.store.set_state(job_id, "paused")
        self.store.event(job_id, f"{leg} rests", leg=leg)
        return outcome("ask", mark)

    def _next(self, bench: Workbench, leg: str) -> Act | None:
        states = bench.journal.states(leg)
        ours = (a for a in self._kind(bench.id).acts[leg] if not a.when or getattr(bench.plan, a.when))
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
                if not fault.retryable or attempt == TRIES or isinstance(fault, NoRoomError):
                    raise
                self.store.event(job_id, f"{fault.message}; trying again", leg=leg, data={"code": fault.code})
                time.sleep(PAUSE_SECONDS * attempt)
        raise AssertionError("unreachable")

    def _acts(self, bench: Workbench, leg: str, token: CancelToken) -> Outcome:
        """Acts one after the other on the same connections, until the step has taken long enough."""
        # What a step that was cut off left on the host goes first; the database leg of an install runs beside place and leaves no files.
        if (leg != "database" or bench.plan.kind != "install") and bench.leftovers():
            clear_leftovers(bench)
        started = time.monotonic()
        while True:
            token.check()
            self._may_go_on(token)
            act = self._next(bench, leg)
            if act is None:
                return outcome("done")
            bench.journal.open(leg, act.name)
            noted = self._noted(bench, leg, act, act.do(bench))
            if noted["move"] != "advance" or time.monotonic() - started > STEP_SECONDS:
                return noted

    def _may_go_on(self, token: CancelToken) -> None:
        """Nothing is begun by a service that another one has taken the place of, nor while it could not be written down.

        Raises:
            SupersededError; CancelledError, PausedError while it waits for room.
        """
        self._is_ours()
        self.store.disk.wait(token.check)

    def _is_ours(self) -> None:
        """Raises SupersededError, when the process was not ended by it."""
        try:
            self.store.check_epoch()
        except SupersededError:
            self._superseded()
            raise

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
        return outcome("done" if isinstance(result, Done) and act is self._kind(bench.id).acts[leg][-1] else "advance")

    def _ask(self, job_id: str, leg: str, asked: Ask) -> str:
        with self.store.together():
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
            told = {"question": row.id, "options": list(asked.options)}
            self.store.event(job_id, asked.text, leg=leg, kind="question", data=told)
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
        self._is_ours()
        journal = self.store.journal(job_id)
        for row in journal.newest_first():
            act = self._kind(job_id).act(row.leg, row.name)
            if row.state in ("undone", "undo-failed"):
                continue
            if act is None or act.undo is None or not row.facts:
                journal.mark(row.leg, row.name, "undone")
                continue
            self._undo(job_id, row.leg, act, dict(row.facts))
            return outcome("advance")
        self._clear(job_id)
        return outcome("done")

    def _clear(self, job_id: str) -> None:
        """What a step that was cut off left on the host goes with the rest; what resists stays listed, and is told."""
        with Workbench(self.store, self._drivers, self._connections, job_id, "survey", CancelToken()) as bench:
            if not bench.leftovers():
                return
            try:
                clear_leftovers(bench)
            except (NoRoomError, SupersededError):
                raise
            except HighShelfError as fault:
                left = ", ".join(bench.leftovers())
                self.store.event(job_id, f"could not remove {left}: {fault.message}", kind="error")

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
            except (NoRoomError, SupersededError):
                raise
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

    def answer(self, job_id: str, question_id: str, text: str) -> bool:
        """Keep the answer among the job's values, and note that the engine is to be told, by id alone.

        Returns:
            Whether it was taken: one that is there already is kept as it is, and the engine told once more.

        Raises:
            NotFoundError: there is no such question. InputError: it is another job's. ConflictError: the job is over.
        """
        store = self.store
        with store.together():
            row, job = store.get(QuestionRow, question_id, "question"), store.get(JobRow, job_id, "job")
            if row.job_id != job_id:
                raise InputError(f"the question {question_id} is not of the job {job_id}")
            if job.finished_at is not None:
                raise ConflictError(f"the job {job_id} has ended already ({job.state})")
            store.jobs.tell_later("answered", job_id, row.leg, question_id)
            if row.answered_at is not None:
                return False
            store.values(job_id).set(row.value, text, secret=row.secret or None)
            store.change(QuestionRow, question_id, answered_at=now())
            store.change(JobRow, job_id, state="running")
            told = {"question": question_id}
            store.event(job_id, f"answered: {row.value}", leg=row.leg, kind="answer", data=told)
        return True

    def finish(self, job_id: str, *, undone: bool) -> None:
        """Write down how a job ended; the second time it changes nothing."""
        with self.store.together():
            row = self.store.get(JobRow, job_id, "job")
            self._drivers.leave_browser(job_id)
            if row.finished_at is not None:
                return
            if row.kind in ABOUT_DATABASES:
                # The login stands in the books, or nowhere: no copy of it stays with a job that is over.
                self.store.drop_values(job_id)
                self.store.drop_secrets(f"plan/{row.plan_id}/")
            if row.error is None:
                hand_over(self.store, job_id, row.installation)
                self.store.set_state(job_id, "done", finished_at=now())
                return
            if undone:
                hand_over(self.store, job_id)
            state = "cancelled" if row.error["code"] == "cancelled" else "failed"
            self.store.set_state(job_id, state, finished_at=now())
