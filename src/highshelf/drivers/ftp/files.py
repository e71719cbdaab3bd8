"""HostFiles over FTP, explicit and implicit FTPS (RFC 959, 2389, 3659, 4217).

Rules:
1. Over TLS each data connection offers the control connection's session: servers require it.
2. The address in a passive answer is ignored; the control connection's is used (wrong private addresses are common).
3. TYPE I once, at the start; no server sees ASCII.
4. A line that was dropped while nothing was said is opened again, once, and the silence is remembered.
5. Small orders go out in bundles, one behind the other, where the server was seen to bear that.
6. A file whose end was confused by what went out ahead of it goes over once more, alone.
7. A file whose upload broke is removed before it goes over anew: a session that hangs there may hold it locked for hours.
8. ftplib's exceptions end here; callers see our tree.
"""

from __future__ import annotations

import ftplib
import io
import re
import time
from collections import Counter
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, BinaryIO, TypeVar

from highshelf.core.account import TransferLogin
from highshelf.core.errors import (
    FingerprintError,
    HighShelfError,
    LineDroppedError,
    LoginRefusedError,
    MissingFileError,
    TransferError,
    UnreachableError,
)
from highshelf.core.identity import check_identity
from highshelf.core.ports import CancelToken, Capabilities, Entry, Order, Progress, TransferFacts, one_by_one
from highshelf.drivers.ftp.listing import deep_listing, long_entry, machine_entry
from highshelf.drivers.ftp.replies import refusal, says_no_space, says_too_many, text_of, too_many
from highshelf.drivers.ftp.tls import Client, certificate_hash, make_client
from highshelf.drivers.sftp.connection import no_connection
from highshelf.drivers.wire.dial import Dial, anywhere

T = TypeVar("T")
CONNECT_SECONDS = 20
# What says nothing of a path: the server was not heard. All other errors are its answer.
UNHEARD = (LineDroppedError, UnreachableError, LoginRefusedError, FingerprintError)
SILENCE_SECONDS = 60
SMALL_BYTES, SMALL_SECONDS = 1 << 20, 20
# A line that breaks after less silence than this was not dropped for being idle.
IDLE_SECONDS = 4.0
BUSY_TRIES = 4
LAST_WORD_SECONDS = 2
BLOCK = 65_536
# So many orders are under way at once: their answers fit into any buffer, and half a round trip holds no more.
BUNDLE = 32
BUNDLE_TRIAL_SECONDS = 5
# Servers that were seen to take two orders at once, and what FEAT said there.
_BEARING: dict[tuple[str, int, str], str] = {}
# How often servers that bore two orders did not answer many: the line may have been lost in the middle, but not again and again.
_UNANSWERED: Counter[tuple[str, int, str]] = Counter()
UNANSWERED_BUNDLES = 2
# Files whose upload broke, by host, port, login and path, until they are there as a whole.
_BROKEN: set[tuple[str, int, str, str]] = set()


