"""Routes of dumps: brought for an import, or taken by a job."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse, Response
from sqlmodel import col

from highshelf.core.errors import ConflictError, InputError, NotFoundError
from highshelf.schemas.databases import DumpOut
from highshelf.schemas.models import Listing
from highshelf.service.deps import In, Rooms, Wanted, Who
from highshelf.service.faults import RESPONSES
from highshelf.service.releases import check_file_name
from highshelf.store.store import new_id
from highshelf.store.tables import DumpRow, JobRow, PlanRow

router = APIRouter(prefix="/dumps", tags=["databases"], responses=RESPONSES)
SORTS = {"name": DumpRow.name, "account": DumpRow.account, "size": DumpRow.size_bytes, "since": DumpRow.created_at}
FILE: dict[int | str, dict[str, Any]] = {
    200: {
        "description": "The dump, as it lies here",
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


def _out(row: DumpRow) -> DumpOut:
    return DumpOut(**{n: getattr(row, n) for n in DumpOut.model_fields})


@router.post(
    "",
    operation_id="dump_bring",
    status_code=201,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def bring(
    request: Request, room: In, who: Who, file_name: Annotated[str, Query(min_length=1, max_length=200)]
) -> DumpOut:
    """Bring an SQL dump (the request's body), plain or packed with gz, bz2, xz or zst. It is looked through once."""
    name = check_file_name(file_name)
    draft, sha256 = await room.store.dumps.receive(request.stream(), name)
    try:
        return _out(await room.queues["shelf"].run(lambda: _kept(room, draft, name, sha256)))
    finally:
        draft.unlink(missing_ok=True)


def _kept(room: Rooms, draft: Path, name: str, sha256: str) -> DumpRow:
    seen = room.look_through(draft)
    if len(seen.databases) > 1:
        raise InputError(
            f"{name} holds {len(seen.databases)} databases ({', '.join(seen.databases[:6])})",
            hint="export the one that is meant alone",
        )
    number, size = new_id(), draft.stat().st_size
    room.store.dumps.keep(draft, number)
    shared = {n: getattr(seen, n) for n in ("kind", "packed", "encoding", "unpacked_bytes")}
    insists = next(iter(seen.databases), "")
    return room.store.add(DumpRow(id=number, name=name, insists=insists, size_bytes=size, sha256=sha256, **shared))


@router.get("", operation_id="dump_list")
def listing(room: In, who: Who, part: Wanted, account: str = "") -> Listing[DumpOut]:
    """Dumps that were brought or taken, the newest first."""
    where = [col(DumpRow.account) == account] if account else []
    rows, total = part.rows(
        room.store,
        DumpRow,
        *where,
        sorts=SORTS,
        usual="-since",
        last=DumpRow.id,
        text=[DumpRow.id, DumpRow.name, DumpRow.account, DumpRow.database],
    )
    return Listing(items=[_out(r) for r in rows], total=total)


@router.get("/{number}", operation_id="dump_show")
def show(number: str, room: In, who: Who) -> DumpOut:
    return _out(room.store.get(DumpRow, number, "dump"))


@router.get("/{number}/file", operation_id="dump_fetch", response_class=Response, responses=FILE)
def fetch(number: str, room: In, who: Who) -> Response:
    """The dump itself. It holds whatever the database held: who fetched it, and when, is recorded."""
    row = room.store.get(DumpRow, number, "dump")
    path = room.store.dumps.path(number)
    if not path.is_file():
        raise NotFoundError(f"the file of the dump {number} is not there any more", hint="take it anew")
    room.store.record_reveal(f"dump/{number}", who)
    return FileResponse(path, media_type="application/octet-stream", filename=row.name)


@router.delete("/{number}", operation_id="dump_remove", status_code=204)
def remove(number: str, room: In, who: Who) -> None:
    """Remove a dump from the data folder; refused while a job needs it."""
    room.store.get(DumpRow, number, "dump")
    for job in _needing(room, number):
        raise ConflictError(f"the job {job.id} needs this dump", hint=f"`highshelf job follow {job.id}`")
    room.store.dumps.drop(number)
    room.store.delete(DumpRow, number)


def _needing(room: Rooms, number: str) -> Iterator[JobRow]:
    for job in room.store.jobs.open():
        if room.store.get(PlanRow, job.plan_id, "plan").body.get("dump") == number:
            yield job
