"""Surveys as they are kept, and the files of ours that a survey has left on a host."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Engine, or_
from sqlmodel import col, select

from highshelf.store.database import session_on
from highshelf.store.journal import JobJournal
from highshelf.store.tables import OutstandingRow, SurveyRow, now

KEPT = 20


class Surveys:
    """The surveys of all accounts."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def _all(self, *where: Any, limit: int = 1000) -> Sequence[SurveyRow]:
        with session_on(self._engine) as session:
            newest = col(SurveyRow.started_at).desc()
            return list(session.exec(select(SurveyRow).where(*where).order_by(newest).limit(limit)))

    def of(self, account: str) -> Sequence[SurveyRow]:
        """All that are kept, the newest first."""
        return self._all(col(SurveyRow.account) == account, col(SurveyRow.kind) == "check")

    def latest(self, account: str) -> SurveyRow | None:
        return next(iter(self._all(col(SurveyRow.account) == account, col(SurveyRow.kind) == "check", limit=1)), None)

    def waiting(self, account: str) -> Sequence[SurveyRow]:
        """Those that have not begun."""
        return self._all(col(SurveyRow.account) == account, col(SurveyRow.state) == "queued")

    def every(self, account: str) -> Sequence[SurveyRow]:
        """Probes too."""
        return self._all(col(SurveyRow.account) == account)

    def over(self, surveys: Sequence[str]) -> set[str]:
        """Which of these are not under way any more, or are not there."""
        with session_on(self._engine) as session:
            under_way = select(SurveyRow).where(col(SurveyRow.id).in_(surveys), col(SurveyRow.finished_at).is_(None))
            return set(surveys) - {row.id for row in session.exec(under_way)}

    def end_probes(self) -> None:
        """Probes that a stopped service left open will not go on; what they left on the host stays listed."""
        for row in self._all(col(SurveyRow.kind) == "probe", col(SurveyRow.finished_at).is_(None)):
            self.end_probe(row.id)

    def end_probe(self, survey: str) -> None:
        """A probe is kept only as long as something of it is on the host."""
        with session_on(self._engine) as session:
            row = session.get(SurveyRow, survey)
            if row is None:
                return
            if JobJournal(self._engine, survey).leftovers():
                row.finished_at, row.state = now(), "failed"
                session.add(row)
            else:
                session.delete(row)

    def unfinished(self, account: str = "") -> Sequence[SurveyRow]:
        where: list[Any] = [col(SurveyRow.finished_at).is_(None), col(SurveyRow.kind) == "check"]
        if account:
            where.append(col(SurveyRow.account) == account)
        return self._all(*where, limit=100_000)

    def forget_old(self, account: str) -> None:
        """Keep the newest ones; one that left files on the host is kept as long as they are there."""
        with session_on(self._engine) as session:
            for row in self.of(account)[KEPT:]:
                if row.finished_at is not None and not JobJournal(self._engine, row.id).leftovers():
                    session.delete(row)

    def left(self, account: str = "") -> dict[str, list[tuple[str, str]]]:
        """Account -> (survey, path) of files that were not seen to be gone."""
        with session_on(self._engine) as session:
            statement = select(SurveyRow.account, OutstandingRow.job_id, OutstandingRow.path).where(
                col(OutstandingRow.job_id) == col(SurveyRow.id),
                # What a probe that is under way has there is still in use.
                or_(col(SurveyRow.kind) == "check", col(SurveyRow.finished_at).is_not(None)),
            )
            if account:
                statement = statement.where(col(SurveyRow.account) == account)
            found: dict[str, list[tuple[str, str]]] = {}
            for name, survey, path in session.exec(statement):
                found.setdefault(name, []).append((survey, path))
            return found
