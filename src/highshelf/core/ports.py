"""The small interfaces that drivers fill. Every call may raise the errors of its own branch of the tree and no others."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO, Literal, Protocol, runtime_checkable

from highshelf.core.errors import CancelledError, HighShelfError, LineDroppedError, PausedError, TransferError
from highshelf.core.pages.snapshot import Snapshot

Progress = Callable[[int], None]
"""Called with the number of bytes done so far."""


Kind = Literal["file", "folder", "link", "other"]


class CancelToken:
    """Set by whoever cancels or lets rest; drivers look at it between two blocks of bytes."""

    def __init__(self) -> None:
        self._flag = threading.Event()
        self._cancelled = False

    def cancel(self) -> None:
        self._cancelled = True
        self._flag.set()

    def pause(self) -> None:
        self._flag.set()

    def resume(self) -> None:
        """After a pause; what was cancelled stays so."""
        if not self._cancelled:
            self._flag.clear()

    @property
    def cancelled(self) -> bool:
        """Whether to stop, for now or for good."""
        return self._flag.is_set()

    def check(self) -> None:
        """Raises CancelledError once cancelled, PausedError while it rests."""
        if self._flag.is_set():
            raise CancelledError("the job was cancelled") if self._cancelled else PausedError("the job rests")

    def rest(self, seconds: float) -> None:
        """Let time pass, shorter when somebody cancels. Raises as `check` does."""
        self._flag.wait(seconds)
        self.check()


@dataclass(frozen=True)
class Entry:
    """One name in a folder. `mode` is the permission bits, or None where the server does not tell.

    `changed` is when it was last changed, in the server's own words ("" where it tells nothing): to be compared, not to be read.
    """

    name: str
    kind: Kind
    size_bytes: int
    mode: int | None = None
    changed: str = field(default="", compare=False)


@dataclass(frozen=True)
class Capabilities:
    """What a way to the files can do; probed, not assumed.

    `parallel`: one connection takes many calls at once, from threads. `bulk`: `bulk` is quicker than as many calls.
    `links`: symbolic links can be made.
    """

    atomic_replace: bool
    chmod: bool
    append: bool
    encrypted: bool
    parallel: bool = False
    bulk: bool = False
    links: bool = False


@dataclass(frozen=True)
class Order:
    """One small thing to do with a path, as the method of HostFiles of that name does it."""

    what: Literal["make_folder", "remove", "remove_folder", "chmod", "rename"]
    path: str
    mode: int = 0
    new: str = ""


@dataclass(frozen=True)
class TransferFacts:
    """What a transfer server says about itself.

    Attributes:
        software: its greeting or version, as it says it.
        landing: the folder the login lands in, as the server calls it; `/` may be a folder somewhere else in truth.
        free_bytes: what can still be written, or None where the server does not tell.
        encryption: such as `TLSv1.3` or `chacha20-poly1305`, or "" without.
        offers: better ways this server offers by itself, such as `ftps` on plain FTP.
        listing: `machine` (MLSD), `long` (LIST) or `sftp`.
    """

    software: str = ""
    landing: str = "/"
    free_bytes: int | None = None
    encryption: str = ""
    offers: tuple[str, ...] = ()
    listing: str = ""


@dataclass(frozen=True)
class Certificate:
    """What a server shows for a name: `problem` is "" when a browser would take it."""

    problem: str
    subject: str
    issuer: str
    ends_at: str
    sha256: str


class Outside(Protocol):
    """What anybody in the network sees of a host; nothing is sent but greetings. Never raises: nothing seen is an answer too."""

    def resolve(self, name: str) -> tuple[str, ...]: ...
    def certificate(self, host: str, port: int, name: str) -> Certificate | None: ...
    def greeting(self, host: str, port: int) -> str | None: ...


class HostFiles(Protocol):
    """The account's files through its transfer login. Paths are relative to where the login lands, `/` between parts.

    `idle_dropped_seconds`: after how long a silence the server dropped the line, when it did and it was opened again.

    Raises (every method): MissingFileError, LineDroppedError, TransferError.
    """

    @property
    def capabilities(self) -> Capabilities: ...
    @property
    def idle_dropped_seconds(self) -> float | None: ...
    def facts(self) -> TransferFacts: ...
    def entries(self, path: str) -> list[Entry]: ...
    def stat(self, path: str) -> Entry | None: ...
    def read(self, path: str, limit_bytes: int = 1 << 20) -> bytes: ...
    def write(self, path: str, content: bytes, mode: int | None = None) -> None: ...
    def upload(
        self,
        path: str,
        source: BinaryIO,
        *,
        offset: int = 0,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> None: ...
    def rename(self, old: str, new: str) -> None: ...
    def remove(self, path: str) -> None: ...
    def make_folder(self, path: str) -> None: ...
    def remove_folder(self, path: str) -> None: ...
    def link(self, path: str, to: str) -> None:
        """A symbolic link at a path; `to` is as the link will say it, from the folder that it stands in."""
        ...

    def chmod(self, path: str, mode: int) -> None: ...
    def bulk(self, orders: Sequence[Order]) -> list[HighShelfError | None]:
        """Do them one after the other; what was refused comes back in its place and holds up none behind it."""
        ...

    def tree(self, path: str) -> dict[str, list[Entry]] | None:
        """Every folder below a path ("" is the path itself) with its entries, in one listing; None where it takes many."""
        ...

    def close(self) -> None: ...


def one_by_one(files: HostFiles, orders: Sequence[Order]) -> list[HighShelfError | None]:
    """`bulk` for a way that has nothing better. Raises LineDroppedError."""
    return [_done(files, order) for order in orders]


def _done(files: HostFiles, order: Order) -> HighShelfError | None:
    try:
        if order.what == "chmod":
            files.chmod(order.path, order.mode)
        elif order.what == "rename":
            files.rename(order.path, order.new)
        else:
            getattr(files, order.what)(order.path)
    except LineDroppedError:
        raise
    except TransferError as fault:
        return fault
    return None


@dataclass(frozen=True)
class Ran:
    """What a command on the host gave back."""

    status: int
    output: str
    complaint: str


class Shell(Protocol):
    """Commands on the host. A status other than 0 is a result; ShellError is for a shell that is not there."""

    def run(self, command: str, *, text: str = "", timeout_seconds: float = 120) -> Ran: ...
    def prepare(self) -> None:
        """A `stream` is to come: what can be done for it before its command is known is begun. Returns at once, never raises."""
        ...

    def stream(
        self, command: str, source: BinaryIO, *, progress: Progress | None = None, cancel: CancelToken | None = None
    ) -> Ran:
        """Run a command that reads `source`, from where it stands, as its standard input. Raises LineDroppedError, CancelledError."""
        ...


@dataclass(frozen=True)
class FileField:
    """A form's field with a file: the field's name, what the file is called, its bytes from where `content` stands, how many."""

    field: str
    name: str
    content: BinaryIO
    size_bytes: int


class Fetch(Protocol):
    """One conversation with web addresses: cookies kept, origins enforced, redirects followed inside them."""

    def get(self, url: str) -> Snapshot: ...
    def post(self, url: str, fields: Sequence[tuple[str, str]], *, multipart: bool = False) -> Snapshot: ...
    def send_file(
        self,
        url: str,
        fields: Sequence[tuple[str, str]],
        file: FileField,
        *,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> Snapshot:
        """One POST of a form with a file in it (RFC 7578), read in blocks; redirects are followed as after any other."""
        ...

    def send_json(
        self, url: str, body: bytes, headers: Mapping[str, str], method: str = "POST"
    ) -> tuple[int, Mapping[str, str], bytes]:
        """One request, no redirects: status, headers, body."""
        ...

    def cookies(self) -> str: ...
    def restore(self, cookies: str) -> None: ...
    def close(self) -> None: ...


@runtime_checkable
class Browse(Protocol):
    """A conversation with pages whose scripts run. Controls of what it shows carry marks (`Button.at`), by which they are pressed.

    Attributes:
        missing: why no browser can be had, or "".
        live: whether its page is still as it was left.

    Raises (every method): BrowserError, FetchError, CancelledError.
    """

    @property
    def missing(self) -> str: ...
    @property
    def live(self) -> bool: ...
    def get(self, url: str) -> Snapshot: ...
    def look(self) -> Snapshot: ...
    def press(self, at: str, fields: Sequence[tuple[str, str]]) -> tuple[Snapshot, bool]:
        """Fill the form of a control and press it; False when filling it in changed what is asked, or left the control shut."""
        ...

    def picture(self, secrets: Sequence[str]) -> bytes:
        """PNG of the whole page, with these painted over."""
        ...

    def cookies(self) -> str: ...
    def restore(self, cookies: str) -> None: ...
    def leave(self) -> None: ...


def given_nonces(path: str) -> str:
    """Where a helper keeps its list of nonces: a name that no server runs, not even by a `.php` in its middle."""
    return path.removesuffix(".php") + ".seen.txt"


def helper_traces(path: str) -> tuple[str, ...]:
    """A helper and what may stand beside it, by path or name; the last two are an earlier High Shelf's."""
    return path, given_nonces(path), path + ".seen.php", path + ".seen.txt"


