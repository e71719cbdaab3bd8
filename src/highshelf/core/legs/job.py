"""What a leg has in its hands, and what it gives back."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass, field
from typing import Any, BinaryIO, Literal, Protocol

from highshelf.core.account import Account
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.places import Place
from highshelf.core.placing.pace import Pace
from highshelf.core.placing.standing import Stand
from highshelf.core.placing.ways import Way
from highshelf.core.plan import Plan
from highshelf.core.ports import Browse, CancelToken, Fetch, Helper, HostFiles, HostPhp, Journal, Panel, Shell, Values
from highshelf.core.primers.models import ApplicationPrimer
from highshelf.core.release.contents import Contents
from highshelf.core.release.findings import Findings


class Noted(Protocol):
    """An act in a journal."""

    leg: str
    name: str
    state: str
    facts: dict[str, Any]


@dataclass(frozen=True)
class Dump:
    """A dump that is to be imported: what it is called, and the name of a database that it insists on, ""."""

    name: str
    insists: str = ""


class DumpSink(Protocol):
    """Where a dump is written to: kept when its block ends well, gone when it does not."""

    @property
    def size_bytes(self) -> int: ...
    @property
    def sha256(self) -> str: ...
    def write(self, block: bytes) -> None: ...


class Job(Protocol):
    """One job in one step. Connections are opened when first asked for and closed when the step ends."""

    @property
    def id(self) -> str: ...
    @property
    def account(self) -> Account: ...
    @property
    def plan(self) -> Plan: ...
    @property
    def place(self) -> Place: ...
    @property
    def findings(self) -> Findings: ...
    @property
    def contents(self) -> Contents: ...
    @property
    def primer(self) -> ApplicationPrimer | None: ...
    @property
    def way(self) -> Way:
        """How the files go over: the plan's way, or the one that took its place."""
        ...

    @property
    def values(self) -> Values: ...
    @property
    def journal(self) -> Journal: ...
    @property
    def cancel(self) -> CancelToken: ...
    def files(self) -> HostFiles: ...
    def shell(self) -> Shell | None: ...
    def lanes(self, most: int) -> list[HostFiles]: ...
    def fetch(self, *, fresh: bool = False) -> Fetch: ...
    def browser(self) -> Browse:
        """The job's conversation in a browser; it goes on from step to step."""
        ...

    def panel(self) -> Panel: ...
    def helper(self) -> Helper: ...
    def php(self) -> HostPhp: ...
    def archive(self, form: str) -> BinaryIO: ...
    def pace(self) -> Pace: ...
    def learn_rate(self, bytes_per_second: float) -> None: ...
    def redact(self, text: str) -> str:
        """A text without the secrets that the job knows."""
        ...

    def say(self, text: str, **data: Any) -> None: ...
    def evidence(self, what: str, snapshot: Snapshot) -> None: ...
    def picture(self, what: str) -> None:
        """Keep a picture of the browser's page beside a piece of evidence, without secrets; none where there is no browser."""
        ...

    def remark(self, what: str, facts: dict[str, Any]) -> None:
        """Keep what was done about a piece of evidence, and why."""
        ...

    def outstanding(self, path: str) -> None: ...
    def gone(self, path: str) -> None: ...
    def leftovers(self) -> list[str]: ...
    def register(self, facts: dict[str, Any]) -> str: ...
    def keep_stand(self, stand: Stand) -> None:
        """Keep how the files of the installation stand."""
        ...

    def stand(self) -> Stand | None:
        """What was kept of it, None when nothing was."""
        ...

    def earlier(self, leg: str) -> AbstractContextManager[Job]:
        """The job whose installation this one is about, as that leg had it in its hands."""
        ...

    def earlier_acts(self) -> Sequence[Noted]:
        """What that job did, the newest first."""
        ...

    def earlier_facts(self, leg: str, act: str) -> dict[str, Any]:
        """What that job noted of an act, {} when it did none such."""
        ...

    def installed(self) -> dict[str, Any]:
        """What the books have of the installation: admin_name, login_address, title, changed_files."""
        ...

    def secret(self, name: Literal["admin", "database"]) -> str:
        """One of the installation's own."""
        ...

    def rechecked(self, facts: dict[str, Any]) -> None:
        """Write down what a recheck saw."""
        ...

    def taken_back(self, facts: dict[str, Any]) -> None:
        """Write down that the installation stands no more."""
        ...

    def stands_again(self) -> None:
        """Write down that it was brought back."""
        ...

    def known_database(self) -> dict[str, str]:
        """What the books have of the database that this job is about: name, user, password, host, port, kind."""
        ...

    def book_database(self, facts: dict[str, Any]) -> str:
        """Write the job's database down; returns its number."""
        ...

    def note_database(self, facts: dict[str, Any]) -> None:
        """Write down what was seen in a database of the books; nothing happens when it is an installation's."""
        ...

    def unbook_database(self) -> int:
        """It is gone: out of the books; returns how many secrets went with it."""
        ...

    def dump(self) -> Dump: ...
    def dump_lines(self, dump: Dump) -> Iterator[str]:
        """Its lines with their ends, unpacked; bytes that are no text as `surrogateescape` has them."""
        ...

    def dump_writer(self) -> AbstractContextManager[DumpSink]: ...
    def keep_dump(self, facts: dict[str, Any]) -> None:
        """Write down what was taken: rows, bytes, unpacked, sha256."""
        ...

    def drop_dump(self) -> None: ...


@dataclass(frozen=True)
class Done:
    """The act is finished; `facts` go into the journal, `told` to the people who watch."""

    told: str
    facts: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class More:
    """The act goes on in another step; its cursor is in the journal. `facts` are figures for the people who watch."""

    told: str = ""
    facts: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Ask:
    """Only a person can say; the job waits. `value` is where the answer is kept."""

    value: str
    text: str
    options: tuple[str, ...] = ()
    secret: bool = False


Result = Done | More | Ask


@dataclass(frozen=True)
class Act:
    """A thing a leg does to the outside world: how, and its inverse (None: nothing outside was changed).

    `when`: what a plan must have (the name of its field), or this job has no such act; "" is every job's.
    """

    name: str
    do: Callable[[Job], Result]
    undo: Callable[[Job, dict[str, Any]], None] | None = None
    when: str = ""
