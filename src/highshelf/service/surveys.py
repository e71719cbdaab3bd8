"""Routes of an account's survey: order one, look at it."""

from __future__ import annotations

from functools import partial

from fastapi import APIRouter

from highshelf.core.errors import NotFoundError
from highshelf.core.survey.lines import TOPICS
from highshelf.schemas.models import AccountCheck, Fault, Listing
from highshelf.schemas.surveys import SurveyLine, SurveyOut
from highshelf.service.deps import In, Rooms, Who
from highshelf.service.faults import RESPONSES
from highshelf.store.tables import AccountRow, SurveyRow

router = APIRouter(prefix="/accounts", tags=["accounts"], responses=RESPONSES)


def survey_out(room: Rooms, row: SurveyRow) -> SurveyOut:
    lines = [
        SurveyLine(group=TOPICS[line["topic"]][0], title=TOPICS[line["topic"]][1], **line)
        for line in row.lines
        if line["topic"] in TOPICS
    ]
    left = [path for _, path in room.store.surveys.left(row.account).get(row.account, [])] if row.finished_at else []
    return SurveyOut(
        id=row.id,
        account=row.account,
        state=row.state,
        lines=lines,
        fault=Fault(**row.error) if row.error else None,
        left=left,
        started_at=row.started_at,
        finished_at=row.finished_at,
    )


@router.post("/{name}/check", operation_id="account_check", status_code=202)
async def check(name: str, ask: AccountCheck, room: In, who: Who) -> SurveyOut:
    """Find out everything about the account: logins, roots, limits, neighbours. Lines come as they are known.

    The server's identity is pinned at the first check. Nothing is left behind.
    """
    # A flood of checks waits for its own threads, and whoever waits for a silent host holds none.
    begun = await room.queues["orders"].run(partial(_begin, room, name, ask.accept_identity, who))
    await room.endings.wait(begun, ask.wait_seconds)
    return await room.queues["orders"].run(lambda: survey_out(room, room.store.get(SurveyRow, begun, "survey")))


def _begin(room: Rooms, name: str, accept_identity: bool, who: str) -> str:
    row = room.surveyor.order(name, accept_identity=accept_identity)
    if accept_identity:
        room.store.record(who, "identity-accepted", name, "whatever identity the servers show now is to be taken")
    room.engine.submit_survey(row.id, name)
    return row.id


@router.get("/{name}/survey", operation_id="account_survey")
def survey(name: str, room: In, who: Who, id: str = "") -> SurveyOut:
    """The account's newest survey, or the one with this id."""
    room.store.get(AccountRow, name, "account")
    row = room.store.find(SurveyRow, id) if id else room.store.surveys.latest(name)
    if row is None or row.account != name:
        raise NotFoundError(
            f"there is no survey {id} of {name}" if id else f"{name} was never checked",
            hint=f"`highshelf account check {name}` does it",
        )
    return survey_out(room, row)


@router.get("/{name}/surveys", operation_id="account_surveys")
def surveys(name: str, room: In, who: Who) -> Listing[SurveyOut]:
    """The surveys that are kept, the newest first."""
    room.store.get(AccountRow, name, "account")
    rows = room.store.surveys.of(name)
    return Listing(items=[survey_out(room, r) for r in rows], total=len(rows))
