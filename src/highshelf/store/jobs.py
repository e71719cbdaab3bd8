"""Jobs as lists ask for them, and the words for the engine that follow from their changes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import Engine, func
from sqlmodel import col, select

from highshelf.store.database import session_on
from highshelf.store.tables import ActRow, EventRow, JobRow, OutboxRow, OutstandingRow, PlanRow, QuestionRow


@dataclass
class Glance:
    """What a list tells of a job besides its row: its plan's parts, its acts' states, an open question, the last word."""

    plan: dict[str, Any] = field(default_factory=dict)
    states: dict[tuple[str, str], str] = field(default_factory=dict)
    question: QuestionRow | None = None
    latest: EventRow | None = None
    outstanding: list[str] = field(default_factory=list)


class Jobs:
    """The jobs of all accounts."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def open(self) -> Sequence[JobRow]:
        """Those that are not over, the oldest first."""
        with session_on(self._engine) as session:
            where = col(JobRow.finished_at).is_(None)
            return list(session.exec(select(JobRow).where(where).order_by(col(JobRow.created_at))))

    def glances(self, rows: Sequence[JobRow]) -> dict[str, Glance]:
        """What a list tells of its jobs, in a handful of queries however many there are."""
        found = {row.id: Glance() for row in rows}
        ids, plans = list(found), {row.plan_id: row.id for row in rows}
        with session_on(self._engine) as session:
            for plan, body in session.exec(select(PlanRow.id, PlanRow.body).where(col(PlanRow.id).in_(list(plans)))):
                found[plans[plan]].plan = dict(body)
            acts = select(ActRow.job_id, ActRow.leg, ActRow.name, ActRow.state).where(col(ActRow.job_id).in_(ids))
            for job, leg, name, state in session.exec(acts):
                found[job].states[leg, name] = state
            open_ones = (col(QuestionRow.job_id).in_(ids), col(QuestionRow.answered_at).is_(None))
            for question in session.exec(select(QuestionRow).where(*open_ones)):
                found[question.job_id].question = question
            for event in session.exec(select(EventRow).where(col(EventRow.id).in_(_newest_of(ids)))):
                found[event.job_id].latest = event
            left = select(OutstandingRow.job_id, OutstandingRow.path).where(col(OutstandingRow.job_id).in_(ids))
            for job, path in session.exec(left):
                found[job].outstanding.append(path)
        return found

    def count_open(self) -> int:
        with session_on(self._engine) as session:
            where = col(JobRow.finished_at).is_(None)
            return session.exec(select(func.count()).select_from(JobRow).where(where)).one()

    def of_plan(self, plan: str) -> JobRow | None:
        """The job that a plan was used for."""
        with session_on(self._engine) as session:
            return session.exec(select(JobRow).where(col(JobRow.plan_id) == plan)).first()

    def rests(self, job_id: str) -> bool:
        """Whether it waits for a person: for an answer, or for the end of a pause. One that is called off waits for nobody."""
        with session_on(self._engine) as session:
            job = session.get(JobRow, job_id)
            where = (col(QuestionRow.job_id) == job_id, col(QuestionRow.answered_at).is_(None))
            asked = session.exec(select(QuestionRow).where(*where)).first()
            return job is not None and not job.cancel_asked and bool(job.pause or asked is not None)

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


def _newest_of(ids: Sequence[str]) -> Any:
    """The number of the last thing that was told of each job, but for its states: from the index's end, one look a job."""
    wanted = (col(EventRow.job_id) == col(JobRow.id), col(EventRow.kind).not_in(("state", "leg")))
    newest = select(EventRow.id).where(*wanted).order_by(col(EventRow.id).desc()).limit(1)
    return select(newest.correlate(JobRow).scalar_subquery()).where(col(JobRow.id).in_(ids))
