"""The journal: what each act intended, did, and whether it was taken back. The truth about the outside world."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Engine
from sqlmodel import col, select

from highshelf.store.database import session_on, together
from highshelf.store.epoch import check_epoch
from highshelf.store.tables import ActRow, OutstandingRow, now


class JobJournal:
    """One job's journal (port `Journal`), and its list of outstanding files.

    With an `epoch` nothing is written when a service was started on this database after the one that writes.
    """

    def __init__(self, engine: Engine, job_id: str, epoch: int = 0) -> None:
        self._engine = engine
        self._job_id = job_id
        self._epoch = epoch

    def _find(self, session: Any, leg: str, act: str) -> ActRow | None:
        row: ActRow | None = session.exec(
            select(ActRow).where(col(ActRow.job_id) == self._job_id, col(ActRow.leg) == leg, col(ActRow.name) == act)
        ).first()
        return row

    def state(self, leg: str, act: str) -> str:
        with session_on(self._engine) as session:
            row = self._find(session, leg, act)
            return row.state if row else ""

    def states(self, leg: str) -> dict[str, str]:
        """Act -> state, of all acts of a leg that were begun."""
        with session_on(self._engine) as session:
            wanted = (col(ActRow.job_id) == self._job_id, col(ActRow.leg) == leg)
            return dict(session.exec(select(ActRow.name, ActRow.state).where(*wanted)).all())

    def facts(self, leg: str, act: str) -> dict[str, Any]:
        with session_on(self._engine) as session:
            row = self._find(session, leg, act)
            return dict(row.facts) if row else {}

    def _write(self, leg: str, act: str, state: str | None, facts: dict[str, Any] | None, told: str = "") -> None:
        with together(self._engine) as session:
            check_epoch(session, self._epoch)
            row = self._find(session, leg, act) or ActRow(job_id=self._job_id, leg=leg, name=act)
            if state is not None:
                row.state = state
                row.finished_at = None if state == "intended" else now()
            if facts is not None:
                row.facts = facts
            if told:
                row.told = told
            session.add(row)

    def open(self, leg: str, act: str) -> None:
        """Note that an act begins, without touching what it noted before."""
        with together(self._engine):
            if not self.state(leg, act):
                self._write(leg, act, "intended", {})

    def intend(self, leg: str, act: str, facts: dict[str, Any]) -> None:
        self._write(leg, act, "intended", facts)

    def keep(self, leg: str, act: str, facts: dict[str, Any]) -> None:
        self._write(leg, act, None, facts)

    def done(self, leg: str, act: str, facts: dict[str, Any], told: str = "") -> None:
        with together(self._engine):
            merged = {**self.facts(leg, act), **facts}
            self._write(leg, act, "done", merged, told)

    def mark(self, leg: str, act: str, state: str) -> None:
        self._write(leg, act, state, None)

    def newest_first(self) -> list[ActRow]:
        with session_on(self._engine) as session:
            rows = session.exec(
                select(ActRow).where(col(ActRow.job_id) == self._job_id).order_by(col(ActRow.seq).desc())
            )
            return list(rows)

    def outstanding(self, path: str) -> None:
        with together(self._engine) as session:
            check_epoch(session, self._epoch)
            session.merge(OutstandingRow(job_id=self._job_id, path=path))

    def gone(self, path: str) -> None:
        with session_on(self._engine) as session:
            row = session.get(OutstandingRow, (self._job_id, path))
            if row is not None:
                session.delete(row)

    def leftovers(self) -> list[str]:
        with session_on(self._engine) as session:
            rows = session.exec(select(OutstandingRow).where(col(OutstandingRow.job_id) == self._job_id))
            return [row.path for row in rows]
