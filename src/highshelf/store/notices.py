"""Notices in the store: places, notices on their way, how far events were read for them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

from sqlmodel import col

from highshelf.store.tables import EventRow, NoticePlaceRow, NoticeRow, ReadUpToRow, now

if TYPE_CHECKING:
    from highshelf.store.store import Store

READER = "notices"
# Those that have ended are kept so long, to be looked at.
KEPT_DAYS = 30
AT_ONCE = 200


class Notices:
    """Of one store."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def places(self) -> Sequence[NoticePlaceRow]:
        return self._store.all(NoticePlaceRow, order=col(NoticePlaceRow.created_at))

    def begin_reading(self) -> None:
        """From now on: what happened before the first place was there is told to nobody."""
        if self._store.find(ReadUpToRow, READER) is None:
            self._store.add(ReadUpToRow(name=READER, event=self._store.last_event_id()))

    def stop_reading(self) -> None:
        self._store.delete(ReadUpToRow, READER)

    def unread(self) -> Sequence[EventRow]:
        """The next events that nobody looked at yet; none where nobody reads."""
        read = self._store.find(ReadUpToRow, READER)
        return [] if read is None else self._store.all_events_after(read.event, AT_ONCE)

    def read(self, event: int, rows: Sequence[NoticeRow]) -> None:
        """An event was looked at, and these notices came of it: both, or neither."""
        with self._store.together():
            for row in rows:
                self._store.add(row)
            self._store.change(ReadUpToRow, READER, event=event)

    def due(self, at: datetime) -> Sequence[NoticeRow]:
        """Those that are to be sent by then, the oldest first."""
        where = (col(NoticeRow.state) == "waiting", col(NoticeRow.due_at) <= at)
        return self._store.all(NoticeRow, *where, order=col(NoticeRow.created_at), limit=AT_ONCE)

    def ended(self, number: str, state: str, tries: int, error: str) -> None:
        self._store.change(NoticeRow, number, state=state, tries=tries, error=error, ended_at=now())

    def later(self, number: str, tries: int, error: str, seconds: int) -> None:
        self._store.change(NoticeRow, number, tries=tries, error=error, due_at=now() + timedelta(seconds=seconds))

    def forget_old(self) -> None:
        """What has ended long ago goes."""
        before = now() - timedelta(days=KEPT_DAYS)
        for row in self._store.all(NoticeRow, col(NoticeRow.ended_at) < before):
            self._store.delete(NoticeRow, row.id)

    def of_place(self, number: str) -> dict[str, Any]:
        """How the last of a place's notices went: state, error, at; {} before the first."""
        rows = self._store.all(
            NoticeRow, col(NoticeRow.place) == number, order=col(NoticeRow.created_at).desc(), limit=1
        )
        return (
            {"state": rows[0].state, "error": rows[0].error, "at": rows[0].ended_at or rows[0].created_at}
            if rows
            else {}
        )

    def drop_place(self, number: str) -> None:
        """A place, its secret, and what was on its way there."""
        with self._store.together():
            for row in self._store.all(NoticeRow, col(NoticeRow.place) == number, limit=100_000):
                self._store.delete(NoticeRow, row.id)
            self._store.drop_secret(f"notice/{number}/secret")
            self._store.delete(NoticePlaceRow, number)
            if not self.places():
                self.stop_reading()
