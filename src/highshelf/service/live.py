"""Live events: server-sent events (HTML standard, 9.2) out of the store, resumed by their ids.

What is told has no event name, its kind stands in the data: a kind called `error` would be taken for a dropped line.
Only `beat` (the line is alive) and `end` (nothing more comes) are named.
"""

from __future__ import annotations

import json
import re
import time
from collections.abc import AsyncIterator, Callable, Sequence
from typing import Annotated, Any

from fastapi import APIRouter, Header, Query
from fastapi.responses import StreamingResponse

from highshelf.schemas.models import EventOut
from highshelf.service.deps import In, StillIn
from highshelf.service.faults import RESPONSES
from highshelf.service.told import POLL_SECONDS, Told
from highshelf.store.tables import EventRow

router = APIRouter(tags=["live"], responses={401: RESPONSES[401]})
FINAL = ("done", "failed", "cancelled")
# The largest number that the database has.
LARGEST = 2**63 - 1
# A line without a word for longer than this is dead: readers count on it.
BEAT_SECONDS = 5.0
STREAM: dict[int | str, dict[str, Any]] = {200: {"content": {"text/event-stream": {}}}}
LastId = Annotated[str | None, Header(alias="Last-Event-ID")]


def event_out(row: EventRow) -> EventOut:
    return EventOut(job=row.job_id, **{n: getattr(row, n) for n in EventOut.model_fields if n != "job"})


def first_after(after: int, last_event_id: str | None) -> int:
    known = last_event_id and re.fullmatch(r"[0-9]{1,18}", last_event_id)
    return int(last_event_id or 0) if known else after


def stream(
    told: Told,
    job_id: str,
    found_after: Callable[[int], Sequence[EventRow]],
    ended: Callable[[], bool],
    start: int,
    still_in: Callable[[], bool],
) -> StreamingResponse:
    """Events of a job (or of all) after `start` until `ended` and nothing is left, or the session ends."""
    return StreamingResponse(
        _lines(told, job_id, found_after, ended, start, still_in),
        media_type="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )


def _is_last(row: EventRow) -> bool:
    return row.kind == "state" and row.data.get("state") in FINAL


async def _lines(
    told: Told,
    job_id: str,
    found_after: Callable[[int], Sequence[EventRow]],
    ended: Callable[[], bool],
    last: int,
    still_in: Callable[[], bool],
) -> AsyncIterator[str]:
    async with told.listening():
        yield "event: beat\ndata: {}\n\n"
        beaten = time.monotonic()
        # The end is looked for before the events: an ended job's last events are never missed.
        over = bool(await told.run(ended))
        while True:
            found, last = await told.after(last, job_id, found_after)
            for row in found:
                over = over or bool(job_id and _is_last(row))
                yield f"id: {row.id}\ndata: {json.dumps(event_out(row).model_dump(mode='json'))}\n\n"
            if over and not found:
                yield "event: end\ndata: {}\n\n"
                return
            if time.monotonic() - beaten > BEAT_SECONDS:
                if not await told.run(still_in):
                    return
                # An event that says it is over may be in the dark: a restored copy, a row that was written by hand.
                over = over or bool(await told.run(ended))
                yield "event: beat\ndata: {}\n\n"
                beaten = time.monotonic()
            if not found:
                await told.wait(POLL_SECONDS if over else BEAT_SECONDS)


@router.get("/watch", operation_id="watch", response_class=StreamingResponse, responses=STREAM)
def watch(
    room: In, still_in: StillIn, after: Annotated[int, Query(ge=-1, le=LARGEST)] = -1, last_event_id: LastId = None
) -> StreamingResponse:
    """What all jobs tell, as server-sent events, from now on or after an event's id; never ends by itself."""
    start = first_after(after, last_event_id)
    start = room.store.last_event_id() if start < 0 else start
    return stream(room.told, "", room.store.all_events_after, lambda: False, start, still_in)
