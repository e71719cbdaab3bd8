"""Routes of notices: where they go, and what became of them."""

from __future__ import annotations

import secrets
from dataclasses import asdict
from urllib.parse import urlsplit

from fastapi import APIRouter
from sqlmodel import col

from highshelf.core.errors import HighShelfError, InputError
from highshelf.core.notices import WHATS
from highshelf.core.ports import MailServer
from highshelf.engine.notices import shown
from highshelf.schemas.models import Listing
from highshelf.schemas.notices import MailNew, NoticeOut, PlaceChange, PlaceMade, PlaceOut, Tried, WebhookNew
from highshelf.service.deps import In, Rooms, Wanted, Who
from highshelf.service.faults import RESPONSES
from highshelf.service.queues import apart
from highshelf.store.store import new_id
from highshelf.store.tables import AccountRow, NoticePlaceRow, NoticeRow

router = APIRouter(prefix="/notices", tags=["notices"], responses=RESPONSES)
LOOPBACK = ("localhost", "127.0.0.1", "::1")


def _facts(room: Rooms, row: NoticePlaceRow) -> dict[str, object]:
    last = room.store.notices.of_place(row.id)
    shared = {n: getattr(row, n) for n in ("id", "kind", "what", "account", "silent", "created_at")}
    server = f"{row.server['host']}:{row.server['port']} ({row.server['security']})" if row.server else ""
    told = {"last_state": last.get("state", ""), "last_error": last.get("error", ""), "last_at": last.get("at")}
    return shared | shown(row) | {"server": server} | told


def _out(room: Rooms, row: NoticePlaceRow) -> PlaceOut:
    return PlaceOut.model_validate(_facts(room, row))


def _kept(room: Rooms, row: NoticePlaceRow, secret: str, who: str) -> NoticePlaceRow:
    if row.account:
        room.store.get(AccountRow, row.account, "account")
    with room.store.together():
        room.store.add(row)
        room.store.set_secret(f"notice/{row.id}/secret", secret)
        room.store.notices.begin_reading()
        room.store.record(who, "notices", row.id, f"{row.kind} {shown(row)['target']}: {', '.join(row.what)}")
    return row


def _ordered(what: list[str]) -> list[str]:
    return [one for one in WHATS if one in what]


def _callable(address: str, room: Rooms) -> str:
    """The address as it is called. Raises InputError when it cannot be, or when what it is told could be read on the way."""
    parts = urlsplit(address)
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.username or parts.fragment:
        raise InputError("the address cannot be called", hint="give it as https://host/path, without a login in it")
    own = (*LOOPBACK, *(one.rpartition(":")[0] or one for one in room.settings.inside))
    if parts.scheme == "http" and parts.hostname not in own:
        raise InputError(
            "notices do not go over the internet unencrypted", hint="give an address that begins with https://"
        )
    return address


@router.get("", operation_id="notice_list")
def listing(room: In, who: Who) -> Listing[PlaceOut]:
    """Where notices go, and how the last one went."""
    rows = room.store.notices.places()
    return Listing(items=[_out(room, row) for row in rows], total=len(rows))


@router.post("/webhooks", operation_id="notice_webhook", status_code=201)
def webhook(new: WebhookNew, room: In, who: Who) -> PlaceMade:
    """Have a web address called. Each call is sealed: HMAC-SHA-256 over the header High-Shelf-Time, a line's end and the body,
    in the header High-Shelf-Seal."""
    address = _callable(new.address, room)
    key = new.key.get_secret_value() or secrets.token_urlsafe(32)
    row = NoticePlaceRow(id=new_id(), kind="webhook", target=address, what=_ordered([*new.what]), account=new.account)
    made = _facts(room, _kept(room, row, key, who))
    return PlaceMade.model_validate(made | {"key": "" if new.key.get_secret_value() else key})


@router.post("/mailboxes", operation_id="notice_mail", status_code=201)
def mail(new: MailNew, room: In, who: Who) -> PlaceOut:
    """Have letters sent to a mailbox. The mail server's password is sealed."""
    if new.security == "none" and new.login and new.host not in LOOPBACK:
        raise InputError(
            "a login is never sent without encryption",
            hint="take tls or starttls; a server without it is used without a login",
        )
    server = MailServer(new.host, new.port, new.security, new.login, new.sender)
    row = NoticePlaceRow(
        id=new_id(), kind="mail", target=new.to, what=_ordered([*new.what]), account=new.account, server=asdict(server)
    )
    return _out(room, _kept(room, row, new.password.get_secret_value(), who))


@router.patch("/{number}", operation_id="notice_change")
def change(number: str, wanted: PlaceChange, room: In, who: Who) -> PlaceOut:
    """Change which notices go there, or silence it for the time being."""
    row = room.store.get(NoticePlaceRow, number, "notice place")
    if wanted.account:
        room.store.get(AccountRow, wanted.account, "account")
    fields: dict[str, object] = {n: v for n in ("account", "silent") if (v := getattr(wanted, n)) is not None}
    if wanted.what is not None:
        fields["what"] = _ordered([*wanted.what])
    return _out(room, room.store.change(NoticePlaceRow, row.id, **fields))


@router.post("/{number}/try", operation_id="notice_try")
@apart("hosts")
def attempt(number: str, room: In, who: Who) -> Tried:
    """Send a trial there now, and say whether it arrived."""
    try:
        room.noticing.try_place(room.store.get(NoticePlaceRow, number, "notice place"))
    except HighShelfError as fault:
        if fault.code == "not-found":
            raise
        return Tried(arrived=False, error=str(fault))
    return Tried(arrived=True, error="")


@router.delete("/{number}", operation_id="notice_remove", status_code=204)
def remove(number: str, room: In, who: Who) -> None:
    """Send nothing there any more; what is on its way there goes too."""
    row = room.store.get(NoticePlaceRow, number, "notice place")
    room.store.notices.drop_place(number)
    room.store.record(who, "notices", number, f"removed: {row.kind} {shown(row)['target']}")


@router.get("/sent", operation_id="notice_sent")
def sent(room: In, who: Who, part: Wanted, place: str = "") -> Listing[NoticeOut]:
    """Notices that were sent, are on their way, or were given up, the newest first. Kept for 30 days."""
    where = [col(NoticeRow.place) == place] if place else []
    rows, total = part.rows(
        room.store,
        NoticeRow,
        *where,
        sorts={"at": NoticeRow.created_at, "state": NoticeRow.state, "tries": NoticeRow.tries},
        usual="-at",
        last=NoticeRow.id,
        text=[NoticeRow.id, NoticeRow.job, NoticeRow.error],
    )
    return Listing(items=[_notice_out(row) for row in rows], total=total)


def _notice_out(row: NoticeRow) -> NoticeOut:
    shared = {n: getattr(row, n) for n in ("id", "place", "job", "state", "tries", "error", "created_at", "ended_at")}
    return NoticeOut(**shared, **{n: row.notice[n] for n in ("what", "title", "text")})