class Helper(Protocol):
    """The helper on the host: one call a capability; see drivers/helper."""

    def call(self, capability: str, body: Mapping[str, Any]) -> dict[str, Any]: ...
    def ask(self, capability: str, body: Mapping[str, Any]) -> dict[str, Any]: ...
    def put_there(self, capability: str) -> None:
        """Make it ready for its first call."""
        ...

    def over(self, files: HostFiles) -> AbstractContextManager[None]:
        """Put there over another connection for a while: this one is busy."""
        ...

    def files(self) -> Sequence[str]: ...
    def remove(self) -> None: ...


class HostPhp(Protocol):
    """What only PHP on the host can tell. Keys as in database_login.php, database_dump.php and report.php."""

    def report(self, wanted: Mapping[str, Any]) -> dict[str, Any]: ...
    def database_login(self, wanted: Mapping[str, Any]) -> dict[str, Any]: ...
    def database_dump(self, wanted: Mapping[str, Any]) -> dict[str, Any]:
        """A slice of a database as statements; `text` is gzip's bytes, and those of the next slice may follow them in one file."""
        ...


@dataclass(frozen=True)
class MailServer:
    """Where letters are handed over: `security` is tls (from the first byte), starttls, or none; `login` "" for none."""

    host: str
    port: int
    security: Literal["tls", "starttls", "none"]
    login: str
    sender: str


