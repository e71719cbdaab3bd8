"""Routes of what a job saw: the pages of its installer in order, and all of it for a support ticket."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from fastapi import APIRouter, Response

from highshelf.core.errors import NotFoundError
from highshelf.core.pages.reader import read
from highshelf.schemas.models import Listing
from highshelf.schemas.seen import FilledOut, PageSeen
from highshelf.service.deps import In, Rooms, Who
from highshelf.service.faults import RESPONSES
from highshelf.store.evidence import Seen
from highshelf.store.tables import JobRow

router = APIRouter(prefix="/jobs", tags=["jobs"], responses=RESPONSES)
ZIP: dict[int | str, dict[str, Any]] = {
    200: {"content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}}}
}
PNG: dict[int | str, dict[str, Any]] = {
    200: {"content": {"image/png": {"schema": {"type": "string", "format": "binary"}}}}
}


def _of(room: Rooms, job_id: str) -> list[Seen]:
    room.store.get(JobRow, job_id, "job")
    return room.store.evidence.pages(job_id)


def page_seen(seen: Seen, *, whole: bool = False) -> PageSeen:
    page, move = read(seen.snapshot), seen.move
    return PageSeen(
        number=seen.number,
        url=seen.snapshot.url,
        status=seen.snapshot.status,
        title=page.title,
        topic=move.get("topic", ""),
        state=move.get("state", ""),
        outcome=move.get("outcome", ""),
        confidence=move.get("confidence", 0.0),
        speaks_for=move.get("speaks_for", []),
        against=move.get("against", []),
        did=move.get("did", ""),
        filled=[FilledOut(field=f, value=v) for f, v in move.get("filled", [])],
        witness=move.get("witness", ""),
        arrived_at=datetime.fromtimestamp(move["arrived"], UTC) if move.get("arrived") else None,
        answered_seconds=move.get("answered_seconds", 0.0),
        pictured=seen.picture is not None,
        text="\n".join(page.told),
        html=seen.snapshot.html if whole else "",
    )


@router.get("/{job_id}/pages", operation_id="job_pages")
def pages(job_id: str, room: In, who: Who) -> Listing[PageSeen]:
    """The pages of the installer that the job saw, in order: how each was judged, what was done on it and why."""
    found = [page_seen(s) for s in _of(room, job_id)]
    return Listing(items=found, total=len(found))


@router.get("/{job_id}/pages/{number}", operation_id="job_page")
def page(job_id: str, number: int, room: In, who: Who) -> PageSeen:
    """One of these pages, with its HTML; secrets are masked."""
    return page_seen(_one(room, job_id, number), whole=True)


@router.get("/{job_id}/pages/{number}/picture", operation_id="job_picture", response_class=Response, responses=PNG)
def picture(job_id: str, number: int, room: In, who: Who) -> Response:
    """One of these pages as a person would have seen it; secrets are painted over. Pages that came without a browser have none."""
    seen = _one(room, job_id, number)
    if seen.picture is None:
        raise NotFoundError(
            f"there is no picture of page {number}: it came without a browser",
            hint="its text is kept: look at the page",
        )
    return Response(seen.picture.read_bytes(), media_type="image/png")


def _one(room: Rooms, job_id: str, number: int) -> Seen:
    found = _of(room, job_id)
    if not 0 <= number < len(found):
        raise NotFoundError(
            f"there is no page {number} of job {job_id}: {len(found)} were kept",
            hint="`highshelf job pages` lists them",
        )
    return found[number]


@router.get("/{job_id}/evidence", operation_id="job_evidence", response_class=Response, responses=ZIP)
def evidence(job_id: str, room: In, who: Who) -> Response:
    """All that was kept of what the job saw, as a zip; secrets are masked."""
    room.store.get(JobRow, job_id, "job")
    name = f'attachment; filename="job-{job_id}.zip"'
    return Response(
        room.store.evidence.packed(job_id), media_type="application/zip", headers={"Content-Disposition": name}
    )
