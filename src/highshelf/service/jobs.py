"""Routes of jobs, with live events."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator
from typing import Annotated

import anyio
import anyio.to_thread
from fastapi import APIRouter, Header, Query
from fastapi.responses import StreamingResponse
from sqlmodel import col

from highshelf.core.errors import ConflictError, InputError
from highshelf.core.plan import Plan
from highshelf.schemas.models import ActOut, Answer, EventOut, JobNew, JobOut, Listing, QuestionOut
from highshelf.service.deps import In, Rooms, Who
from highshelf.service.faults import RESPONSES
from highshelf.store.store import new_id
from highshelf.store.tables import EventRow, JobRow, PlanRow, QuestionRow

router = APIRouter(prefix="/jobs", tags=["jobs"], responses=RESPONSES)
POLL_SECONDS = 0.2
FINAL = ("done", "failed", "cancelled")


def job_out(room: Rooms, row: JobRow, *, whole: bool = True) -> JobOut:
    journal = room.store.journal(row.id)
    question = room.store.open_question(row.id)
    acts = (
        [ActOut(**{n: getattr(a, n) for n in ActOut.model_fields}) for a in reversed(journal.newest_first())]
        if whole
        else []
    )
    return JobOut(
        plan=row.plan_id,
        question=QuestionOut(**{n: getattr(question, n) for n in QuestionOut.model_fields})
        if question and not row.finished_at
        else None,
        acts=acts,
        outstanding=journal.leftovers(),
        **{
            n: getattr(row, n)
            for n in (
                "id",
                "kind",
                "account",
                "application",
                "state",
                "error",
                "installation",
                "created_at",
                "finished_at",
            )
        },
    )


@router.post("", operation_id="job_start", status_code=201)
def start(new: JobNew, room: In, who: Who) -> JobOut:
    """Start the install job of a plan. A plan is used once."""
    plan_row = room.store.get(PlanRow, new.plan, "plan")
    if room.store.all(JobRow, col(JobRow.plan_id) == new.plan):
        raise ConflictError(
            f"the plan {new.plan} was used already", hint="make a new one: the account may look different now"
        )
    plan = Plan.from_dict(plan_row.body)
    row = room.store.add(
        JobRow(id=new_id(), plan_id=new.plan, account=plan.account, application=plan.application, keep=new.keep)
    )
    values = room.store.values(row.id)
    for name, value in plan.settings.items():
        # Names of database and user are whole only after the panel added its part.
        if value != "?" and name not in ("database.name", "database.user"):
            values.set(name, value)
    for name in ("admin.password", "database.password"):
        if secret := room.store.secret(f"plan/{new.plan}/{name}"):
            values.set(name, secret, secret=True)
    room.engine.submit(row.id, plan.account)
    return job_out(room, row)


@router.get("", operation_id="job_list")
def listing(room: In, who: Who, account: str = "", limit: Annotated[int, Query(ge=1, le=500)] = 50) -> Listing[JobOut]:
    where = [col(JobRow.account) == account] if account else []
    rows = room.store.all(JobRow, *where, order=col(JobRow.created_at).desc(), limit=limit)
    return Listing(items=[job_out(room, r, whole=False) for r in rows])


@router.get("/{job_id}", operation_id="job_show")
def show(job_id: str, room: In, who: Who) -> JobOut:
    return job_out(room, room.store.get(JobRow, job_id, "job"))


@router.post("/{job_id}/answer", operation_id="job_answer")
def answer(job_id: str, given: Answer, room: In, who: Who) -> JobOut:
    """Answer the job's question; the answer is kept among its values and the job goes on."""
    row = room.store.get(JobRow, job_id, "job")
    question = room.store.get(QuestionRow, given.question, "question")
    text = given.answer.get_secret_value()
    if question.job_id != job_id:
        raise InputError(f"the question {given.question} is not of the job {job_id}")
    if question.answered_at is not None:
        raise ConflictError("this question was answered already")
    if not text.strip():
        raise InputError("the answer is empty", hint="say what the installer asks for")
    room.steps.answer(question.id, text)
    room.engine.wake(job_id, question.leg, question.id)
    return job_out(room, row)


@router.post("/{job_id}/cancel", operation_id="job_cancel")
def cancel(job_id: str, room: In, who: Who) -> JobOut:
    """Stop the job: no new byte within 2 s, then everything is taken back."""
    row = room.store.get(JobRow, job_id, "job")
    if row.finished_at is not None:
        raise ConflictError(f"the job {job_id} has ended already ({row.state})")
    room.steps.cancel(job_id)
    question = room.store.open_question(job_id)
    if question is not None:
        room.engine.wake(job_id, question.leg, question.id)
    return job_out(room, room.store.get(JobRow, job_id, "job"))


def _event_out(row: EventRow) -> EventOut:
    return EventOut(**{n: getattr(row, n) for n in EventOut.model_fields})


@router.get("/{job_id}/log", operation_id="job_log")
def log(job_id: str, room: In, who: Who, after: int = 0) -> Listing[EventOut]:
    """The job's events so far, those after the given number."""
    room.store.get(JobRow, job_id, "job")
    return Listing(items=[_event_out(e) for e in room.store.events_after(job_id, after)])


@router.get(
    "/{job_id}/events",
    operation_id="job_events",
    response_class=StreamingResponse,
    responses={200: {"content": {"text/event-stream": {}}}},
)
def events(
    job_id: str, room: In, who: Who, after: int = 0, last_event_id: Annotated[str | None, Header()] = None
) -> StreamingResponse:
    """Server-sent events until the job ends; resumes after Last-Event-ID. The data are those of `job_log`."""
    room.store.get(JobRow, job_id, "job")
    start = int(last_event_id) if last_event_id and last_event_id.isdigit() else after
    return StreamingResponse(
        _stream(room, job_id, start), media_type="text/event-stream", headers={"Cache-Control": "no-store"}
    )


async def _stream(room: Rooms, job_id: str, last: int) -> AsyncIterator[str]:
    while True:
        # The state is read before the events: an ended job's last events are never missed.
        row = await anyio.to_thread.run_sync(room.store.get, JobRow, job_id, "job")
        found = await anyio.to_thread.run_sync(room.store.events_after, job_id, last)
        for event in found:
            last = event.id or last
            yield f"id: {last}\nevent: {event.kind}\ndata: {json.dumps(_event_out(event).model_dump(mode='json'))}\n\n"
        if row.state in FINAL and not found:
            return
        if not found:
            await anyio.sleep(POLL_SECONDS)
