"""Durable workflows (DBOS): the only module that imports the engine's library.

Rules:
1. Ids only go through here: the library's tables keep arguments and results in readable form.
2. The application version is pinned, so that a job waiting for an answer survives an upgrade of High Shelf.
3. The workflow body is tiny and changes never: a waiting workflow is replayed through it after a restart.
4. Everything it is told may be told twice: ids make the second time nothing (engine/outbox.py does the telling).
5. A job that waits keeps its account to itself for a while, and gives its place back then: its workflow ends, and a further run goes on
   once it has its answer.
6. A workflow that could not write down how it ended (a full disk) is under way for ever by the books: what is, is known here
   besides, and what is not is begun again.
"""

from __future__ import annotations

import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import count
from pathlib import Path
from typing import Any, Literal

from dbos import DBOS, DBOSConfig, SetEnqueueOptions, SetWorkflowID
from dbos import error as dbos_error

from highshelf.core.jobs.kinds import ALL_LEGS
from highshelf.engine.steps import Outcome, Steps, when_there_is_room
from highshelf.store.disk import private
from highshelf.store.store import new_id
from highshelf.store.tables import JobRow

VERSION = "jobs-1"
QUEUE, SURVEYS, FETCHES, PACKS = "jobs", "surveys", "fetches", "packs"
# Makers' servers are not to be crowded, and a slow one must not hold up all others.
FETCHES_AT_ONCE = 4
# How often the engine looks for answers, and for new jobs: twice a second costs an idle service 3 % of a core.
POLL_SECONDS, JOB_POLL_SECONDS = 0.5, 0.25
# Somebody sits in front of a survey. Each queue that is polled costs an idle service: the less urgent, the less often.
SURVEY_POLL_SECONDS, FETCH_POLL_SECONDS, PACK_POLL_SECONDS = 0.5, 1.0, 3.0
# Logging in and what goes with it is work for a moment: with forty begun together nobody else had a turn for a second.
SURVEYS_BEGUN: Any = {"limit": 4, "period": 0.5}
# Whoever sits in front of a question has answered it by then; later looks, where the place was not given back, are rarer.
PATIENCE_SECONDS, LATER_SECONDS = 60.0, 600.0
# How often the legs of one group may begin again in one run, since the last of them asked: what wakes them tries all of these.
MOST_AGAIN = 5
# What the library calls a workflow that will still do something.
OPEN = ("PENDING", "ENQUEUED", "DELAYED")
EXECUTOR, LEG = "local", "leg"
# Between the books and the first line of a workflow lie milliseconds; on a machine that is very busy, seconds.
GONE_SECONDS = 15.0
_steps: Steps | None = None
_patience_seconds = PATIENCE_SECONDS

End = Literal["done", "failed", "asked"]


class _Here:
    """Which workflows this process is at; one more than once while a newer run of it takes over."""

    def __init__(self) -> None:
        self._lock, self._found = threading.Lock(), Counter[str]()

    @contextmanager
    def at(self) -> Iterator[None]:
        name = DBOS.workflow_id or ""
        with self._lock:
            self._found[name] += 1
        try:
            yield
        finally:
            with self._lock:
                self._found[name] -= 1
                self._found += Counter()

    def __contains__(self, name: str) -> bool:
        with self._lock:
            return name in self._found


_here = _Here()


def workflow_of(job_id: str, run: int) -> str:
    """A job's workflow. One that broke is not taken up again; a further run is, and finds in the journal what was done."""
    return f"{job_id}~{run}" if run else job_id


def steps() -> Steps:
    assert _steps is not None, "the engine has not been started"
    return _steps


@DBOS.step(name="leg-step")
def leg_step(job_id: str, leg: str) -> Outcome:
    return when_there_is_room(steps().store, lambda: steps().step(job_id, leg))


@DBOS.step(name="undo-step")
def undo_step(job_id: str) -> Outcome:
    return when_there_is_room(steps().store, lambda: steps().undo_step(job_id))


@DBOS.step(name="state-step")
def state_step(job_id: str, state: str) -> None:
    when_there_is_room(steps().store, lambda: steps().mark(job_id, state))


@DBOS.step(name="finish-step")
def finish_step(job_id: str, undone: bool) -> None:
    when_there_is_room(steps().store, lambda: steps().finish(job_id, undone=undone))


@DBOS.step(name="keep-step")
def keep_step(job_id: str) -> bool:
    return steps().store.get(JobRow, job_id, "job").keep


@DBOS.step(name="way-step")
def way_step(job_id: str) -> bool:
    return when_there_is_room(steps().store, lambda: steps().may_give_way(job_id))


@DBOS.step(name="park-step")
def park_step(job_id: str) -> bool:
    return when_there_is_room(steps().store, lambda: steps().park(job_id))


@DBOS.workflow(name=LEG)
def leg_workflow(job_id: str, leg: str) -> End:
    """Run one leg to its end, or until a question has waited so long that others go first."""
    with _here.at():
        return _run_leg(job_id, leg)


