"""Routes of an account's databases: made, filed, tried, filled, copied, dropped; each by a job."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query

from highshelf.core.errors import NotFoundError
from highshelf.engine.books import find_database
from highshelf.engine.databases import Listed
from highshelf.schemas.databases import DatabaseKnown, DatabaseNew, DatabaseOut, DatabasesOut, FillAsk
from highshelf.schemas.models import ForgottenOut, JobOut, PlanOut, Revealed
from highshelf.service.deps import In, Who
from highshelf.service.faults import RESPONSES
from highshelf.service.jobs import started
from highshelf.service.plans import plan_out
from highshelf.service.queues import apart
from highshelf.store.tables import DatabaseRow

router = APIRouter(prefix="/accounts/{account}/databases", tags=["databases"], responses=RESPONSES)


def _out(one: Listed) -> DatabaseOut:
    shared = {n: getattr(one, n) for n in DatabaseOut.model_fields if hasattr(one, n)}
    facts = one.facts or {}
    tables = facts.get("tables")
    return DatabaseOut(
        **shared,
        proven=bool(facts.get("proven")),
        tables=len(tables) if tables is not None else None,
        tried_at=datetime.fromisoformat(facts["at"]) if facts.get("at") else None,
    )


@router.get("", operation_id="database_list")
@apart("hosts")
def listing(
    account: str,
    room: In,
    who: Who,
    ask: Annotated[bool, Query(description="whether the account's panel is asked too")] = True,
) -> DatabasesOut:
    """The databases of an account: those whose login is known, and those that its panel lists."""
    found = room.databases.listing(account, ask=ask)
    return DatabasesOut(items=[_out(one) for one in found.databases], total=len(found.databases), unasked=found.unasked)


@router.post("", operation_id="database_make", status_code=201)
@apart("hosts")
def make(account: str, new: DatabaseNew, room: In, who: Who) -> JobOut:
    """Make a database, a user with a generated password, and attach it; proven from the host. All of it goes again when it fails."""
    return started(room, room.databases.plan_make(account, new.kind, new.name, new.user))


@router.post("/known", operation_id="database_add", status_code=201)
@apart("hosts")
def add(account: str, new: DatabaseKnown, room: In, who: Who) -> JobOut:
    """File the login of a database that is there; it is tried from the host first."""
    given = {n: getattr(new, n) for n in ("name", "user", "host", "port")}
    return started(room, room.databases.plan_add(account, new.kind, given, new.password.get_secret_value()))


@router.post("/{name}/try", operation_id="database_try", status_code=201)
@apart("hosts")
def try_login(account: str, name: str, room: In, who: Who) -> JobOut:
    """Log in from the host, make a table, write, read, drop it; what does not work is named, with what mends it."""
    return started(room, room.databases.plan_try(account, name))


@router.post("/{name}/import", operation_id="database_import", status_code=201)
@apart("hosts")
def bring_in(account: str, name: str, ask: FillAsk, room: In, who: Who) -> JobOut:
    """Fill an empty database from a dump. A failure leaves it empty; cut off, it goes on after the last statement that ran."""
    return started(room, room.databases.plan_import(account, name, ask.dump, keep=ask.keep))


@router.post("/{name}/export", operation_id="database_export", status_code=201)
@apart("hosts")
def export(account: str, name: str, room: In, who: Who) -> JobOut:
    """Take a copy as SQL; the job's dump is in `dump_list` when it is done."""
    return started(room, room.databases.plan_export(account, name))


@router.post("/{name}/drop", operation_id="database_drop", status_code=201)
def drop(account: str, name: str, room: In, who: Who) -> PlanOut:
    """The plan that drops a database that High Shelf made, with its user; `job_start` does it."""
    return plan_out(room.databases.plan_drop(account, name))


@router.delete("/{name}", operation_id="database_forget")
def let_go(account: str, name: str, room: In, who: Who) -> ForgottenOut:
    """Out of the books, its password out of the strongbox; nothing on the host is touched."""
    return ForgottenOut(secrets=room.databases.forget(account, name, who))


@router.post("/{name}/reveal", operation_id="database_reveal")
def reveal(account: str, name: str, room: In, who: Who) -> Revealed:
    """Show its password. Who asked, and when, is recorded."""
    row = find_database(room.store, account, name)
    if not isinstance(row, DatabaseRow):
        raise NotFoundError(
            f"{row.database} belongs to an installation", hint=f"`highshelf installation reveal {row.id} database`"
        )
    room.store.record_reveal(f"database/{row.id}", who)
    return Revealed(secrets={"database": room.store.secret(f"database/{row.id}/password")})
