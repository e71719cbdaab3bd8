"""HostFiles over FTP and explicit FTPS (RFC 959, 2389, 3659, 4217).

Rules:
1. Over TLS each data connection offers the control connection's session, read anew at each transfer: servers require it.
2. The address in a passive answer is ignored; the control connection's is used (wrong private addresses are common).
3. TYPE I once, at the start; no server sees ASCII.
4. ftplib's exceptions end here; callers see our tree.
"""

from __future__ import annotations

import ftplib
import hashlib
import io
import re
import socket
import ssl
from collections.abc import Callable
from typing import Any, BinaryIO, TypeVar

from highshelf.core.account import TransferLogin
from highshelf.core.errors import LineDroppedError, LoginRefusedError, MissingFileError, TransferError, UnreachableError
from highshelf.core.ports import CancelToken, Capabilities, Entry, Kind, Progress
from highshelf.drivers.sftp.connection import changed_fingerprint

T = TypeVar("T")
CONNECT_SECONDS = 20
SILENCE_SECONDS = 60
BLOCK = 65_536


class _Tls(ftplib.FTP_TLS):
    """ftplib's FTP_TLS with the session reused and Nagle's algorithm off on data connections."""

    def ntransfercmd(self, cmd: str, rest: int | str | None = None) -> tuple[socket.socket, int | None]:
        connection, size = ftplib.FTP.ntransfercmd(self, cmd, rest)
        connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        if self._prot_p:  # type: ignore[attr-defined]
            session = self.sock.session  # type: ignore[union-attr]
            connection = self.context.wrap_socket(connection, server_hostname=self.host, session=session)
        return connection, size