def _run_leg(job_id: str, leg: str) -> End:
    while True:
        result = leg_step(job_id, leg)
        if result["move"] in ("done", "failed"):
            return "done" if result["move"] == "done" else "failed"
        if result["move"] == "ask":
            patience = _patience_seconds
            while DBOS.recv(result["question"], timeout_seconds=patience) is None:
                if way_step(job_id):
                    return "asked"
                patience = LATER_SECONDS
            state_step(job_id, "running")


def leg_of(job: str, leg: str, again: int = 0) -> str:
    """A leg's workflow: its id can be told from the job's, so that an answer finds it."""
    return f"{job}-{leg}" + (f"-{again}" if again else "")


def run_group(job_id: str, group: list[str], again: int = 0) -> list[End]:
    """Legs as child workflows, side by side where there are several; how each ended."""
    job = DBOS.workflow_id or job_id
    if len(group) == 1:
        with SetWorkflowID(leg_of(job, group[0], again)):
            return [_end(leg_workflow(job_id, group[0]))]
    handles = []
    for leg in group:
        with SetWorkflowID(leg_of(job, leg, again)):
            handles.append(DBOS.start_workflow(leg_workflow, job_id, leg))
    return [_end(handle.get_result()) for handle in handles]


def _end(told: End | bool) -> End:
    """Legs that ended before there were places to give back told yes or no."""
    return told if isinstance(told, str) else "done" if told else "failed"


def run_legs(job_id: str, groups: list[list[str]]) -> End:
    """One group after the other, until one fails, or waits for an answer that does not come."""
    for group in groups:
        for again in range(MOST_AGAIN):
            ends = run_group(job_id, group, again)
            if "failed" in ends:
                return "failed"
            if "asked" not in ends:
                break
            # While its sister was at work the answer may have come.
            if park_step(job_id) or again == MOST_AGAIN - 1:
                return "asked"
    return "done"


def end_job(job_id: str, end: End) -> bool:
    """What follows from how the legs ended; a job that waits is left as it stands."""
    if end == "asked":
        return False
    undone = end == "failed" and not keep_step(job_id)
    if undone:
        state_step(job_id, "undoing")
        while undo_step(job_id)["move"] != "done":
            pass
    finish_step(job_id, undone)
    return end == "done"


@DBOS.step(name="groups-step")
def groups_step(job_id: str) -> list[list[str]]:
    return steps().groups(job_id)


@DBOS.workflow(name="job")
def job_workflow(job_id: str) -> bool:
    """The legs of a job's kind; taken back when one fails and its kind says so."""
    with _here.at():
        state_step(job_id, "running")
        return end_job(job_id, run_legs(job_id, groups_step(job_id)))


@DBOS.workflow(name="install")
def install_workflow(job_id: str) -> bool:
    """As jobs were run before there were kinds: those that wait since then are replayed through it, and no new one is begun."""
    with _here.at():
        state_step(job_id, "running")
        groups = [["survey"], ["place", "database"], ["configure"], ["walk"], ["tidy"], ["prove"]]
        return end_job(job_id, run_legs(job_id, groups))


@DBOS.step(name="survey-step")
def survey_step(survey_id: str) -> None:
    steps().surveyor.do(survey_id)


@DBOS.workflow(name="survey")
def survey_workflow(survey_id: str) -> bool:
    """One survey of an account; begun again from its start after a crash, which first removes what was left."""
    with _here.at():
        survey_step(survey_id)
        for release in behind_step():
            DBOS.enqueue_workflow(PACKS, pack_workflow, release)
    return True


@DBOS.step(name="behind-step")
def behind_step() -> list[str]:
    """Releases to be packed for what an account can unpack, as its survey found."""
    return steps().packer.behind()


@DBOS.step(name="pack-step")
def pack_step(sha256: str) -> None:
    steps().packer.do(sha256)


@DBOS.workflow(name="pack")
def pack_workflow(sha256: str) -> bool:
    """A release packed in the forms that go over fastest."""
    with _here.at():
        pack_step(sha256)
    return True


@DBOS.step(name="fetch-step")
def fetch_step(fetch_id: str) -> str:
    return steps().fetcher.do(fetch_id)


@DBOS.workflow(name="fetch")
def fetch_workflow(fetch_id: str) -> bool:
    """One release fetched from its makers; after a crash it goes on where it stopped."""
    with _here.at():
        release = fetch_step(fetch_id)
        if release:
            DBOS.enqueue_workflow(PACKS, pack_workflow, release)
    return True


