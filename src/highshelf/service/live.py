"""Live events: server-sent events (HTML standard, 9.2) out of the store, resumed by their ids.

What is told has no event name, its kind stands in the data: a kind called `error` would be taken for a dropped line.
Only `beat` (the line is alive) and `end` (nothing more comes) are named.
"""

from __future__ import annotations

import json
import time
from collections.abc import AsyncIterator, Callable, Sequence
from typing import Annotated, Any

import anyio
import anyio.to_thread
from fastapi import APIRouter, Header
from fastapi.responses import StreamingResponse

from highshelf.schemas.models import EventOut
from highshelf.service.deps import In, StillIn
from highshelf.service.faults import RESPONSES
from highshelf.store.tables import EventRow

router = APIRouter(tags=["live"], responses={401: RESPONSES[401]})
POLL_SECONDS = 0.2
# A line without a word for longer than this is dead: readers count on it.
BEAT_SECONDS = 5.0
STREAM: dict[int | str, dict[str, Any]] = {200: {"content": {"text/event-stream": {}}}}
LastId = Annotated[str | None, Header(alias="Last-Event-ID")]


def event_out(row: EventRow) -> EventOut:
    return EventOut(job=row.job_id, **{n: getattr(row, n) for n in EventOut.model_fields if n != "job"})


def first_after(after: int, last_event_id: str | None) -> int:
    return int(last_event_id) if last_event_id and last_event_id.isdigit() else after


def stream(
    found_after: Callable[[int], Sequence[EventRow]],
    ended: Callable[[], bool],
    start: int,
    still_in: Callable[[], bool],
) -> StreamingResponse:
    """Events after `start` until `ended` and nothing is left, or the session ends. Plain functions run off the event loop."""
    return StreamingResponse(
        _lines(found_after, ended, start, still_in),
        media_type="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )


async def _lines(
    found_after: Callable[[int], Sequence[EventRow]], ended: Callable[[], bool], last: int, still_in: Callable[[], bool]
) -> AsyncIterator[str]:
    yield "event: beat\ndata: {}\n\n"
    beaten = time.monotonic()
    while True:
        # The end is looked for before the events: an ended job's last events are never missed.
        over = await anyio.to_thread.run_sync(ended)
        found = await anyio.to_thread.run_sync(found_after, last)
        for row in found:
            last = row.id or last
            yield f"id: {last}\ndata: {json.dumps(event_out(row).model_dump(mode='json'))}\n\n"
        if over and not found:
            yield "event: end\ndata: {}\n\n"
            return
        if time.monotonic() - beaten > BEAT_SECONDS:
            if not await anyio.to_thread.run_sync(still_in):
                return
            yield "event: beat\ndata: {}\n\n"
            beaten = time.monotonic()
        if not found:
            await anyio.sleep(POLL_SECONDS)


@router.get("/watch", operation_id="watch", response_class=StreamingResponse, responses=STREAM)
def watch(room: In, still_in: StillIn, after: int = -1, last_event_id: LastId = None) -> StreamingResponse:
    """What all jobs tell, as server-sent events, from now on or after an event's id; never ends by itself."""
    start = first_after(after, last_event_id)
    start = room.store.last_event_id() if start < 0 else start
    return stream(room.store.all_events_after, lambda: False, start, still_in)