class FtpFiles:
    """An open FTP or FTPS connection.

    Args:
        login: whom to log in as, where; its kind says whether and how TLS is used.
        password: the password.
        fingerprint: the server's certificate as known (core/identity.py), or "" to take a new one and tell it.
        confirm: whether a new one is refused, so that a person can say yes to it first.
        dial: where connections may lead.

    Raises:
        UnreachableError, TooManyError, FingerprintError, UnknownServerError, LoginRefusedError, OwnNetworkError.
    """

    def __init__(
        self,
        login: TransferLogin,
        *,
        password: str,
        fingerprint: str = "",
        confirm: bool = False,
        dial: Dial = anywhere,
    ) -> None:
        self.login = login
        self._confirm, self._number = confirm, dial(login.host, login.port)
        self.fingerprint = fingerprint
        self._password = password
        self.idle_dropped_seconds: float | None = None
        self._long_only = False
        self._chmod = True
        # Whether orders may go out in bundles: None until it was tried.
        self._bundles: bool | None = None
        self._ftp = self._open()

    def _open(self) -> Client:
        where = f"{self.login.host}:{self.login.port}"
        self._ftp = ftp = make_client(self.login.kind)
        try:
            # The name is what TLS asks for; the number is where it was seen to lead.
            ftp.connect_to(self._number, self.login.host, self.login.port, CONNECT_SECONDS)
            if isinstance(ftp, ftplib.FTP_TLS):
                ftp.auth()
                seen = certificate_hash(ftp.sock)
                check_identity(where, self.fingerprint, [seen], confirm=self._confirm)
                self.fingerprint = seen
            else:
                check_identity(where, "", [], confirm=self._confirm)
        except (OSError, ftplib.Error, EOFError) as fault:
            self.close()
            if says_too_many(fault):
                raise too_many(where, fault) from None
            raise no_connection(where, fault, _hint_for(self.login, fault)) from None
        except BaseException:
            self.close()
            raise
        self._log_in(ftp, where)
        return ftp

    def _log_in(self, ftp: Client, where: str) -> None:
        try:
            ftp.login(self.login.login, self._password)
            assert ftp.sock is not None
            ftp.sock.settimeout(SILENCE_SECONDS)
            known = _BEARING.get(self._door)
            self._features = _settled(ftp) if known is None else _settled_at_once(ftp, known)
            self._used_at = time.monotonic()
        except (OSError, ftplib.Error, EOFError, ValueError) as fault:
            self.close()
            if says_too_many(fault):
                raise too_many(where, fault) from None
            if isinstance(fault, ftplib.error_perm) and _wants_tls(fault):
                raise LoginRefusedError(
                    f"{where} takes the login over TLS only: {text_of(fault)}",
                    hint="write the transfer address with ftps:// instead of ftp://",
                ) from None
            if isinstance(fault, ftplib.error_perm):
                raise LoginRefusedError(
                    f"{where} does not accept the login {self.login.login}",
                    hint="check login and password with the hosting company's letter",
                ) from None
            raise UnreachableError(
                f"{where} broke off while logging in: {text_of(fault)}", hint="try again in a minute"
            ) from None

    @property
    def _door(self) -> tuple[str, int, str]:
        """Where the server is, and how it greets: another one may stand there tomorrow. Times and counts are left out."""
        return self.login.host, self.login.port, re.sub(r"\d+", "", self._ftp.welcome or "")

    @property
    def capabilities(self) -> Capabilities:
        encrypted = self.login.kind != "ftp"
        return Capabilities(atomic_replace=True, chmod=self._chmod, append=True, encrypted=encrypted, bulk=True)

    def facts(self) -> TransferFacts:
        landing = self._do("asking for", "the folder", lambda: self._ftp.pwd())
        sock = self._ftp.sock
        return TransferFacts(
            software=" ".join((self._ftp.welcome or "").split())[:120],
            landing=_read(landing),
            free_bytes=self._free(),
            encryption=str(sock.version() or "") if isinstance(self._ftp, ftplib.FTP_TLS) and sock is not None else "",  # type: ignore[attr-defined]
            offers=("ftps",) if self.login.kind == "ftp" and "AUTH" in self._features else (),
            listing="machine" if self._machine else "long",
        )

    def _free(self) -> int | None:
        """AVBL (draft-peterson-streamlined-ftp-command-extensions, section 4), where a server has it."""
        if "AVBL" not in self._features:
            return None
        told = _ask(self._ftp, "AVBL").partition(" ")[2].strip()
        return int(told) if told.isdigit() else None

    def _do(self, what: str, path: str, work: Callable[[], T]) -> T:
        if self._ftp.sock is None:
            self._open()
        for attempt in range(1, BUSY_TRIES + 1):
            silent = time.monotonic() - self._used_at
            try:
                done = work()
                self._used_at = time.monotonic()
                return done
            except (ftplib.error_perm, ftplib.error_temp) as fault:
                self._used_at = time.monotonic()
                if str(fault).startswith("421") and silent > IDLE_SECONDS and attempt == 1:
                    self._again(silent)
                    continue
                # All passive ports of the server are taken for the moment; nothing went over yet.
                if str(fault).startswith("425") and attempt < BUSY_TRIES:
                    time.sleep(0.4 * attempt)
                    continue
                raise refusal(what, path, fault) from None
            except ValueError:
                raise TransferError(f"{what} {path!r}: the name cannot be sent over FTP") from None
            except (OSError, EOFError, ftplib.Error) as fault:
                # A server that takes no more closes the data connection first and says why afterwards.
                if (said := self._last_word()) is not None:
                    raise refusal(what, path, said) from None
                if silent > IDLE_SECONDS and attempt == 1:
                    self._again(silent)
                    continue
                # What state it is in nobody knows: the next call opens another.
                self._ftp.close()
                raise LineDroppedError(
                    f"{what} {path}: the connection to {self.login.host} was lost ({text_of(fault)})"
                ) from None
        raise AssertionError("unreachable")

    def _last_word(self) -> ftplib.Error | None:
        """What the server still has to say on the control connection after a data connection broke."""
        if self._ftp.sock is None:
            return None
        try:
            self._ftp.sock.settimeout(LAST_WORD_SECONDS)
            self._ftp.getresp()
        except (ftplib.error_perm, ftplib.error_temp) as fault:
            return fault if says_no_space(fault) else None
        except (OSError, EOFError, ftplib.Error):
            return None
        finally:
            if self._ftp.sock is not None:
                self._ftp.sock.settimeout(SILENCE_SECONDS)
        return None

    def _again(self, silent: float) -> None:
        """Open the line again that was dropped in a silence of so many seconds."""
        self.idle_dropped_seconds = min(silent, self.idle_dropped_seconds or silent)
        self.close()
        self._open()

    def _on(self, what: str, path: str, work: Callable[[], T]) -> T:
        """As `_do`, for something that should be there: a bare refusal of a name that is not there is told as that."""
        try:
            return self._do(what, path, work)
        except (MissingFileError, *UNHEARD):
            raise
        except TransferError:
            if self.stat(path) is None:
                raise MissingFileError(f"{what} {path}: there is no such file or folder") from None
            raise

    @property
    def _machine(self) -> bool:
        return not self._long_only and ("MLST" in self._features or "MLSD" in self._features)

    def entries(self, path: str) -> list[Entry]:
        if self.stat(path) is None:
            raise MissingFileError(f"listing {path}: there is no such folder")
        if self._machine:
            try:
                return self._listed(path, lambda take: self._ftp.retrlines(f"MLSD {_wire(path)}".rstrip(), take))
            except UNHEARD:
                raise
            except TransferError:
                # Announced, and refused (500 or 550) all the same: there are such servers.
                self._long_only = True
        # LIST hides dotfiles on all common servers unless asked with -a; MLSD shows them.
        return self._listed(path, lambda take: self._in_folder(path, lambda: self._ftp.retrlines("LIST -a", take)))

    def _listed(self, path: str, work: Callable[[Callable[[str], Any]], Any]) -> list[Entry]:
        read = machine_entry if self._machine else long_entry
        lines: list[str] = []

        def ask() -> None:
            lines.clear()
            work(lines.append)

        self._do("listing", path, ask)
        found = [e for e in (read(_read(line)) for line in lines) if e is not None and e.name not in (".", "..")]
        return sorted(found, key=lambda e: e.name)

    def _in_folder(self, path: str, work: Callable[[], Any]) -> None:
        home = self._ftp.pwd()
        self._ftp.cwd(_wire(path) or home)
        try:
            work()
        finally:
            self._ftp.cwd(home)

    def stat(self, path: str) -> Entry | None:
        if path.strip("/.") == "":
            return Entry("", "folder", 0)
        if not self._machine or "MLST" not in self._features:
            return self._stat_by_hand(path)
        try:
            answer = self._do("looking at", path, lambda: self._ftp.sendcmd(f"MLST {_wire(path)}"))
        except UNHEARD:
            raise
        except TransferError as fault:
            if _is_unknown(fault):
                # Announced once, and not known (any more): what stands there is asked for in the old way.
                self._long_only = True
                return self._stat_by_hand(path)
            return None
        line = next((s for s in answer.splitlines() if s.startswith(" ")), "")
        return machine_entry(_read(line.strip()), path.rstrip("/").rsplit("/", 1)[-1])

    def _stat_by_hand(self, path: str) -> Entry | None:
        """Without MLST: the folder above is listed, which tells the mode as well."""
        above, _, name = path.rstrip("/").rpartition("/")
        try:
            listed = self._listed(
                above, lambda take: self._in_folder(above, lambda: self._ftp.retrlines("LIST -a", take))
            )
        except MissingFileError:
            return None
        except UNHEARD:
            raise
        except TransferError:
            return None
        return next((e for e in listed if e.name == name), None)

    def read(self, path: str, limit_bytes: int = 1 << 20) -> bytes:
        held = bytearray()

        def take(block: bytes) -> None:
            if len(held) < limit_bytes:
                held.extend(block)

        def work() -> None:
            held.clear()
            self._ftp.retrbinary(f"RETR {_wire(path)}", take, BLOCK)

        self._on("reading", path, work)
        return bytes(held[:limit_bytes])

    def write(self, path: str, content: bytes, mode: int | None = None) -> None:
        open_to_all = mode is not None and mode & 0o044 == 0o044
        store = partial(self._store, path, content, None if open_to_all else mode)
        try:
            self._do("writing", path, store)
        except LineDroppedError as fault:
            if not (self._ftp.went_ahead and fault.context.get("said")):
                raise
            self._bear_less()
            self._do("writing", path, store)
        if mode is not None and open_to_all:
            self.chmod(path, mode)

    def _store(self, path: str, content: bytes, private: int | None) -> None:
        if private is not None:
            # Never readable by others for a moment: an empty file gets the mode before the content goes in, at each try.
            self._stor(path, io.BytesIO(b""))
            self.chmod(path, private)
        sock = self._ftp.sock
        if sock is not None and len(content) < SMALL_BYTES:
            # Nobody takes long for so little: a session that says nothing hangs.
            sock.settimeout(SMALL_SECONDS)
        try:
            self._stor(path, io.BytesIO(content))
        finally:
            if self._ftp.sock is not None:
                self._ftp.sock.settimeout(SILENCE_SECONDS)

    def _stor(
        self, path: str, source: BinaryIO, offset: int = 0, callback: Callable[[bytes], object] | None = None
    ) -> None:
        """STOR; over a file that is there only if that is whole, or gone on with.

        Some servers lock what they write, and take a session that hangs for one that goes on writing: whoever stores the same file
        again waits for it. With another file in its place nobody waits, and nothing that is still under way there gets into it.
        """
        mark = (self.login.host, self.login.port, self.login.login, path)
        if mark in _BROKEN and not offset:
            _ask(self._ftp, f"DELE {_wire(path)}")
        try:
            self._ftp.storbinary(f"STOR {_wire(path)}", source, BLOCK, callback=callback, rest=offset or None)
        except BaseException as fault:
            _BROKEN.add(mark)
            if not isinstance(fault, (OSError, EOFError, ftplib.Error)):
                # Whoever sends stopped in the middle: what the server says of that would be taken for its next answer.
                self._ftp.close()
            raise
        _BROKEN.discard(mark)

    def _bear_less(self) -> None:
        """The server, or this connection, may have been confused by what went out ahead: a new one, which does without."""
        self.close()
        self._open()
        self._ftp.bears_ahead = False

    def upload(
        self,
        path: str,
        source: BinaryIO,
        *,
        offset: int = 0,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> None:
        sent, hung = offset, False

        def told(block: bytes) -> None:
            nonlocal sent
            sent += len(block)
            if progress is not None:
                progress(sent)
            if cancel is not None:
                cancel.check()

        def work() -> None:
            nonlocal sent, hung
            source.seek(offset)
            sent = offset
            try:
                self._stor(path, source, offset, told)
            except TimeoutError:
                hung = self._ftp.left_waiting
                raise

        try:
            self._do("bringing", path, work)
        except LineDroppedError as fault:
            # The control connection is in an unknown state after a broken transfer; only a new one helps.
            self.close()
            fault.context["held"] = path if hung else ""
            raise

    def rename(self, old: str, new: str) -> None:
        self._on("renaming", old, lambda: self._ftp.rename(_wire(old), _wire(new)))

    def remove(self, path: str) -> None:
        self._on("removing", path, lambda: self._ftp.delete(_wire(path)))

    def make_folder(self, path: str) -> None:
        self._do("making", path, lambda: self._ftp.mkd(_wire(path)))

    def remove_folder(self, path: str) -> None:
        self._on("removing", path, lambda: self._ftp.rmd(_wire(path)))

    def link(self, path: str, to: str) -> None:
        """Raises TransferError: no RFC has a command for it."""
        raise TransferError(f"linking {path}: FTP makes no links", hint="use a login over SFTP")

    def chmod(self, path: str, mode: int) -> None:
        try:
            self._on("changing modes of", path, lambda: self._ftp.sendcmd(f"SITE CHMOD {mode:o} {_wire(path)}"))
        except TransferError as fault:
            if _is_unknown(fault):
                self._chmod = False
            raise

    def bulk(self, orders: Sequence[Order]) -> list[HighShelfError | None]:
        if self._bundles is None:
            self._bundles = _UNANSWERED[self._door] < UNANSWERED_BUNDLES and self._bears_bundles()
        if not self._bundles:
            return one_by_one(self, orders)
        found: list[HighShelfError | None] = []
        for start in range(0, len(orders), BUNDLE):
            part = orders[start : start + BUNDLE]
            found += self._do("doing", f"{len(part)} things at once", partial(self._together, part))
        return found

    def _bears_bundles(self) -> bool:
        """Whether the server answers two orders that arrive together; the connection is opened anew when it does not."""
        try:
            self._do("asking", "twice at once", self._asked_twice)
        except TransferError:
            self.close()
            self._open()
            return False
        _BEARING[self._door] = self._features
        return True

    def _asked_twice(self) -> None:
        assert self._ftp.sock is not None
        self._ftp.sock.settimeout(BUNDLE_TRIAL_SECONDS)
        try:
            self._ftp.put_together(["NOOP", "NOOP"])
            self._ftp.voidresp()
            self._ftp.voidresp()
        finally:
            self._ftp.sock.settimeout(SILENCE_SECONDS)

    def _together(self, orders: Sequence[Order]) -> list[HighShelfError | None]:
        commands = [_commands(order) for order in orders]
        self._ftp.put_together([line for lines in commands for line in lines])
        assert self._ftp.sock is not None
        self._ftp.sock.settimeout(SMALL_SECONDS)
        try:
            return [self._answer(order, len(lines)) for order, lines in zip(orders, commands, strict=True)]
        except TimeoutError:
            self._bundles = None
            _UNANSWERED[self._door] += 1
            raise
        finally:
            if self._ftp.sock is not None:
                self._ftp.sock.settimeout(SILENCE_SECONDS)

    def _answer(self, order: Order, replies: int) -> HighShelfError | None:
        fault: HighShelfError | None = None
        for _ in range(replies):
            try:
                self._ftp.getresp()
            except (ftplib.error_perm, ftplib.error_temp) as said:
                if str(said).startswith("421"):
                    raise EOFError(str(said)) from None
                fault = fault or refusal("doing", f"{order.what} {order.path}", said)
        return fault

    def tree(self, path: str) -> dict[str, list[Entry]] | None:
        lines: list[str] = []

        def ask() -> None:
            lines.clear()
            self._in_folder(path, lambda: self._ftp.retrlines("LIST -aR", lines.append))

        try:
            self._do("listing", path, ask)
        except UNHEARD:
            raise
        except TransferError:
            return None
        return deep_listing([_read(line) for line in lines])

    def close(self) -> None:
        try:
            if self._ftp.sock is not None:
                self._ftp.sock.settimeout(3)
                self._ftp.quit()
        except (OSError, ftplib.Error, EOFError, AttributeError):
            pass
        finally:
            self._ftp.close()


def _settled(ftp: Client) -> str:
    """After the login: TLS for data (RFC 4217), bytes as they are, names in UTF-8. What FEAT says."""
    if isinstance(ftp, ftplib.FTP_TLS):
        ftp.prot_p()
    ftp.voidcmd("TYPE I")
    features = _ask(ftp, "FEAT").upper()
    if "UTF8" in features:
        _ask(ftp, "OPTS UTF8 ON")
    return features


def _settled_at_once(ftp: Client, features: str) -> str:
    """The same in one round trip instead of five, where the server was seen to bear it and said before what it has."""
    secure = isinstance(ftp, ftplib.FTP_TLS)
    orders = [*(["PBSZ 0", "PROT P"] if secure else []), "TYPE I", *(["OPTS UTF8 ON"] if "UTF8" in features else [])]
    ftp.put_together(orders)
    refused: list[ftplib.Error] = []
    for order in orders:
        try:
            ftp.voidresp()
        except ftplib.Error as fault:
            if not order.startswith("OPTS"):
                refused.append(fault)
    if refused:
        raise refused[0]
    ftp.settled(secure=secure)
    return features


def _ask(ftp: ftplib.FTP, command: str) -> str:
    """The answer, or "" where the server says no."""
    try:
        return ftp.sendcmd(command)
    except ftplib.Error:
        return ""


def _is_unknown(fault: HighShelfError) -> bool:
    """Whether the server does not know the command (RFC 959, 4.2: 500, 502; 504 and 501 of what comes with it)."""
    return any(f"says {code}" in fault.message for code in (500, 501, 502, 504))


def _wants_tls(fault: BaseException) -> bool:
    low = str(fault).lower()
    return "tls" in low or "ssl" in low or "encrypt" in low or "secure" in low


def _hint_for(login: TransferLogin, fault: BaseException) -> str:
    if login.kind == "ftps-implicit":
        return "is the port the one for TLS from the first byte (mostly 990)? with ftps:// TLS begins on the usual port"
    if login.kind == "ftps" and isinstance(fault, ftplib.error_perm | ftplib.error_proto):
        return "this server offers no TLS here: try ftps-implicit:// on port 990, SFTP, or (in the clear) ftp://"
    if isinstance(fault, TimeoutError):
        return (
            "check host and port; is the server up? One that waits for TLS from the first byte says nothing: "
            "then write ftps-implicit://"
        )
    return "check host and port; is the server up?"


def _commands(order: Order) -> list[str]:
    """What goes over the line for an order, each line with an answer of its own."""
    path = _wire(order.path)
    return {
        "make_folder": [f"MKD {path}"],
        "remove": [f"DELE {path}"],
        "remove_folder": [f"RMD {path}"],
        "chmod": [f"SITE CHMOD {order.mode:o} {path}"],
        "rename": [f"RNFR {path}", f"RNTO {_wire(order.new)}"],
    }[order.what]


def _wire(path: str) -> str:
    """ftplib speaks Latin-1 to the line, so that names of any bytes pass; ours are sent as UTF-8."""
    return path.encode("utf-8", "surrogateescape").decode("latin-1")


def _read(text: str) -> str:
    try:
        return text.encode("latin-1").decode("utf-8")
    except UnicodeDecodeError:
        return text
