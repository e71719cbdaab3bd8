"""Routes of jobs, with live events."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse
from sqlmodel import col, or_

from highshelf.core.errors import ConflictError, InputError
from highshelf.core.legs.progress import progress_of
from highshelf.schemas.models import ActOut, Answer, EventOut, JobNew, JobOut, LegOut, Listing, QuestionOut
from highshelf.service.deps import In, Rooms, StillIn, Wanted, Who
from highshelf.service.faults import RESPONSES
from highshelf.service.live import FINAL, LARGEST, STREAM, LastId, event_out, first_after, stream
from highshelf.store.jobs import Glance
from highshelf.store.tables import EventRow, JobRow, PlanRow

After = Annotated[int, Query(ge=0, le=LARGEST)]
router = APIRouter(prefix="/jobs", tags=["jobs"], responses=RESPONSES)
SHARED = (
    "id",
    "kind",
    "account",
    "application",
    "state",
    "error",
    "installation",
    "cancel_asked",
    "created_at",
    "finished_at",
)
State = Literal["queued", "running", "waiting", "paused", "undoing", "done", "failed", "cancelled"]
SORTS = {
    "started": JobRow.created_at,
    "ended": JobRow.finished_at,
    "account": JobRow.account,
    "application": JobRow.application,
    "state": JobRow.state,
}


def aware(time: datetime) -> datetime:
    """A time without a zone is meant as UTC."""
    return time if time.tzinfo else time.replace(tzinfo=UTC)


def job_out(room: Rooms, row: JobRow) -> JobOut:
    """A job with all its acts."""
    acts = [
        ActOut(**{n: getattr(a, n) for n in ActOut.model_fields})
        for a in reversed(room.store.journal(row.id).newest_first())
    ]
    return _told(row, room.store.jobs.glances([row])[row.id], acts)


def _told(row: JobRow, seen: Glance, acts: Sequence[ActOut] = ()) -> JobOut:
    question = None if row.finished_at else seen.question
    plan = seen.plan
    legs = progress_of(
        seen.states,
        job=row.state,
        failed_in=(row.error or {}).get("leg", ""),
        asks_in=question.leg if question and row.state == "waiting" else "",
        database=plan["database"] != "none",
        plan=[name for name, value in plan.items() if value],
        kind=row.kind,
    )
    return JobOut(
        plan=row.plan_id,
        address=plan["address"],
        target=plan["target"],
        question=QuestionOut(**{n: getattr(question, n) for n in QuestionOut.model_fields}) if question else None,
        legs=[LegOut(name=leg.name, state=leg.state, acts_done=leg.acts_done, acts=leg.acts) for leg in legs],
        acts=list(acts),
        outstanding=seen.outstanding,
        latest=event_out(seen.latest) if seen.latest else None,
        paused=bool(row.pause),
        **{n: getattr(row, n) for n in SHARED},
    )


@router.post("", operation_id="job_start", status_code=201)
def start(new: JobNew, room: In, who: Who) -> JobOut:
    """Start the job of a plan. A plan is used once; one that something forbids is started `in_spite` of it, or not."""
    return started(room, room.store.get(PlanRow, new.plan, "plan"), keep=new.keep, in_spite=new.in_spite)


def started(room: Rooms, planned: PlanRow, *, keep: bool = False, in_spite: bool = False) -> JobOut:
    """The job of a plan, begun."""
    row = room.steps.start(planned, keep=keep, in_spite=in_spite)
    room.outbox.send(row.id)
    return job_out(room, row)


@router.get("", operation_id="job_list")
def listing(
    room: In,
    who: Who,
    part: Wanted,
    account: str = "",
    state: Annotated[list[State] | None, Query(description="only jobs in one of these states")] = None,
    since: Annotated[datetime | None, Query(description="only those that ended later, or did not end")] = None,
) -> Listing[JobOut]:
    where = [col(JobRow.account) == account] if account else []
    if state:
        where.append(col(JobRow.state).in_(state))
    if since is not None:
        where.append(or_(col(JobRow.finished_at).is_(None), col(JobRow.finished_at) > aware(since)))
    rows, total = part.rows(
        room.store,
        JobRow,
        *where,
        sorts=SORTS,
        usual="-started",
        last=JobRow.id,
        text=[JobRow.id, JobRow.account, JobRow.application],
    )
    seen = room.store.jobs.glances(rows)
    return Listing(items=[_told(r, seen[r.id]) for r in rows], total=total)


@router.get("/{job_id}", operation_id="job_show")
def show(job_id: str, room: In, who: Who) -> JobOut:
    return job_out(room, room.store.get(JobRow, job_id, "job"))


@router.post("/{job_id}/answer", operation_id="job_answer")
def answer(job_id: str, given: Answer, room: In, who: Who) -> JobOut:
    """Answer the job's question; the answer is kept among its values and the job goes on."""
    text = given.answer.get_secret_value()
    if not text.strip():
        raise InputError("the answer is empty", hint="say what the installer asks for")
    taken = room.steps.answer(job_id, given.question, text)
    room.outbox.send(job_id)
    if not taken:
        raise ConflictError("this question was answered already", hint="the job was told so once more")
    return job_out(room, room.store.get(JobRow, job_id, "job"))


@router.post("/{job_id}/cancel", operation_id="job_cancel")
def cancel(job_id: str, room: In, who: Who) -> JobOut:
    """Stop the job: no new byte within 2 s, then everything is taken back. One that has not begun is over at once."""
    room.steps.cancel(job_id)
    room.outbox.send(job_id)
    return job_out(room, room.store.get(JobRow, job_id, "job"))


@router.post("/{job_id}/pause", operation_id="job_pause")
def pause(job_id: str, room: In, who: Who) -> JobOut:
    """Let the job rest: no new byte within 2 s, what is there stays. A job that takes things back is not held up."""
    return job_out(room, room.steps.pause(job_id))


@router.post("/{job_id}/resume", operation_id="job_resume")
def resume(job_id: str, room: In, who: Who) -> JobOut:
    """Let a job that rests go on where it was."""
    row = room.steps.resume(job_id)
    room.outbox.send(job_id)
    return job_out(room, row)


@router.get("/{job_id}/log", operation_id="job_log")
def log(
    job_id: str, room: In, who: Who, after: After = 0, limit: Annotated[int, Query(ge=1, le=5000)] = 5000
) -> Listing[EventOut]:
    """The job's events so far, those after the given number."""
    room.store.get(JobRow, job_id, "job")
    found = room.store.events_after(job_id, after, limit)
    return Listing(items=[event_out(e) for e in found], total=len(found))


@router.get("/{job_id}/events", operation_id="job_events", response_class=StreamingResponse, responses=STREAM)
def events(
    job_id: str, room: In, still_in: StillIn, after: After = 0, last_event_id: LastId = None
) -> StreamingResponse:
    """Server-sent events until the job ends; resumes after Last-Event-ID. The data are those of `job_log`."""
    room.store.get(JobRow, job_id, "job")

    def found_after(last: int) -> Sequence[EventRow]:
        return room.store.events_after(job_id, last)

    def ended() -> bool:
        return room.store.get(JobRow, job_id, "job").state in FINAL

    return stream(room.told, job_id, found_after, ended, first_after(after, last_event_id), still_in)
