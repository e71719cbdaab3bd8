"""The small interfaces that drivers fill. Every call may raise the errors of its own branch of the tree and no others."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, BinaryIO, Literal, Protocol

from highshelf.core.errors import CancelledError
from highshelf.core.pages.snapshot import Snapshot

Progress = Callable[[int], None]
"""Called with the number of bytes done so far."""


Kind = Literal["file", "folder", "link", "other"]


class CancelToken:
    """Set by whoever cancels; drivers look at it between two blocks of bytes."""

    def __init__(self) -> None:
        self._flag = threading.Event()

    def cancel(self) -> None:
        self._flag.set()

    @property
    def cancelled(self) -> bool:
        return self._flag.is_set()

    def check(self) -> None:
        """Raises CancelledError once cancelled."""
        if self._flag.is_set():
            raise CancelledError("the job was cancelled")


@dataclass(frozen=True)
class Entry:
    """One name in a folder. `mode` is the permission bits, or None where the server does not tell."""

    name: str
    kind: Kind
    size_bytes: int
    mode: int | None = None


@dataclass(frozen=True)
class Capabilities:
    """What a way to the files can do; probed, not assumed."""

    atomic_replace: bool
    chmod: bool
    append: bool
    encrypted: bool


class HostFiles(Protocol):
    """The account's files through its transfer login. Paths are relative to where the login lands, `/` between parts.

    Raises (every method): MissingFileError, LineDroppedError, TransferError.
    """

    @property
    def capabilities(self) -> Capabilities: ...
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
    def chmod(self, path: str, mode: int) -> None: ...
    def close(self) -> None: ...


@dataclass(frozen=True)
class Ran:
    """What a command on the host gave back."""

    status: int
    output: str
    complaint: str


class Shell(Protocol):
    """Commands on the host. A status other than 0 is a result; ShellError is for a shell that is not there."""

    def run(self, command: str, *, text: str = "", timeout_seconds: float = 120) -> Ran: ...


class Fetch(Protocol):
    """One conversation with web addresses: cookies kept, origins enforced, redirects followed inside them."""

    def get(self, url: str) -> Snapshot: ...
    def post(self, url: str, fields: Sequence[tuple[str, str]], *, multipart: bool = False) -> Snapshot: ...
    def send_json(self, url: str, body: bytes, headers: Mapping[str, str]) -> tuple[int, Mapping[str, str], bytes]: ...
    def cookies(self) -> str: ...
    def restore(self, cookies: str) -> None: ...


class Helper(Protocol):
    """The helper on the host: one call a capability; see drivers/helper."""

    def call(self, capability: str, body: Mapping[str, Any]) -> dict[str, Any]: ...
    def files(self) -> Sequence[str]: ...
    def remove(self) -> None: ...


class HostPhp(Protocol):
    """What only PHP on the host can tell: whether a database login works from there. Keys as in database_login.php."""

    def database_login(self, wanted: Mapping[str, Any]) -> dict[str, Any]: ...


class Panel(Protocol):
    """The control panel's databases. Names given are without what the panel adds; names returned are whole."""

    def databases(self) -> list[str]: ...
    def users(self) -> list[str]: ...
    def create_database(self, name: str) -> str: ...
    def create_user(self, name: str, password: str) -> str: ...
    def attach(self, database: str, user: str) -> None: ...
    def drop_database(self, database: str) -> None: ...
    def drop_user(self, user: str) -> None: ...
    def full_name(self, name: str, what: Literal["database", "user"]) -> str: ...
    def longest(self, what: Literal["database", "user"]) -> int: ...


class Journal(Protocol):
    """The truth about what was done outside: intent before, result after, inverse on undo."""

    def state(self, leg: str, act: str) -> str: ...
    def facts(self, leg: str, act: str) -> dict[str, Any]: ...
    def intend(self, leg: str, act: str, facts: dict[str, Any]) -> None: ...
    def keep(self, leg: str, act: str, facts: dict[str, Any]) -> None: ...
    def done(self, leg: str, act: str, facts: dict[str, Any]) -> None: ...


class Values(Protocol):
    """The job's values; secrets among them come out of the strongbox."""

    def get(self, name: str) -> str | None: ...
    def set(self, name: str, value: str, *, secret: bool | None = None) -> None: ...
    def secrets(self) -> list[str]: ...
    def all(self) -> dict[str, str]: ...
