"""Routes of releases: the shelf."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import anyio.to_thread
from fastapi import APIRouter, Query, Request
from sqlmodel import col

from highshelf.core.errors import ConflictError, InputError
from highshelf.core.release.findings import find
from highshelf.engine.planner import find_release
from highshelf.schemas.models import Listing, MemberOut, ReleaseOut
from highshelf.service.deps import In, Rooms, Wanted, Who
from highshelf.service.faults import RESPONSES
from highshelf.store.tables import InstallationRow, JobRow, PlanRow, ReleaseRow

router = APIRouter(prefix="/releases", tags=["releases"], responses=RESPONSES)
SORTS = {
    "name": ReleaseRow.name,
    "version": ReleaseRow.version,
    "size": ReleaseRow.size_bytes,
    "files": ReleaseRow.files,
    "checked-in": ReleaseRow.checked_in_at,
}


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
def listing(room: In, who: Who, part: Wanted) -> Listing[ReleaseOut]:
    rows, total = part.rows(
        room.store,
        ReleaseRow,
        sorts=SORTS,
        usual="-checked-in",
        last=ReleaseRow.sha256,
        text=[ReleaseRow.name, ReleaseRow.version, ReleaseRow.file_name, ReleaseRow.sha256],
    )
    return Listing(items=[release_out(r) for r in rows], total=total)


@router.get("/{ref}", operation_id="release_show")
def show(ref: str, room: In, who: Who) -> ReleaseOut:
    """A release by SHA-256 (or its start), name, or name-version."""
    return release_out(find_release(room.store, ref))


@router.get("/{ref}/files", operation_id="release_files")
def files(ref: str, room: In, who: Who, part: Wanted) -> Listing[MemberOut]:
    """The files of a release as they will stand on the host, by path; `sort` takes path and size."""
    row = find_release(room.store, ref)
    if part.sort.removeprefix("-") not in ("", "path", "size"):
        raise InputError(f"files cannot be sorted by {part.sort.removeprefix('-')}", hint="by path, size")
    found = [f for f in room.store.shelf.contents(row.sha256).files if part.q.lower() in f.path.lower()]
    by_size = part.sort.removeprefix("-") == "size"
    found.sort(key=lambda f: (f.size_bytes if by_size else 0, f.path), reverse=part.sort.startswith("-"))
    shown = found[part.offset : part.offset + part.limit]
    return Listing(
        items=[MemberOut(path=f.path, size_bytes=f.size_bytes, sha256=f.sha256) for f in shown], total=len(found)
    )


@router.delete("/{ref}", operation_id="release_remove", status_code=204)
def remove(ref: str, room: In, who: Who) -> None:
    """Take a release off the shelf; refused while an installation or a running job needs it."""
    row = find_release(room.store, ref)
    if room.store.all(InstallationRow, col(InstallationRow.release) == row.sha256, limit=1):
        raise ConflictError(
            f"an installation came from {row.name} {row.version}", hint="it is needed to compare and to undo"
        )
    for job in room.store.all(JobRow, col(JobRow.finished_at).is_(None)):
        if room.store.get(PlanRow, job.plan_id, "plan").release == row.sha256:
            raise ConflictError(f"the job {job.id} is installing it", hint="wait for it, or cancel it")
    room.store.delete(ReleaseRow, row.sha256)
    room.store.shelf.drop(row.sha256)
