"""Routes of licence keys."""

from __future__ import annotations

from fastapi import APIRouter
from sqlmodel import col

from highshelf.core.errors import ConflictError
from highshelf.engine.planner import find_release
from highshelf.schemas.models import Listing, Revealed
from highshelf.schemas.shelf import LicenceChange, LicenceNew, LicenceOut
from highshelf.service.deps import In, Wanted, Who
from highshelf.service.faults import RESPONSES
from highshelf.store.licences import keep_licence, reference
from highshelf.store.store import new_id
from highshelf.store.tables import AccountRow, JobRow, LicenceRow

router = APIRouter(prefix="/licences", tags=["licences"], responses=RESPONSES)


def licence_out(row: LicenceRow) -> LicenceOut:
    return LicenceOut(**{n: getattr(row, n) for n in LicenceOut.model_fields})


@router.post("", operation_id="licence_add", status_code=201)
def add(new: LicenceNew, room: In, who: Who) -> LicenceOut:
    """File a licence key of a release's application for a customer's account; it is sealed."""
    application = find_release(room.store, new.release).name
    room.store.get(AccountRow, new.account, "account")
    key = new.key.get_secret_value()
    return licence_out(keep_licence(room.store, new_id(), application, new.account, key, several=new.several))


@router.get("", operation_id="licence_list")
def listing(room: In, who: Who, part: Wanted, account: str = "") -> Listing[LicenceOut]:
    """Whose keys there are, and who uses them; never the keys."""
    where = [col(LicenceRow.account) == account] if account else []
    rows, total = part.rows(
        room.store,
        LicenceRow,
        *where,
        sorts={"application": LicenceRow.application, "account": LicenceRow.account, "since": LicenceRow.created_at},
        usual="application",
        last=LicenceRow.id,
        text=[LicenceRow.application, LicenceRow.account, LicenceRow.id],
    )
    return Listing(items=[licence_out(r) for r in rows], total=total)


@router.patch("/{number}", operation_id="licence_change")
def change(number: str, wanted: LicenceChange, room: In, who: Who) -> LicenceOut:
    """Say whether a key may be used several times, or that nobody uses it any more."""
    row = room.store.get(LicenceRow, number, "licence")
    fields: dict[str, object] = {} if wanted.several is None else {"several": wanted.several}
    if wanted.free:
        _not_in_a_job(room, row)
        fields["used_by"] = []
    return licence_out(room.store.change(LicenceRow, number, **fields))


@router.post("/{number}/reveal", operation_id="licence_reveal")
def reveal(number: str, room: In, who: Who) -> Revealed:
    """Show a key. Who asked, and when, is recorded."""
    row = room.store.get(LicenceRow, number, "licence")
    room.store.record_reveal(reference(row.id), who)
    return Revealed(secrets={"licence": room.store.secret(reference(row.id))})


@router.delete("/{number}", operation_id="licence_remove", status_code=204)
def remove(number: str, room: In, who: Who) -> None:
    """Forget a key; refused while a job has it."""
    row = room.store.get(LicenceRow, number, "licence")
    _not_in_a_job(room, row)
    room.store.drop_secret(reference(row.id))
    room.store.delete(LicenceRow, row.id)


def _not_in_a_job(room: In, row: LicenceRow) -> None:
    """Raises ConflictError when a job that has not ended has the key."""
    for user in row.used_by:
        job = room.store.find(JobRow, user)
        if job is not None and job.finished_at is None:
            raise ConflictError(f"the job {user} is using this key", hint="wait for it, or cancel it")
