"""A hosting account: how to reach its files, its site, its panel."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Literal
from urllib.parse import quote, unquote, urlsplit

from highshelf.core.errors import InputError

Transfer = Literal["sftp", "ftps", "ftps-implicit", "ftp"]
DEFAULT_PORTS: dict[str, int] = {"sftp": 22, "ftps": 21, "ftps-implicit": 990, "ftp": 21}
TRANSFER_NAMES: dict[str, str] = {
    "sftp": "SFTP",
    "ftps": "FTP with TLS (explicit)",
    "ftps-implicit": "FTP with TLS from the first byte (implicit)",
    "ftp": "plain FTP",
}


@dataclass(frozen=True)
class Credential:
    """What opens a transfer login: a password, a private key's text with its passphrase, or the service's SSH agent."""

    password: str = field(default="", repr=False)
    key: str = field(default="", repr=False)
    passphrase: str = field(default="", repr=False)
    agent: bool = False


@dataclass(frozen=True)
class TransferLogin:
    """Where and as whom files are brought. The password or key is in the strongbox, never here."""

    kind: Transfer
    host: str
    port: int
    login: str

    @property
    def address(self) -> str:
        """As `parse_transfer` reads it: what would end the login is written as %XX."""
        host = f"[{self.host}]" if ":" in self.host else self.host
        return f"{self.kind}://{quote(self.login, safe='@!$&()*+,;=')}@{host}:{self.port}"


@dataclass(frozen=True)
class Account:
    """One hosting account with one site.

    Attributes:
        root: the document root as the transfer login sees it, relative to where it lands.
        address: the site's address, ending in `/`.
        reach: `host:port` to connect to instead of what the address's name resolves to, or "".
        fingerprint: the transfer server's key or certificate as first seen, or "" before the first check.
        panel: the control panel's address, or "".
        panel_login: what the panel calls its customer.
        panel_primer: the name of the primer that describes the panel, or "".
        database_host: how PHP there calls the database server, such as `localhost` or `db.saltmarsh.example:3307`.
        email: where applications write to their administrator, or "".
        helper: whether the account's owner allows the PHP helper there.
        agent: whether the service's own SSH agent opens the transfer login.
        confirm_server: whether a server that is not known yet is shown to a person before it gets the password.
        certificate: what a check saw at `reach` where the certificate does not prove itself, or "".
        compress: whether this connection is to be packed, where the server lets it: for many files that are not packed themselves.
    """

    name: str
    title: str
    transfer: TransferLogin
    root: str
    address: str
    reach: str = ""
    fingerprint: str = ""
    panel: str = ""
    panel_login: str = ""
    panel_primer: str = ""
    database_host: str = "localhost"
    email: str = ""
    helper: bool = True
    agent: bool = False
    confirm_server: bool = False
    certificate: str = ""
    compress: bool = False


def parse_transfer(text: str) -> TransferLogin:
    """Read `sftp://login@host:port`, `ftps://…` (explicit TLS), `ftps-implicit://…` or `ftp://…`.

    Raises:
        InputError: another kind, no login, no host, or a password inside (which belongs in the strongbox).
    """
    try:
        parts = urlsplit(text)
        port = parts.port
    except ValueError as fault:
        raise InputError(f"the transfer address {_masked(text)} cannot be read: {fault}", hint=_TRANSFER_HINT) from None
    if parts.scheme not in DEFAULT_PORTS or not parts.hostname or not parts.username:
        raise InputError(f"the transfer address {_masked(text)} does not say kind, login and host", hint=_TRANSFER_HINT)
    if parts.password:
        raise InputError("a password does not belong into the transfer address", hint="leave it out: it is asked for")
    kind: Transfer = parts.scheme  # type: ignore[assignment]
    return TransferLogin(kind, parts.hostname, port or DEFAULT_PORTS[kind], unquote(parts.username))


def _masked(text: str) -> str:
    """Without what may be a password, wherever somebody has put one."""
    return re.sub(r"(//[^:/@\s]*):[^\s]*@", r"\1:…@", text)


_TRANSFER_HINT = (
    "write it as sftp://login@host:22, ftps://login@host:21, ftps-implicit://login@host:990 or ftp://login@host:21"
)


def check_address(text: str, what: str = "address") -> str:
    """The address with a `/` at its end.

    Raises:
        InputError: not an http or https address, or one with a query or with a login in it.
    """
    try:
        parts = urlsplit(text)
        _ = parts.port
    except ValueError:
        parts = urlsplit("")
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.query or parts.fragment:
        raise InputError(
            f"the {what} {text!r} is not a web address",
            hint="write it as https://name.example/ or http://name.example:8080/",
        )
    if parts.username is not None or parts.password is not None:
        # It would stand in lists and records, where everybody reads it; and the fault does not repeat it.
        raise InputError(
            f"the {what} holds a login",
            hint="leave out what stands before the @: the account keeps logins by themselves",
        )
    return text if text.endswith("/") else text + "/"


def check_reach(text: str) -> str:
    """`host:port` or "".

    Raises:
        InputError: anything else.
    """
    host, colon, port = text.rpartition(":")
    if text and not (colon and host and port.isdigit() and 0 < int(port) < 65536):
        raise InputError(f"{text!r} does not say where to connect", hint="write host:port, such as 192.0.2.7:443")
    return text


def check_database_host(text: str) -> str:
    """`host` or `host:port`; "" is `localhost`.

    Raises:
        InputError: anything else.
    """
    found = re.fullmatch(r"([A-Za-z0-9._-]+)(?::(\d{1,5}))?", text.strip() or "localhost")
    if not found or (found[2] and not 0 < int(found[2]) < 65536):
        raise InputError(f"{text!r} is no database host", hint="write localhost, db.saltmarsh.example or host:port")
    return found[0]
