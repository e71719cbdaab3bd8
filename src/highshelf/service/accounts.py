"""Routes of accounts."""

from __future__ import annotations

import base64
from dataclasses import asdict
from typing import Any

from fastapi import APIRouter
from pydantic import SecretStr
from sqlmodel import col

from highshelf.core.account import check_address, check_database_host, check_reach, parse_transfer
from highshelf.core.errors import ConflictError, InputError
from highshelf.core.identity import check_fingerprint, fingerprints_in
from highshelf.core.letter.files import text_of
from highshelf.core.letter.propose import propose
from highshelf.core.letter.read import DEFAULT_PORTS, DOUBTED, Letter, Said
from highshelf.core.letter.several import letters_in
from highshelf.engine.bench import account_of
from highshelf.schemas.models import (
    AccountChange,
    AccountNew,
    AccountOut,
    LetterAccount,
    LetterAsk,
    LetterOut,
    LetterSaid,
    Listing,
)
from highshelf.service.deps import In, Wanted, Who
from highshelf.service.destinations import check_destination
from highshelf.service.faults import RESPONSES
from highshelf.service.queues import apart
from highshelf.store.licences import forget_licences
from highshelf.store.tables import AccountRow, JobRow, SiteRow, SurveyRow

router = APIRouter(prefix="/accounts", tags=["accounts"], responses=RESPONSES)
# What an account is made of: the rest of a letter is only shown.
CONFIRMED = (
    "transfer.host",
    "transfer.port",
    "transfer.login",
    "transfer.password",
    "root",
    "address",
    "temporary",
    "panel",
    "panel.login",
    "panel.password",
    "database.host",
)
SORTS = {
    "name": AccountRow.name,
    "title": AccountRow.title,
    "address": AccountRow.address,
    "transfer": AccountRow.transfer_host,
    "checked": AccountRow.checked_at,
}
LONGEST_LETTER = 200_000
SECRETS = {"password": "transfer", "key": "key", "passphrase": "passphrase", "panel_password": "panel"}


def account_out(row: AccountRow) -> AccountOut:
    transfer = account_of(row).transfer.address
    shared = {n: getattr(row, n) for n in AccountOut.model_fields if n != "transfer"}
    return AccountOut(transfer=transfer, **shared)


def _fields(given: dict[str, Any]) -> dict[str, Any]:
    """Checked column values of what was given."""
    fields = {k: v for k, v in given.items() if k not in SECRETS and k != "transfer"}
    if given.get("transfer"):
        login = parse_transfer(given["transfer"])
        fields |= {
            "transfer_kind": login.kind,
            "transfer_host": login.host,
            "transfer_port": login.port,
            "transfer_login": login.login,
        }
    if given.get("address"):
        fields["address"] = check_address(given["address"])
    if given.get("panel"):
        fields["panel"] = check_address(given["panel"], "panel address")
    if given.get("fingerprint") is not None:
        fields["fingerprint"] = check_fingerprint(given["fingerprint"])
    if given.get("reach"):
        fields["reach"] = check_reach(given["reach"])
    if given.get("root"):
        fields["root"] = given["root"].rstrip("/") or "."
    if given.get("database_host") is not None:
        fields["database_host"] = check_database_host(given["database_host"])
    return fields


@router.post("", operation_id="account_add", status_code=201)
def add(new: AccountNew, room: In, who: Who) -> AccountOut:
    """Keep a hosting account. Nothing is contacted; check it afterwards."""
    if room.store.find(AccountRow, new.name) is not None:
        raise ConflictError(
            f"there is an account {new.name} already",
            hint="choose another name, or change it with `highshelf account change`",
        )
    return account_out(keep(room, new))


def check_new(room: In, new: AccountNew) -> AccountRow:
    """The row of a new account, not kept yet.

    Raises:
        InputError: something of it cannot be.
    """
    if not (new.password.get_secret_value() or new.key.get_secret_value() or new.agent):
        raise InputError("the account has neither password nor key", hint="give one of them, or use the SSH agent")
    if new.panel_primer:
        room.drivers.panel_primer(new.panel_primer)
    row = AccountRow(**_fields(new.model_dump()) | {"title": new.title or new.name})
    by_key = new.key.get_secret_value() or new.agent
    if by_key and row.transfer_kind != "sftp":
        raise InputError("a key or an SSH agent opens SFTP only", hint="give a password for FTP and FTPS")
    return row


def keep(room: In, new: AccountNew) -> AccountRow:
    """Keep a new account, its secrets sealed. Raises InputError."""
    row = check_new(room, new)
    _seal(room, new.name, new.model_dump())
    return room.store.add(row)


def _seal(room: In, name: str, given: dict[str, Any]) -> None:
    for field, ref in SECRETS.items():
        secret = given.get(field)
        if isinstance(secret, SecretStr) and secret.get_secret_value():
            room.store.set_secret(f"account/{name}/{ref}", secret.get_secret_value())


@router.post("/letter", operation_id="account_letter")
def letter(ask: LetterAsk, who: Who) -> LetterOut:
    """Read a host's welcome letter. Nothing is kept and nothing contacted: the account is added when somebody confirms it."""
    text = _letter_text(ask)
    if not text.strip():
        raise InputError("the letter is empty", hint="paste the text that the host sent when the account was opened")
    if len(text) > LONGEST_LETTER:
        raise InputError(
            f"the letter has {len(text)} characters, more than {LONGEST_LETTER}", hint="paste the part with the logins"
        )
    read = letters_in(text)
    if not any(one.found for one in read):
        raise InputError(
            "nothing was found in this letter", hint="is it the letter with logins and addresses? fill the form by hand"
        )
    # The server's identity as the host has written it: compared before the password is sent.
    shown = " ".join(fingerprints_in(text))
    first, *others = [_letter_out(one, shown if len(read) == 1 else "") for one in read]
    return first.model_copy(update={"more": others})


