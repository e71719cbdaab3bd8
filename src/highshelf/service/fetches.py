"""Routes of releases that are fetched from their makers."""

from __future__ import annotations

import time
from typing import Annotated

import anyio
import anyio.to_thread
from fastapi import APIRouter, Query
from sqlmodel import col

from highshelf.engine.fetching import FINAL
from highshelf.schemas.models import Fault, Listing
from highshelf.schemas.shelf import FetchNew, FetchOut
from highshelf.service.deps import In, Rooms, Wanted, Who
from highshelf.service.faults import RESPONSES
from highshelf.store.tables import FetchRow

router = APIRouter(prefix="/fetches", tags=["releases"], responses=RESPONSES)
SORTS = {"started": FetchRow.created_at, "address": FetchRow.address, "state": FetchRow.state}
POLL_SECONDS = 0.15


def fetch_out(row: FetchRow) -> FetchOut:
    shared = {n: getattr(row, n) for n in FetchOut.model_fields if n != "fault"}
    return FetchOut(fault=Fault(**row.error) if row.error else None, **shared)


@router.post("", operation_id="release_fetch", status_code=202)
async def fetch(new: FetchNew, room: In, who: Who) -> FetchOut:
    """Fetch a release over https and check it in; goes on after a broken line and after a restart of the service.

    It is compared with a checksum or a signature when one is given. Answers when it has ended, or after `wait_seconds`.
    """
    row = await anyio.to_thread.run_sync(lambda: _order(room, new, who))
    return fetch_out(await _ended(room, row, new.wait_seconds))


def _order(room: Rooms, new: FetchNew, who: str) -> FetchRow:
    row = room.steps.fetcher.order(
        new.address,
        accept=list(new.accept),
        compare={
            "checksum": new.checksum,
            "checksum_address": new.checksum_address,
            "signature_address": new.signature_address,
            "key": new.key,
            "key_address": new.key_address,
        },
        headers={name: value.get_secret_value() for name, value in new.headers.items()},
        who=who,
    )
    room.engine.submit_fetch(row.id)
    return row


async def _ended(room: Rooms, row: FetchRow, seconds: float) -> FetchRow:
    until = time.monotonic() + seconds
    while row.state not in FINAL and time.monotonic() < until:
        await anyio.sleep(POLL_SECONDS)
        row = await anyio.to_thread.run_sync(room.store.get, FetchRow, row.id, "fetch")
    return row


@router.get("", operation_id="release_fetches")
def listing(
    room: In, who: Who, part: Wanted, unfinished: Annotated[bool, Query(description="only those under way")] = False
) -> Listing[FetchOut]:
    where = [col(FetchRow.finished_at).is_(None)] if unfinished else []
    rows, total = part.rows(
        room.store,
        FetchRow,
        *where,
        sorts=SORTS,
        usual="-started",
        last=FetchRow.id,
        text=[FetchRow.address, FetchRow.file_name, FetchRow.id],
    )
    return Listing(items=[fetch_out(r) for r in rows], total=total)


@router.get("/{fetch_id}", operation_id="release_fetch_show")
def show(fetch_id: str, room: In, who: Who) -> FetchOut:
    return fetch_out(room.store.get(FetchRow, fetch_id, "fetch"))


@router.post("/{fetch_id}/cancel", operation_id="release_fetch_cancel")
def cancel(fetch_id: str, room: In, who: Who) -> FetchOut:
    """Stop a fetch; what came over is thrown away."""
    return fetch_out(room.steps.fetcher.cancel(fetch_id))
