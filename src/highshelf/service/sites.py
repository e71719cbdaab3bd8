"""Routes of an account's sites and places."""

from __future__ import annotations

from fastapi import APIRouter
from sqlmodel import col

from highshelf.core.account import check_address
from highshelf.core.errors import ConflictError
from highshelf.core.survey.helper_text import helper_text
from highshelf.engine.bench import account_of
from highshelf.engine.sites import sites_of
from highshelf.schemas.models import Listing
from highshelf.schemas.surveys import LocateAsk, Located, RootNew, Said, SiteNew, SiteOut, ViewOut
from highshelf.service.deps import In, Who
from highshelf.service.faults import RESPONSES
from highshelf.service.queues import apart
from highshelf.store.tables import AccountRow, JobRow, SiteRow

router = APIRouter(prefix="/accounts", tags=["accounts"], responses=RESPONSES)


def _site_out(row: SiteRow, account: AccountRow) -> SiteOut:
    own = row.address == account.address
    proven = account.checked_at if own else row.proven_at
    return SiteOut(address=row.address, root=row.root, reach=row.reach, proven_at=proven, own=own)


@router.get("/{name}/sites", operation_id="site_list")
def sites(name: str, room: In, who: Who) -> Listing[SiteOut]:
    """Document roots and the addresses that show them, the account's own first."""
    account = room.store.get(AccountRow, name, "account")
    rows = sites_of(room.store, account_of(account))
    return Listing(items=[_site_out(r, account) for r in rows], total=len(rows))


@router.post("/{name}/sites", operation_id="site_add", status_code=201)
@apart("hosts")
def add(name: str, new: SiteNew, room: In, who: Who) -> SiteOut:
    """Prove a further site of the account and keep it; its root is looked for when it is left out.

    With `make` it is made in the account's panel first, as a subdomain with a folder of its own.
    """
    row = room.sites.add(name, new.address, new.root, new.reach, make=new.make)
    return _site_out(row, room.store.get(AccountRow, name, "account"))


@router.delete("/{name}/sites", operation_id="site_remove", status_code=204)
def remove(name: str, address: str, room: In, who: Who) -> None:
    """Forget a further site; refused while an installation or a running job needs it. Nothing on the host is touched."""
    account = room.store.get(AccountRow, name, "account")
    address = check_address(address)
    if address == account.address:
        raise ConflictError(f"{address} is the account's own site", hint="change the account, or forget it whole")
    room.store.get(SiteRow, (name, address), "site")
    if any(i.address.startswith(address) for i in room.store.standing(name)):
        raise ConflictError(f"an installation stands at {address}", hint="`highshelf installation list` shows it")
    if room.store.all(JobRow, col(JobRow.account) == name, col(JobRow.finished_at).is_(None)):
        raise ConflictError(f"a job is running on the account {name}", hint="wait for it, or cancel it")
    room.store.delete(SiteRow, (name, address))


@router.post("/{name}/root", operation_id="account_make_root")
@apart("hosts")
def make_root(name: str, new: RootNew, room: In, who: Who) -> Said:
    """Make a document root that does not exist yet; says whether the address shows it now."""
    return Said(text=room.sites.make_root(name, new.root))


@router.post("/{name}/locate", operation_id="account_locate")
@apart("hosts")
def locate(name: str, ask: LocateAsk, room: In, who: Who) -> Located:
    """A path or an address as every view writes it; when it is not there, which part is not and what answers instead."""
    found = room.sites.locate(name, ask.what)
    views = [ViewOut(view=v.view, path=v.path, how=v.how) for v in found.views]
    return Located(given=ask.what, views=views, there=found.there, kind=found.kind, told=list(found.told))


@router.get("/{name}/helper-text", operation_id="account_helper_text")
def text(name: str, room: In, who: Who) -> Said:
    """A text for the host's support that says what the helper is, to be sent by whoever asks."""
    return Said(text=helper_text(account_of(room.store.get(AccountRow, name, "account"))))
