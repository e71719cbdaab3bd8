"""Routes of releases: the shelf."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import anyio.to_thread
from fastapi import APIRouter, Query, Request
from sqlmodel import col

from highshelf.core.release.findings import find
from highshelf.engine.planner import find_release
from highshelf.schemas.models import Listing, ReleaseOut
from highshelf.service.deps import In, Rooms, Who
from highshelf.service.faults import RESPONSES
from highshelf.store.tables import ReleaseRow

router = APIRouter(prefix="/releases", tags=["releases"], responses=RESPONSES)


def release_out(row: ReleaseRow) -> ReleaseOut:
    return ReleaseOut(**{n: getattr(row, n) for n in ReleaseOut.model_fields})


@router.post(
    "",
    operation_id="release_check_in",
    status_code=201,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def check_in(
    request: Request, room: In, who: Who, file_name: Annotated[str, Query(min_length=1, max_length=200)]
) -> ReleaseOut:
    """Check in an archive (the request's body). The same bytes twice are one release."""
    draft = await room.store.shelf.receive(request.stream(), Path(file_name).name)
    try:
        return await anyio.to_thread.run_sync(_keep, room, draft, Path(file_name).name)
    finally:
        draft.unlink(missing_ok=True)


def _keep(room: Rooms, draft: Path, file_name: str) -> ReleaseOut:
    sha256 = draft.name.split("-")[1]
    known = room.store.find(ReleaseRow, sha256)
    if known is not None:
        return release_out(known)
    opened = room.open_archive(draft, file_name)
    findings = find(opened.contents, file_name, opened.peek)
    room.store.shelf.keep(draft, sha256, opened.contents)
    archive = room.store.shelf.folder(sha256) / "archive"
    row = ReleaseRow(
        sha256=sha256,
        name=findings.name,
        version=findings.version,
        file_name=file_name,
        format=opened.format,
        size_bytes=archive.stat().st_size,
        unpacked_bytes=opened.contents.unpacked_bytes,
        files=len(opened.contents.files),
        wrapper=opened.contents.wrapper,
        findings=asdict(findings),
    )
    if opened.format != "zip":
        room.make_zip(archive, room.store.shelf.folder(sha256) / "payload.zip")
    return release_out(room.store.add(row))


@router.get("", operation_id="release_list")
def listing(room: In, who: Who) -> Listing[ReleaseOut]:
    return Listing(
        items=[release_out(r) for r in room.store.all(ReleaseRow, order=col(ReleaseRow.checked_in_at).desc())]
    )


@router.get("/{ref}", operation_id="release_show")
def show(ref: str, room: In, who: Who) -> ReleaseOut:
    """A release by SHA-256 (or its start), name, or name-version."""
    return release_out(find_release(room.store, ref))