@dataclass(frozen=True)
class Fetched:
    """A file that was brought over: the address that redirects ended at, what it is called, how long it is."""

    address: str
    name: str
    size_bytes: int


class Downloads(Protocol):
    """Brings files over https; see drivers/http/download.py."""

    def fetch(
        self,
        address: str,
        target: Path,
        *,
        headers: Mapping[str, str],
        tag: str,
        limit_bytes: int,
        told: Callable[[int, int | None, str, str], None],
        cancel: CancelToken,
    ) -> Fetched: ...
    def text(self, address: str, headers: Mapping[str, str], limit_bytes: int = 1 << 20) -> bytes: ...


@dataclass(frozen=True)
class Made:
    """What a panel made, by whole names; what it did not make or tell is "". `server` is the database's, as the panel tells it."""

    database: str
    user: str = ""
    password: str = ""
    server: str = ""


class Panel(Protocol):
    """The control panel's databases, websites and files. Names of databases and users are given without what the panel adds;
    names returned are whole. Folders are as the transfer login sees them.
    """

    def sites(self) -> list[str]: ...
    def create_site(self, name: str, folder: str) -> None: ...

    def send_file(
        self,
        folder: str,
        name: str,
        content: BinaryIO,
        size_bytes: int,
        *,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> None: ...
    def unpack(self, folder: str, name: str) -> None:
        """Unpack an archive into the folder that it lies in."""
        ...

    def databases(self) -> list[str]: ...
    def users(self) -> list[str]: ...
    def create_database(self, name: str, user: str = "", password: str = "") -> Made:
        """Make a database; a panel that makes its user in the same go takes the user's name and password too."""
        ...

    def create_user(self, name: str, password: str, database: str = "") -> str:
        """Make a user; `database` is the whole name of the one that it is for, where the panel makes it on that one's page."""
        ...

    def moves(self) -> list[str]:
        """What a job would do to make a database, as far as it can be seen before; none where a primer says it."""
        ...

    def standing(self, name: str, what: Literal["database", "user"]) -> str:
        """The whole name of what was made under this name, or ""."""
        ...

    def attach(self, database: str, user: str) -> None: ...
    def drop_database(self, database: str) -> None: ...
    def drop_user(self, user: str) -> None: ...
    def extensions(self) -> dict[str, bool]: ...
    def switch(self, extension: str, *, on: bool) -> None: ...
    def full_name(self, name: str, what: Literal["database", "user"]) -> str: ...
    def longest(self, what: Literal["database", "user"]) -> int: ...
    @property
    def tells_password(self) -> bool:
        """Whether it chooses the password of a database's user and tells it once, so that it is lost with a lost answer."""
        ...


class Journal(Protocol):
    """The truth about what was done outside: intent before, result after, inverse on undo."""

    def state(self, leg: str, act: str) -> str: ...
    def facts(self, leg: str, act: str) -> dict[str, Any]: ...
    def intend(self, leg: str, act: str, facts: dict[str, Any]) -> None: ...
    def keep(self, leg: str, act: str, facts: dict[str, Any]) -> None: ...
    def done(self, leg: str, act: str, facts: dict[str, Any]) -> None: ...
    def mark(self, leg: str, act: str, state: str) -> None: ...


class Values(Protocol):
    """The job's values; secrets among them come out of the strongbox."""

    def get(self, name: str) -> str | None: ...
    def set(self, name: str, value: str, *, secret: bool | None = None) -> None: ...
    def secrets(self) -> list[str]: ...
    def sealed_names(self) -> list[str]:
        """The names of those that are secrets."""
        ...

    def all(self) -> dict[str, str]: ...
