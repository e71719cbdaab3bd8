"""Jobs as lists ask for them, and the words for the engine that follow from their changes."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Engine, func
from sqlmodel import col, select

from highshelf.store.database import session_on
from highshelf.store.tables import JobRow, OutboxRow, QuestionRow


class Jobs:
    """The jobs of all accounts."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def open(self) -> Sequence[JobRow]:
        """Those that are not over, the oldest first."""
        with session_on(self._engine) as session:
            where = col(JobRow.finished_at).is_(None)
            return list(session.exec(select(JobRow).where(where).order_by(col(JobRow.created_at))))

    def count_open(self) -> int:
        with session_on(self._engine) as session:
            where = col(JobRow.finished_at).is_(None)
            return session.exec(select(func.count()).select_from(JobRow).where(where)).one()

    def of_plan(self, plan: str) -> JobRow | None:
        """The job that a plan was used for."""
        with session_on(self._engine) as session:
            return session.exec(select(JobRow).where(col(JobRow.plan_id) == plan)).first()

    def answered(self, job_id: str) -> Sequence[QuestionRow]:
        """Questions of a job that have an answer."""
        with session_on(self._engine) as session:
            where = (col(QuestionRow.job_id) == job_id, col(QuestionRow.answered_at).is_not(None))
            return list(session.exec(select(QuestionRow).where(*where)))

    def tell_later(self, what: str, job_id: str, leg: str = "", mark: str = "") -> None:
        """Note a word for the engine, once; call it in the transaction of the change that it follows from."""
        with session_on(self._engine) as session:
            where = (col(OutboxRow.job_id) == job_id, col(OutboxRow.what) == what, col(OutboxRow.mark) == mark)
            if session.exec(select(OutboxRow).where(*where)).first() is None:
                session.add(OutboxRow(what=what, job_id=job_id, leg=leg, mark=mark))

    def words(self, job_id: str = "") -> Sequence[OutboxRow]:
        """What the engine is still to be told, of one job or of all, in order."""
        with session_on(self._engine) as session:
            statement = select(OutboxRow).order_by(col(OutboxRow.id))
            return list(session.exec(statement.where(col(OutboxRow.job_id) == job_id) if job_id else statement))