class FtpFiles:
    """An open FTP or FTPS connection.

    Args:
        login: whom to log in as, where; its kind says whether TLS is used.
        password: the password.
        fingerprint: SHA-256 of the server's certificate as first seen, or "" to accept and tell it.

    Raises:
        UnreachableError, FingerprintError, LoginRefusedError.
    """

    def __init__(self, login: TransferLogin, *, password: str, fingerprint: str = "") -> None:
        self.login = login
        self.fingerprint = ""
        where = f"{login.host}:{login.port}"
        # The certificate is pinned at first use: hosting companies' transfer servers seldom have one for the name used.
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
        context.check_hostname = False
        context.verify_mode = ssl.CERT_NONE
        self._ftp: ftplib.FTP = _Tls(context=context) if login.kind == "ftps" else ftplib.FTP()
        self._ftp.trust_server_pasv_ipv4_address = False  # type: ignore[attr-defined]
        self._ftp.encoding = "utf-8"
        try:
            self._ftp.connect(login.host, login.port, CONNECT_SECONDS)
            if isinstance(self._ftp, ftplib.FTP_TLS):
                self._ftp.auth()
                self.fingerprint = _certificate_hash(self._ftp.sock)
                if fingerprint and fingerprint != self.fingerprint:
                    raise changed_fingerprint(where, fingerprint, self.fingerprint)
        except (OSError, ftplib.Error, EOFError) as fault:
            self.close()
            raise UnreachableError(
                f"no connection to {where}: {_text(fault)}", hint="check host and port; is the server up?"
            ) from None
        self._log_in(password, where)

    def _log_in(self, password: str, where: str) -> None:
        try:
            self._ftp.login(self.login.login, password)
        except ftplib.error_perm as fault:
            self.close()
            if "too many" in str(fault).lower():
                raise UnreachableError(
                    f"{where} allows no more connections: {_text(fault)}",
                    hint="wait until other connections are closed",
                ) from None
            raise LoginRefusedError(
                f"{where} does not accept the login {self.login.login}",
                hint="check login and password with the hosting company's letter",
            ) from None
        except (OSError, ftplib.Error, EOFError) as fault:
            self.close()
            raise UnreachableError(
                f"{where} broke off while logging in: {_text(fault)}", hint="try again in a minute"
            ) from None
        assert self._ftp.sock is not None
        self._ftp.sock.settimeout(SILENCE_SECONDS)
        if isinstance(self._ftp, ftplib.FTP_TLS):
            self._ftp.prot_p()
        self._ftp.voidcmd("TYPE I")
        self._features = self._ask_features()

    def _ask_features(self) -> str:
        try:
            return self._ftp.sendcmd("FEAT").upper()
        except ftplib.Error:
            return ""

    @property
    def capabilities(self) -> Capabilities:
        return Capabilities(atomic_replace=True, chmod=True, append=True, encrypted=self.login.kind == "ftps")

    def _do(self, what: str, path: str, work: Callable[[], T]) -> T:
        try:
            return work()
        except ftplib.error_perm as fault:
            text = str(fault)
            if text.startswith("550") and re.search(
                r"no such|not found|doesn't exist|not exist|can't (?:check|open|find)", text, re.I
            ):
                raise MissingFileError(f"{what} {path}: there is no such file or folder") from None
            raise TransferError(f"{what} {path}: the server says {_text(fault)}") from None
        except ftplib.error_temp as fault:
            raise LineDroppedError(f"{what} {path}: the server says {_text(fault)}") from None
        except (OSError, EOFError, ftplib.Error) as fault:
            raise LineDroppedError(
                f"{what} {path}: the connection to {self.login.host} was lost ({_text(fault)})"
            ) from None

    def entries(self, path: str) -> list[Entry]:
        if self.stat(path) is None:
            raise MissingFileError(f"listing {path}: there is no such folder")
        lines: list[str] = []
        machine = "MLST" in self._features or "MLSD" in self._features
        # LIST hides dotfiles on all common servers unless asked with -a; MLSD shows them.
        if machine:
            self._do("listing", path, lambda: self._ftp.retrlines(f"MLSD {path}".rstrip(), lines.append))
        else:
            self._do(
                "listing", path, lambda: self._in_folder(path, lambda: self._ftp.retrlines("LIST -a", lines.append))
            )
        read = _machine_entry if machine else _long_entry
        found = [e for e in (read(line) for line in lines) if e is not None and e.name not in (".", "..")]
        return sorted(found, key=lambda e: e.name)

    def _in_folder(self, path: str, work: Callable[[], Any]) -> None:
        home = self._ftp.pwd()
        self._ftp.cwd(path or home)
        try:
            work()
        finally:
            self._ftp.cwd(home)

    def stat(self, path: str) -> Entry | None:
        if path.strip("/.") == "":
            return Entry("", "folder", 0)
        if "MLST" not in self._features:
            return self._stat_by_hand(path)
        try:
            answer = self._do("looking at", path, lambda: self._ftp.sendcmd(f"MLST {path}"))
        except (MissingFileError, TransferError) as fault:
            if isinstance(fault, LineDroppedError):
                raise
            return None
        line = next((s for s in answer.splitlines() if s.startswith(" ")), "")
        return _machine_entry(line.strip(), path.rstrip("/").rsplit("/", 1)[-1])

    def _stat_by_hand(self, path: str) -> Entry | None:
        name = path.rstrip("/").rsplit("/", 1)[-1]
        try:
            size = self._do("looking at", path, lambda: self._ftp.size(path))
            return Entry(name, "file", size or 0)
        except TransferError as fault:
            if isinstance(fault, LineDroppedError):
                raise
        try:
            self._do("looking at", path, lambda: self._in_folder(path, lambda: None))
        except TransferError as fault:
            if isinstance(fault, LineDroppedError):
                raise
            return None
        return Entry(name, "folder", 0)

    def read(self, path: str, limit_bytes: int = 1 << 20) -> bytes:
        held = bytearray()

        def take(block: bytes) -> None:
            if len(held) < limit_bytes:
                held.extend(block)

        self._do("reading", path, lambda: self._ftp.retrbinary(f"RETR {path}", take, BLOCK))
        return bytes(held[:limit_bytes])

    def write(self, path: str, content: bytes, mode: int | None = None) -> None:
        if mode is not None:
            # Never readable by others for a moment: an empty file gets the mode before the content goes in.
            self._do("writing", path, lambda: self._ftp.storbinary(f"STOR {path}", io.BytesIO(b"")))
            self.chmod(path, mode)
        self._do("writing", path, lambda: self._ftp.storbinary(f"STOR {path}", io.BytesIO(content), BLOCK))

    def upload(
        self,
        path: str,
        source: BinaryIO,
        *,
        offset: int = 0,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> None:
        source.seek(offset)
        sent = offset

        def told(block: bytes) -> None:
            nonlocal sent
            sent += len(block)
            if progress is not None:
                progress(sent)
            if cancel is not None:
                cancel.check()

        def work() -> None:
            self._ftp.storbinary(f"STOR {path}", source, BLOCK, callback=told, rest=offset or None)

        try:
            self._do("bringing", path, work)
        except LineDroppedError:
            # The control connection is in an unknown state after a broken transfer; only a new one helps.
            self.close()
            raise

    def rename(self, old: str, new: str) -> None:
        self._do("renaming", old, lambda: self._ftp.rename(old, new))

    def remove(self, path: str) -> None:
        self._do("removing", path, lambda: self._ftp.delete(path))

    def make_folder(self, path: str) -> None:
        self._do("making", path, lambda: self._ftp.mkd(path))

    def remove_folder(self, path: str) -> None:
        self._do("removing", path, lambda: self._ftp.rmd(path))

    def chmod(self, path: str, mode: int) -> None:
        self._do("changing modes of", path, lambda: self._ftp.sendcmd(f"SITE CHMOD {mode:o} {path}"))

    def close(self) -> None:
        try:
            if self._ftp.sock is not None:
                self._ftp.sock.settimeout(3)
                self._ftp.quit()
        except (OSError, ftplib.Error, EOFError, AttributeError):
            pass
        finally:
            self._ftp.close()


def _certificate_hash(sock: Any) -> str:
    return "SHA256:" + hashlib.sha256(sock.getpeercert(binary_form=True) or b"").hexdigest()


def _text(fault: BaseException) -> str:
    return str(fault) or type(fault).__name__


def _machine_entry(line: str, name: str = "") -> Entry | None:
    """A line of MLSD or MLST (RFC 3659, section 7.2): facts, a space, the name."""
    facts_text, _, path = line.partition(" ")
    facts = {k.lower(): v for k, _, v in (f.partition("=") for f in facts_text.split(";") if f)}
    kind = facts.get("type", "").lower()
    if kind in ("cdir", "pdir") and not name:
        return None
    mode = facts.get("unix.mode")
    size = int(facts.get("size", 0) or 0)
    return Entry(name or path.rsplit("/", 1)[-1], _machine_kind(kind), size, int(mode, 8) & 0o7777 if mode else None)


def _machine_kind(kind: str) -> Kind:
    if kind == "file":
        return "file"
    if "link" in kind:
        return "link"
    return "folder" if kind in ("dir", "cdir", "pdir") else "other"


def _long_entry(line: str) -> Entry | None:
    """A line of LIST as Unix servers write it; others are passed over."""
    found = re.match(r"^([-dlbcps])([rwxsStT-]{9})\S*\s+\d+\s+\S+\s+\S+\s+(\d+)\s+\w+\s+\d+\s+[\d:]+\s(.+)$", line)
    if not found:
        return None
    kinds: dict[str, Kind] = {"-": "file", "d": "folder", "l": "link"}
    kind = kinds.get(found[1], "other")
    name = found[4].split(" -> ")[0] if kind == "link" else found[4]
    bits = sum(1 << (8 - i) for i, c in enumerate(found[2]) if c not in "-ST")
    return Entry(name, kind, int(found[3]), bits)
