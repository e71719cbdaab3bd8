"""Durable workflows (DBOS): the only module that imports the engine's library.

Rules:
1. Ids only go through here: the library's tables keep arguments and results in readable form.
2. The application version is pinned, so that a job waiting for an answer survives an upgrade of High Shelf.
3. The workflow body is tiny and changes never: a waiting workflow is replayed through it after a restart.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from dbos import DBOS, DBOSConfig, SetEnqueueOptions, SetWorkflowID

from highshelf.engine.steps import Outcome, Steps
from highshelf.store.tables import JobRow

VERSION = "jobs-1"
QUEUE = "jobs"
# How often the engine looks for new jobs and answers: twice a second costs an idle service 3 % of a core.
POLL_SECONDS = 0.5
ANSWER_SECONDS = 30 * 24 * 3600
_steps: Steps | None = None


def steps() -> Steps:
    assert _steps is not None, "the engine has not been started"
    return _steps


@DBOS.step(name="leg-step")
def leg_step(job_id: str, leg: str) -> Outcome:
    return steps().step(job_id, leg)


@DBOS.step(name="undo-step")
def undo_step(job_id: str) -> Outcome:
    return steps().undo_step(job_id)


@DBOS.step(name="state-step")
def state_step(job_id: str, state: str) -> None:
    steps().store.set_state(job_id, state)


@DBOS.step(name="finish-step")
def finish_step(job_id: str, undone: bool) -> None:
    steps().finish(job_id, undone=undone)


@DBOS.step(name="keep-step")
def keep_step(job_id: str) -> bool:
    return steps().store.get(JobRow, job_id, "job").keep


@DBOS.workflow(name="leg")
def leg_workflow(job_id: str, leg: str) -> bool:
    """Run one leg to its end; False when it failed."""
    while True:
        result = leg_step(job_id, leg)
        if result["move"] == "done":
            return True
        if result["move"] == "failed":
            return False
        if result["move"] == "ask":
            DBOS.recv(result["question"], timeout_seconds=ANSWER_SECONDS)
            state_step(job_id, "running")


def run_leg(job_id: str, leg: str) -> bool:
    """A leg as a child workflow whose id can be told from the job's, so that an answer finds it."""
    with SetWorkflowID(f"{job_id}-{leg}"):
        return leg_workflow(job_id, leg)


@DBOS.workflow(name="install")
def install_workflow(job_id: str) -> bool:
    """The seven legs; place and database side by side; all taken back when one fails."""
    state_step(job_id, "running")
    fine = run_leg(job_id, "survey")
    if fine:
        handles = []
        for leg in ("place", "database"):
            with SetWorkflowID(f"{job_id}-{leg}"):
                handles.append(DBOS.start_workflow(leg_workflow, job_id, leg))
        outcomes = [handle.get_result() for handle in handles]
        fine = all(outcomes)
    for leg in ("configure", "walk", "tidy", "prove"):
        fine = fine and run_leg(job_id, leg)
    undone = not fine and not keep_step(job_id)
    if undone:
        state_step(job_id, "undoing")
        while undo_step(job_id)["move"] != "done":
            pass
    finish_step(job_id, undone)
    return fine


class Engine:
    """Start it once a process; stop it at the end."""

    def __init__(self, work: Steps, database: Path) -> None:
        global _steps
        _steps = work
        self._work = work
        config: DBOSConfig = {
            "name": "highshelf",
            "system_database_url": f"sqlite:///{database}",
            "application_version": VERSION,
            "executor_id": "local",
            "log_level": "ERROR",
            "notification_listener_polling_interval_sec": POLL_SECONDS,
        }
        self._dbos: Any = DBOS(config=config)

    def start(self) -> None:
        """Open the engine's tables and pick up jobs that were running or waiting."""
        DBOS.launch()
        DBOS.register_queue(QUEUE, partition_concurrency=1, polling_interval_sec=POLL_SECONDS)

    def stop(self) -> None:
        DBOS.destroy(workflow_completion_timeout_sec=0)

    def submit(self, job_id: str, account: str) -> None:
        """Queue a job; one at a time for each account."""
        with SetWorkflowID(job_id), SetEnqueueOptions(queue_partition_key=account):
            DBOS.enqueue_workflow(QUEUE, install_workflow, job_id)

    def wake(self, job_id: str, leg: str, question_id: str) -> None:
        """Tell the waiting leg that its question has an answer."""
        DBOS.send(f"{job_id}-{leg}", "answered", question_id)
