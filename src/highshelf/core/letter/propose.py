"""An account out of a letter, as somebody would fill the form: to be looked at, changed and confirmed."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from urllib.parse import urlsplit

from highshelf.core.account import DEFAULT_PORTS, Transfer, TransferLogin
from highshelf.core.letter.read import DOUBTED, Letter

# What an account cannot be kept without, as people call it.
NEEDED = {
    "transfer.host": "the server for file transfer",
    "transfer.login": "the login",
    "transfer.password": "the password",
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
    database_host: str
    missing: tuple[str, ...]


def propose(letter: Letter) -> Proposal:
    get = letter.get
    address = get("temporary") or get("address")
    transfer = ""
    if get("transfer.host"):
        said = get("transfer.kind")
        kind: Transfer = said if said in DEFAULT_PORTS else "ftp"  # type: ignore[assignment]
        login = TransferLogin(kind, get("transfer.host"), int(get("transfer.port")), get("transfer.login"))
        transfer = login.address
    host = _host(address)
    numeric = bool(re.fullmatch(r"[\d.]+|.*:.*", host))
    panel_password = get("panel.password")
    known = {"address": address}
    # Whoever is greeted may be a person: only a name that the letter's addresses bear out becomes a site's title.
    title = next((s.text for s in letter.found if s.name == "title" and s.sure > DOUBTED), "")
    return Proposal(
        name=_name(title, get("address"), host),
        title=title,
        transfer=transfer,
        password=get("transfer.password"),
        root=get("root"),
        address=address,
        # Only a name that does not lead there yet needs to be told where it is.
        reach=get("web.host") if host and not numeric else "",
        panel=get("panel"),
        panel_login=get("panel.login"),
        panel_password=panel_password if panel_password != get("transfer.password") else "",
        database_host=_database_host(letter),
        missing=tuple(text for name, text in NEEDED.items() if not (known.get(name) or get(name))),
    )


def _host(address: str) -> str:
    """The host of an address, "" when it is none."""
    try:
        return urlsplit(address).hostname or ""
    except ValueError:
        return ""


def _name(title: str, address: str, host: str) -> str:
    """What to call the account: a title of several words, else the domain's first part, else what there is."""
    domain = _host(address).removeprefix("www.")
    if " " in title:
        return short_name(title)
    if domain and not re.fullmatch(r"[\d.]+", domain):
        return short_name(domain.split(".")[0])
    return short_name(title or host)


def _database_host(letter: Letter) -> str:
    host, port = letter.get("database.host") or "localhost", letter.get("database.port")
    return f"{host}:{port}" if port and port not in ("3306", "5432") else host


def short_name(text: str) -> str:
    """Small letters, digits and hyphens, 40 at the most, such as `saltings-choir`."""
    flat = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", flat).strip("-")[:40].rstrip("-")
