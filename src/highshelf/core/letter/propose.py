"""An account out of a letter, as somebody would fill the form: to be looked at, changed and confirmed."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from urllib.parse import urlsplit

from highshelf.core.account import Transfer, TransferLogin
from highshelf.core.letter.read import Letter

# What an account cannot be kept without, as people call it.
NEEDED = {
    "transfer.host": "the server for file transfer",
    "transfer.login": "the login",
    "transfer.password": "the password",
    "root": "the document root",
    "address": "the site's address",
}


@dataclass(frozen=True)
class Proposal:
    """Fields of an account; empty where the letter says nothing. `missing` are those that an account needs."""

    name: str
    title: str
    transfer: str
    password: str
    root: str
    address: str
    reach: str
    panel: str
    panel_login: str
    panel_password: str
    missing: tuple[str, ...]


def propose(letter: Letter) -> Proposal:
    get = letter.get
    address = get("temporary") or get("address")
    transfer = ""
    if get("transfer.host"):
        kind: Transfer = (
            "sftp" if get("transfer.kind") == "sftp" else "ftps" if get("transfer.kind") == "ftps" else "ftp"
        )
        login = TransferLogin(kind, get("transfer.host"), int(get("transfer.port")), get("transfer.login"))
        transfer = login.address
    try:
        host = urlsplit(address).hostname or ""
    except ValueError:
        host = ""
    numeric = bool(re.fullmatch(r"[\d.]+|.*:.*", host))
    panel_password = get("panel.password")
    known = {"address": address}
    return Proposal(
        name=short_name(get("title") or host),
        title=get("title"),
        transfer=transfer,
        password=get("transfer.password"),
        root=get("root"),
        address=address,
        # Only a name that does not lead there yet needs to be told where it is.
        reach=get("web.host") if host and not numeric else "",
        panel=get("panel"),
        panel_login=get("panel.login"),
        panel_password=panel_password if panel_password != get("transfer.password") else "",
        missing=tuple(text for name, text in NEEDED.items() if not (known.get(name) or get(name))),
    )


def short_name(text: str) -> str:
    """Small letters, digits and hyphens, 40 at the most, such as `saltings-choir`."""
    flat = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", flat).strip("-")[:40].rstrip("-")