def _letter_text(ask: LetterAsk) -> str:
    """Raises InputError for a file that is none, or cannot be read."""
    packed = ask.file.get_secret_value()
    if not packed:
        return ask.text.get_secret_value()
    try:
        data = base64.b64decode(packed, validate=True)
    except ValueError:
        raise InputError("the letter's file is not in base64", hint="send its bytes in base64, or its text") from None
    return text_of(data)


def _is_usual_port(said: Said, read: Letter) -> bool:
    """A port that the letter does not tell is the kind's own: nobody has to confirm that."""
    return said.name == "transfer.port" and said.text == DEFAULT_PORTS.get(read.get("transfer.kind"))


def _letter_out(read: Letter, fingerprint: str) -> LetterOut:
    account = asdict(propose(read))
    missing = list(account.pop("missing"))
    found = [
        LetterSaid(**{n: getattr(s, n) for n in LetterSaid.model_fields if n != "others"}, others=list(s.others))
        for s in read.found
    ]
    return LetterOut(
        found=found,
        doubts=list(read.doubts),
        missing=missing,
        unsure=[
            s.name for s in read.found if s.sure <= DOUBTED and s.name in CONFIRMED and not _is_usual_port(s, read)
        ],
        account=LetterAccount(**account, fingerprint=fingerprint),
    )


@router.get("", operation_id="account_list")
def listing(room: In, who: Who, part: Wanted) -> Listing[AccountOut]:
    rows, total = part.rows(
        room.store,
        AccountRow,
        sorts=SORTS,
        usual="name",
        last=AccountRow.name,
        text=[AccountRow.name, AccountRow.title, AccountRow.address, AccountRow.transfer_host],
    )
    return Listing(items=[account_out(r) for r in rows], total=total)


@router.get("/{name}", operation_id="account_show")
def show(name: str, room: In, who: Who) -> AccountOut:
    return account_out(room.store.get(AccountRow, name, "account"))


@router.patch("/{name}", operation_id="account_change")
def change(name: str, new: AccountChange, room: In, who: Who) -> AccountOut:
    """Change what is given. Another server forgets the pinned identity, and wants the password that it is to get."""
    given = new.model_dump(exclude_none=True)
    with room.store.together():
        before = room.store.get(AccountRow, name, "account")
        fields = _fields(given)
        elsewhere = check_destination(room, before, fields, given)
        where = ("transfer_host", "transfer_port", "transfer_kind")
        if "transfer" in elsewhere:
            # The identity that was known is another server's; one that is given with the change is this one's.
            fresh = given.get("fingerprint") not in (None, "", before.fingerprint)
            fields |= {"limits": {}} | ({} if fresh else {"fingerprint": ""})
        if any(fields.get(n, getattr(before, n)) != getattr(before, n) for n in (*where, "root", "address", "reach")):
            # What the last check proved is about another place now.
            fields |= {"facts": {}, "places": {}, "checked_at": None, "certificate": ""}
        _seal(room, name, given)
        for what, told in elsewhere.items():
            room.store.record(who, f"{what}-changed", name, told)
        return account_out(room.store.change(AccountRow, name, **fields))


@router.delete("/{name}", operation_id="account_remove", status_code=204)
@apart("hosts")
def remove(name: str, room: In, who: Who) -> None:
    """Forget an account and its secrets; refused while an installation, a running job or a check needs it."""
    room.store.get(AccountRow, name, "account")
    if room.store.standing(name):
        raise ConflictError(
            f"installations stand on the account {name}", hint="`highshelf installation list` shows them"
        )
    if gone := room.store.installations(name):
        raise ConflictError(
            f"the books still have {len(gone)} installations of {name} that stand no more",
            hint="`highshelf installation forget ID` drops what they know",
        )
    if kept := room.store.databases(name):
        raise ConflictError(
            f"the books still have the login of {len(kept)} of its databases: {', '.join(row.name for row in kept[:6])}",
            hint=f"`highshelf database drop {name} NAME` or `highshelf database forget {name} NAME` first",
        )
    if room.store.all(JobRow, col(JobRow.account) == name, col(JobRow.finished_at).is_(None)):
        raise ConflictError(f"a job is running on the account {name}", hint="wait for it, or cancel it")
    if any(survey.state == "running" for survey in room.store.surveys.unfinished(name)):
        raise ConflictError(
            f"the account {name} is being checked just now",
            hint="the check puts files there and takes them away: forget the account when it has ended, in a minute or so",
        )
    if room.store.surveys.left(name):
        # A check on a busy machine may end before it saw its last file gone.
        room.surveyor.sweep(name)
    if left := room.store.surveys.left(name).get(name):
        raise ConflictError(
            f"{len(left)} of our files {'was' if len(left) == 1 else 'were'} not seen to be gone from the account {name}: {left[0][1]}",
            hint="check the account once more: that takes them away; or remove them by hand and check then",
        )
    for ref in SECRETS.values():
        room.store.drop_secret(f"account/{name}/{ref}")
    forget_licences(room.store, name)
    for site in room.store.all(SiteRow, col(SiteRow.account) == name):
        room.store.delete(SiteRow, (name, site.address))
    for survey in room.store.surveys.every(name):
        room.store.delete(SurveyRow, survey.id)
    room.store.delete(AccountRow, name)