class Engine:
    """Start it once a process; stop it at the end."""

    def __init__(self, work: Steps, database: Path, patience_seconds: float = PATIENCE_SECONDS) -> None:
        """`patience_seconds`: so long a job that waits for an answer keeps its account to itself."""
        global _steps, _patience_seconds
        _steps, _patience_seconds = work, patience_seconds
        self._work = work
        private(database)
        config: DBOSConfig = {
            "name": "highshelf",
            "system_database_url": f"sqlite:///{database}",
            "application_version": VERSION,
            "executor_id": EXECUTOR,
            "log_level": "ERROR",
            "notification_listener_polling_interval_sec": POLL_SECONDS,
        }
        self._dbos: Any = DBOS(config=config)
        self._missed: dict[str, float] = {}

    def start(self) -> None:
        """Open the engine's tables and pick up jobs that were running or waiting."""
        DBOS.launch()
        DBOS.register_queue(QUEUE, partition_concurrency=1, polling_interval_sec=JOB_POLL_SECONDS)
        # A queue of their own: a job that waits for an answer for days must not keep its account from being looked at.
        DBOS.register_queue(PACKS, concurrency=1, polling_interval_sec=PACK_POLL_SECONDS)
        DBOS.register_queue(FETCHES, concurrency=FETCHES_AT_ONCE, polling_interval_sec=FETCH_POLL_SECONDS)
        DBOS.register_queue(
            SURVEYS, partition_concurrency=1, limiter=SURVEYS_BEGUN, polling_interval_sec=SURVEY_POLL_SECONDS
        )

    def stop(self) -> None:
        DBOS.destroy(workflow_completion_timeout_sec=0)

    def submit(self, job_id: str, account: str, run: int = 0) -> None:
        """Queue a job; one at a time for each account. Asking twice for the same run does it once."""
        with SetWorkflowID(workflow_of(job_id, run)), SetEnqueueOptions(queue_partition_key=account):
            DBOS.enqueue_workflow(QUEUE, job_workflow, job_id)
        self._work.log_in_ahead(job_id)

    def state(self, job_id: str, run: int) -> Literal["unknown", "open", "over"]:
        """What the engine knows of a job's run."""
        found = self._status(workflow_of(job_id, run))
        return "unknown" if not found else "open" if found in OPEN else "over"

    def look_after(self, clock: Callable[[], float] = time.monotonic) -> list[str]:
        """Begin again what is under way by the books and has not been for a while; returns which. Of a run that is over nothing
        goes on."""
        pending = DBOS.list_workflows(status="PENDING", executor_id=EXECUTOR, load_input=False, load_output=False)
        self._missed = {
            w.workflow_id: self._missed.get(w.workflow_id, clock()) for w in pending if w.workflow_id not in _here
        }
        begun = []
        for one in pending:
            # What a survey or a fetch has queued goes on after it; a leg never goes on without its job.
            parent = one.parent_workflow_id if one.name == LEG else None
            if parent and self._status(parent) not in OPEN:
                DBOS.cancel_workflow(one.workflow_id)
            elif clock() - self._missed.get(one.workflow_id, clock()) >= GONE_SECONDS:
                DBOS.resume_workflow(one.workflow_id, queue_name=one.queue_name)
                begun.append(one.workflow_id)
        return begun

    def _status(self, name: str) -> str:
        """ "" for what the engine does not know."""
        found = DBOS.get_workflow_status(name)
        return found.status if found is not None else ""

    def _open_run(self, name: str) -> str:
        """The workflow of a thing that is not done: one that broke is not taken up again, the next one is."""
        return next(w for n in count() if self._status(w := workflow_of(name, n)) in ("", *OPEN))

    def submit_survey(self, survey_id: str, account: str) -> None:
        """Queue a survey; one at a time for each account, and asking twice for the same one does it once."""
        with SetWorkflowID(self._open_run(f"survey-{survey_id}")), SetEnqueueOptions(queue_partition_key=account):
            DBOS.enqueue_workflow(SURVEYS, survey_workflow, survey_id)

    def submit_fetch(self, fetch_id: str) -> None:
        """Queue a fetch; asking twice for the same one does it once."""
        with SetWorkflowID(self._open_run(f"fetch-{fetch_id}")):
            DBOS.enqueue_workflow(FETCHES, fetch_workflow, fetch_id)

    def submit_pack(self, sha256: str) -> None:
        """Queue the packing of a release."""
        # A release that was taken off the shelf and came back is packed again: each asking is one of its own.
        with SetWorkflowID(f"pack-{sha256[:16]}-{new_id()}"):
            DBOS.enqueue_workflow(PACKS, pack_workflow, sha256)

    def wake(self, job_id: str, run: int, mark: str, leg: str = "") -> None:
        """Tell a leg that its question has an answer, or, without a leg, all that may wait that this pause is over."""
        for one in (leg,) if leg else ALL_LEGS:
            for again in range(MOST_AGAIN):
                target = leg_of(workflow_of(job_id, run), one, again)
                try:
                    DBOS.send(target, "go on", mark, idempotency_key=f"{target}-{mark}")
                except dbos_error.DBOSNonExistentWorkflowError:
                    # A leg that was not begun yet has nothing to be told.
                    break
