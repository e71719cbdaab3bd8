"""The workbench: what a step of a job has in its hands, with connections that are opened late and closed at its end."""

from __future__ import annotations

import json
import posixpath
from collections.abc import Callable, Iterator, Mapping
from contextlib import AbstractContextManager, contextmanager
from dataclasses import replace
from email.message import EmailMessage
from functools import cached_property, partial
from pathlib import Path
from typing import Any, BinaryIO, Literal, Protocol

from highshelf.core.account import Account, Credential, TransferLogin, check_address
from highshelf.core.errors import BrowserError, FaultError, HighShelfError, PanelError
from highshelf.core.legs.job import Dump, DumpSink
from highshelf.core.legs.trees import helper_reaches, holding_folder
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.places import Place
from highshelf.core.placing.falling_back import way_now
from highshelf.core.placing.pace import Pace
from highshelf.core.placing.standing import Stand
from highshelf.core.placing.ways import Way
from highshelf.core.plan import Plan
from highshelf.core.ports import (
    Browse,
    CancelToken,
    Fetch,
    Helper,
    HostFiles,
    HostPhp,
    MailServer,
    Outside,
    Panel,
    Shell,
)
from highshelf.core.primers.models import ApplicationPrimer, PanelPrimer
from highshelf.core.release.contents import Contents
from highshelf.core.release.findings import Finding, Findings
from highshelf.core.release.taken import Taken
from highshelf.core.values import redactor, told_server
from highshelf.engine.books import known_database, taken_dump
from highshelf.engine.connections import Connected, Connections, OwnLine
from highshelf.store.disk import write_private
from highshelf.store.licences import hand_over
from highshelf.store.store import Store, new_id
from highshelf.store.tables import (
    AccountRow,
    ActRow,
    DatabaseRow,
    DumpRow,
    InstallationRow,
    JobRow,
    PlanRow,
    ReleaseRow,
    SiteRow,
    now,
)

# Beyond eight logins at once little is won and many servers say no.
FTP_LANES = 8


class Drivers(Protocol):
    """How drivers are made; filled by the composition root alone."""

    def connect(self, account: Account, credential: Credential) -> Connected: ...
    def outside(self) -> Outside: ...
    def fetch(self, addresses: tuple[str, ...], reach: str, certificate: str = "") -> Fetch: ...
    def browser(self, job: str, address: str, reach: str, certificate: str, cancel: CancelToken) -> Browse: ...
    def leave_browser(self, job: str) -> None: ...
    def browser_missing(self) -> str:
        """Why pages cannot be opened in a browser here, for people; "" when they can."""
        ...

    def close(self) -> None: ...
    def panel(
        self,
        primer: PanelPrimer,
        account: Account,
        password: str,
        *,
        kind: str = "mariadb",
        told: Callable[[str], None] | None = None,
    ) -> Panel: ...
    def helper(
        self,
        files: HostFiles,
        fetch: Fetch,
        folder: str,
        address: str,
        reaches: tuple[str, ...],
        outstanding: Callable[[str], None],
        gone: Callable[[str], None],
    ) -> Helper: ...
    def dump_lines(self, path: Path, encoding: str) -> Iterator[str]: ...
    def call(self, address: str, body: bytes, headers: Mapping[str, str]) -> int:
        """One POST of JSON to somebody else's address, no redirects: the answer's status."""
        ...

    def mail(self, server: MailServer, password: str, letter: EmailMessage) -> None: ...
    def php_over_shell(self, shell: Shell) -> HostPhp: ...
    def php_through_helper(
        self,
        helper: Helper,
        files: HostFiles,
        path: str,
        outstanding: Callable[[str], None],
        gone: Callable[[str], None],
    ) -> HostPhp: ...
    def panel_primer(self, name: str) -> PanelPrimer: ...
    def panel_primers(self) -> list[PanelPrimer]: ...
    def application_primer(self, name: str) -> ApplicationPrimer: ...
    def application_primers(self) -> tuple[list[ApplicationPrimer], list[str]]: ...
    def primer_texts(self) -> list[tuple[str, bool, str]]: ...


def account_of(row: AccountRow) -> Account:
    return Account(
        name=row.name,
        title=row.title,
        transfer=TransferLogin(row.transfer_kind, row.transfer_host, row.transfer_port, row.transfer_login),  # type: ignore[arg-type]
        root=row.root,
        address=row.address,
        reach=row.reach,
        fingerprint=row.fingerprint,
        panel=row.panel,
        panel_login=row.panel_login,
        panel_primer=row.panel_primer,
        database_host=row.database_host,
        email=row.email,
        helper=row.helper,
        agent=row.agent,
        confirm_server=row.confirm_server,
        certificate=row.certificate,
    )


def at_site(store: Store, account: Account, address: str) -> Account:
    """The account with one of its sites as its own; "" and its own address give it as it is.

    Raises:
        NotFoundError: it has no such site.
    """
    if address in ("", account.address):
        return account
    row = store.get(SiteRow, (account.name, check_address(address)), "site")
    return replace(account, root=row.root, address=row.address, reach=row.reach, certificate=row.certificate)


def findings_of(row: ReleaseRow) -> Findings:
    raw: dict[str, Any] = {k: tuple(v) if isinstance(v, list) else v for k, v in row.findings.items()}
    raw["details"] = tuple(Finding(**d) for d in raw.get("details", ()))
    raw["fields"] = tuple(Taken(**f | {"others": tuple(f["others"])}) for f in raw.get("fields", ()))
    return Findings(**raw)


def _no_findings(name: str) -> Findings:
    """Of a job that has no release; what it makes is named after the account."""
    return Findings(
        name=name, version="", databases=(), installers=(), samples=(), readmes=(), dotfiles=(), has_php=False
    )


def _line_of(account: Account, job_id: str, leg: str, way: Way) -> tuple[Account, str]:
    """How a leg's connection is opened, and the name it is parked under."""
    # Sources shrink to a quarter on their way; an archive is packed already.
    packed = way.name == "files"
    key = f"{job_id}/{'database' if leg == 'database' else 'files'}{'/packed' if packed else ''}"
    return replace(account, compress=packed), key


def log_in_ahead(store: Store, connections: Connections, job_id: str) -> None:
    """Log in for a job that has been queued, unless another of its account's is before it."""
    job = store.get(JobRow, job_id, "job")
    if any(row.id != job_id for row in store.jobs_under_way(job.account)):
        return
    plan = Plan.from_dict(store.get(PlanRow, job.plan_id, "plan").body)
    account = at_site(store, account_of(store.get(AccountRow, plan.account, "account")), plan.site)
    account, key = _line_of(account, job_id, "survey", way_now(plan, store.values(job_id)))
    connections.parked.prepare(key, partial(connections.open, account, patient=False))


class Workbench:
    """One step's view of its job (port `Job`). Use as a context manager: connections are closed and helpers removed at its end."""

    def __init__(
        self, store: Store, drivers: Drivers, connections: Connections, job_id: str, leg: str, cancel: CancelToken
    ) -> None:
        self.id, self._leg, self.cancel = job_id, leg, cancel
        self._store, self._drivers = store, drivers
        job = store.get(JobRow, job_id, "job")
        self.plan = Plan.from_dict(store.get(PlanRow, job.plan_id, "plan").body)
        account_row = store.get(AccountRow, self.plan.account, "account")
        # A job about a database has no release.
        release = store.get(ReleaseRow, self.plan.release, "release") if self.plan.release else None
        self.account = at_site(store, account_of(account_row), self.plan.site)
        self._of_release = release
        self.findings = findings_of(release) if release is not None else _no_findings(self.plan.account)
        folder = self.plan.place.strip("/")
        plan = self.plan
        self.place = Place(self.account.root, folder, plan.address, plan.web, plan.apart, plan.split, plan.below)
        self.primer = drivers.application_primer(self.plan.primer) if self.plan.primer else None
        self.values = store.values(job_id)
        self.journal = store.journal(job_id)
        self._connections = connections
        account, key = _line_of(self.account, job_id, leg, self.way)
        self._line = OwnLine(connections, account, connections.parked, key)
        self._helper: Helper | None = None
        self._fetch: Fetch | None = None
        self._panel: Panel | None = None

    @property
    def way(self) -> Way:
        return way_now(self.plan, self.values)

    def pace(self) -> Pace:
        return Pace(self.plan.pace_bytes, self.cancel)

    def learn_rate(self, bytes_per_second: float) -> None:
        self._connections.learn(self.account.name, up_bytes_per_second=round(bytes_per_second))

    @property
    def _release(self) -> ReleaseRow:
        if self._of_release is None:
            raise FaultError(f"a job of the kind {self.plan.kind} has no release")
        return self._of_release

    @cached_property
    def contents(self) -> Contents:
        return self._store.shelf.contents(self._release.sha256)

    @cached_property
    def _account_secrets(self) -> list[str]:
        return [
            s
            for p in ("transfer", "panel", "passphrase")
            if (s := self._store.secret(f"account/{self.account.name}/{p}"))
        ]

    def __enter__(self) -> Workbench:
        return self

    def __exit__(self, kind: type[BaseException] | None, fault: BaseException | None, trace: object) -> None:
        self._line.broken = fault is not None
        try:
            if self._helper is not None:
                self._helper.remove()
        except HighShelfError:
            self._line.broken = True
            # What went wrong first counts; what could not be removed stays listed, and goes with the next step.
            if fault is None:
                raise
        except BaseException:
            self._line.broken = True
            raise
        finally:
            self._line.close()

    def files(self) -> HostFiles:
        return self._line.connected().files

    def shell(self) -> Shell | None:
        return self._line.connected().shell

    def lanes(self, most: int) -> list[HostFiles]:
        """Connections that can be used at once: one that takes many calls, so many times; else several, as many as the server allows."""
        return self._line.lanes(most, FTP_LANES)

    def fetch(self, *, fresh: bool = False) -> Fetch:
        if fresh or self._fetch is None:
            made = self._drivers.fetch((self.account.address,), self.account.reach, self.account.certificate)
            self._line.later(made.close)
            if fresh:
                return made
            self._fetch = made
        return self._fetch

    def browser(self) -> Browse:
        account = self.account
        return self._drivers.browser(self.id, account.address, account.reach, account.certificate, self.cancel)

    def panel(self) -> Panel:
        if self._panel is None:
            if not self.account.panel or not self.account.panel_primer:
                raise PanelError(
                    f"the account {self.account.name} has no control panel that High Shelf knows",
                    hint="give the account its panel's address, or use a release that needs no database",
                )
            password = self._store.secret(f"account/{self.account.name}/panel") or self._store.secret(
                f"account/{self.account.name}/transfer"
            )
            primer = self._drivers.panel_primer(self.account.panel_primer)
            kind = "postgresql" if self.plan.database == "postgresql" else "mariadb"
            told = lambda text: self.say(f"panel: {text}")  # noqa: E731
            self._panel = self._drivers.panel(primer, self.account, password, kind=kind, told=told)
        return self._panel

    def helper(self) -> Helper:
        if self._helper is None:
            if not self.account.helper:
                raise FaultError(
                    "this account does not allow the helper", hint="allow it with `highshelf account change`"
                )
            self._helper = self._drivers.helper(
                self.files(),
                self._drivers.fetch((self.account.address,), self.account.reach, self.account.certificate),
                self.place.root,
                self.account.address,
                helper_reaches(self),
                self.outstanding,
                self.gone,
            )
        return self._helper

    def php(self) -> HostPhp:
        shell = self.shell()
        if shell is not None and self.way.name.startswith("shell"):
            return self._drivers.php_over_shell(shell)
        path = posixpath.join(holding_folder(self), "login.json")
        return self._drivers.php_through_helper(self.helper(), self.files(), path, self.outstanding, self.gone)

    def archive(self, form: str) -> BinaryIO:
        path: Path = self._store.shelf.archive(self._release.sha256, form, self._release.format)
        return path.open("rb")

    def redact(self, text: str) -> str:
        return redactor(self._all_secrets())(text)

    def _all_secrets(self) -> list[str]:
        about = self._store.values(self.plan.undoes).secrets() if self.plan.undoes else []
        own = [self.secret("admin"), self.secret("database")] if self.plan.installation else []
        return [*self.values.secrets(), *about, *(s for s in own if s), *self._account_secrets]

    def say(self, text: str, **data: Any) -> None:
        self._store.event(self.id, self.redact(text), leg=self._leg, data=data)

    def evidence(self, what: str, snapshot: Snapshot) -> None:
        """Keep what was seen, without secrets, where the service can find it."""
        folder = self._store.folder / "evidence" / self.id
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        write_private(folder / f"{what}.json", snapshot.redacted(self.redact).to_json())

    def picture(self, what: str) -> None:
        talk = self.browser()
        if not talk.live:
            return
        try:
            made = talk.picture(self._all_secrets())
        except BrowserError:
            return
        folder = self._store.folder / "evidence" / self.id
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        write_private(folder / f"{what}.png", made)

    def remark(self, what: str, facts: dict[str, Any]) -> None:
        """Keep what was done about something that was seen, beside it; without secrets."""
        folder = self._store.folder / "evidence" / self.id
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        write_private(folder / f"{what}.move.json", self.redact(json.dumps(facts)))

    def outstanding(self, path: str) -> None:
        self.journal.outstanding(path)

    def gone(self, path: str) -> None:
        self.journal.gone(path)

    def leftovers(self) -> list[str]:
        return self.journal.leftovers()

    def keep_stand(self, stand: Stand) -> None:
        self._store.evidence.keep_stand(self.id, stand)

    def stand(self) -> Stand | None:
        return self._store.evidence.stand(self.id)

    @contextmanager
    def earlier(self, leg: str) -> Iterator[Workbench]:
        made = Workbench(self._store, self._drivers, self._connections, self.plan.undoes, leg, self.cancel)
        # What is told is told of the job that runs.
        made.say = self.say  # type: ignore[method-assign]
        with made:
            yield made

    def earlier_acts(self) -> list[ActRow]:
        return self._store.journal(self.plan.undoes).newest_first()

    def earlier_facts(self, leg: str, act: str) -> dict[str, Any]:
        return self._store.journal(self.plan.undoes).facts(leg, act)

    def installed(self) -> dict[str, Any]:
        row = self._store.get(InstallationRow, self.plan.installation, "installation")
        return {
            "admin_name": row.admin_name,
            "login_address": row.login_address,
            "title": row.facts.get("title", ""),
            "changed_files": [change["file"] for change in row.facts.get("changes", ())],
        }

    def secret(self, name: Literal["admin", "database"]) -> str:
        return self._store.secret(f"installation/{self.plan.installation}/{name}")

    def rechecked(self, facts: dict[str, Any]) -> None:
        with self._store.together():
            row = self._store.get(InstallationRow, self.plan.installation, "installation")
            wrong = sum(one["state"] == "wrong" for one in facts["seen"])
            told = {**facts, "wrong": wrong, "job": self.id, "at": now().isoformat()}
            self._store.change(InstallationRow, row.id, facts={**row.facts, "rechecked": told})

    def taken_back(self, facts: dict[str, Any]) -> None:
        """It stands no more; what it had replaced stands again."""
        with self._store.together():
            row = self._store.get(InstallationRow, self.plan.installation, "installation")
            told = {**facts, "job": self.id, "at": now().isoformat()}
            self._store.change(InstallationRow, row.id, facts={**row.facts, "taken_back": told})
            for old in self._store.installations(row.account):
                if old.facts.get("replaced_by") == row.id:
                    kept = {n: v for n, v in old.facts.items() if n != "replaced_by"}
                    self._store.change(InstallationRow, old.id, facts=kept)
            if not facts.get("kept_in"):
                # Whoever can be brought back keeps its licence.
                hand_over(self._store, row.id)

    def stands_again(self) -> None:
        """It is back; what it had replaced is replaced by it again."""
        with self._store.together():
            row = self._store.get(InstallationRow, self.plan.installation, "installation")
            facts = {n: v for n, v in row.facts.items() if n != "taken_back"}
            self._store.change(InstallationRow, row.id, facts=facts)
            replaces = bool(self.earlier_facts("place", "swap").get("kept"))
            for old in self._store.standing(row.account) if replaces else []:
                if old.id != row.id and old.target == row.target:
                    self._store.change(InstallationRow, old.id, facts={**old.facts, "replaced_by": row.id})

    def register(self, facts: dict[str, Any]) -> str:
        """Write the installation down; a second call for the same job gives the same number."""
        job = self._store.get(JobRow, self.id, "job")
        if job.installation:
            return job.installation
        number = new_id()
        told = [{"leg": a.leg, "act": a.name, "told": a.told} for a in reversed(self.journal.newest_first())]
        once = {
            n.removeprefix("once-label."): self.redact(v)
            for n, v in self.values.all().items()
            if n.startswith("once-label.")
        }
        more = {
            "acts": told,
            "once": once,
            "php": self.values.get("host.php"),
            "database_version": self.values.get("database.version"),
            "database_host": told_server(self.values.get("database.host"), self.values.get("database.port")),
            "published_login": self.values.get("admin.published") == "yes",
            "installer_kept": self.values.get("tidy.kept"),
            "open_places": (self.values.get("places.open") or "").split(),
            "asked_files": (self.values.get("proofs.kept") or "").split("\n") if self.values.get("proofs.kept") else [],
            "renamed": dict(p.split("\t") for p in (self.values.get("tidy.renamed") or "").splitlines()),
            "shown": [p for p in (self.values.get("tidy.shown") or "").split("\n") if p and p != "/"],
            "lists": "/" in (self.values.get("tidy.shown") or "").split("\n"),
            "prefix": self.values.get("database.prefix"),
            "beside": (self.place.beside_root or "/") if self.place.split else "",
        }
        nobody = self.values.get("admin.none") == "yes"
        if nobody:
            more["no_administrator"] = True
        row = InstallationRow(
            id=number,
            job_id=self.id,
            account=self.account.name,
            release=self._release.sha256,
            application=self._release.name,
            version=self._release.version,
            address=self.place.address,
            login_address=facts["door"],
            target=self.place.base,
            admin_name="" if nobody else self.values.get("admin.name") or "",
            database=self.values.get("database.name") or "" if self.plan.database != "none" else "",
            database_user=self.values.get("database.user") or "" if self.plan.database != "none" else "",
            facts={**facts, **more},
        )
        if not nobody:
            self._store.set_secret(f"installation/{number}/admin", self.values.get("admin.password") or "")
        if self.plan.database != "none":
            self._store.set_secret(f"installation/{number}/database", self.values.get("database.password") or "")
        for key in once:
            self._store.set_secret(f"installation/{number}/once.{key}", self.values.get(f"once.{key}") or "")
        with self._store.together():
            for old in self._store.standing(self.account.name) if self.plan.if_there == "replace" else ():
                if old.target == row.target and old.id != number:
                    # The job was told to take its place: what the books have of it stands nowhere any more.
                    self._store.change(InstallationRow, old.id, facts={**old.facts, "replaced_by": number})
            self._store.add(row)
            self._store.change(JobRow, self.id, installation=number)
        return number

    def known_database(self) -> dict[str, str]:
        return known_database(self._store, self.id, self.plan)

    def book_database(self, facts: dict[str, Any]) -> str:
        """Write the job's database down; a second call for the same job gives the same number."""
        name = self.values.get("database.name") or ""
        known = next((row.id for row in self._store.databases(self.account.name) if row.name == name), "")
        if known:
            return known
        user, host, port = (self.values.get(f"database.{n}") or "" for n in ("user", "host", "port"))
        created = self.journal.facts("database", "create-database")
        row = DatabaseRow(
            id=new_id(),
            account=self.account.name,
            kind=self.plan.database,
            made_by=self.id if created and not created.get("by_hand") else "",
            facts={**facts, "at": now().isoformat()},
            name=name,
            user=user,
            host=host,
            port=port,
        )
        with self._store.together():
            self._store.add(row)
            self._store.set_secret(f"database/{row.id}/password", self.values.get("database.password") or "")
        return row.id

    def note_database(self, facts: dict[str, Any]) -> None:
        what, _, number = self.plan.books.partition("/")
        if what == "database" and self._store.find(DatabaseRow, number) is not None:
            self._store.change(DatabaseRow, number, facts={**facts, "at": now().isoformat()})

    def unbook_database(self) -> int:
        """Out of the books; returns how many secrets have left the strongbox."""
        number = self.plan.books.partition("/")[2]
        with self._store.together():
            row = self._store.find(DatabaseRow, number)
            dropped = self._store.drop_secrets(f"database/{number}/")
            if row is not None and row.made_by:
                self._store.drop_values(row.made_by)
            self._store.delete(DatabaseRow, number)
        return dropped

    def dump(self) -> Dump:
        row = self._store.get(DumpRow, self.plan.dump, "dump")
        return Dump(row.name, row.insists)

    def dump_lines(self, dump: Dump) -> Iterator[str]:
        row = self._store.get(DumpRow, self.plan.dump, "dump")
        return self._drivers.dump_lines(self._store.dumps.path(row.id), row.encoding)

    def dump_writer(self) -> AbstractContextManager[DumpSink]:
        return self._store.dumps.writer(self.plan.dump)

    def keep_dump(self, facts: dict[str, Any]) -> None:
        """Write down what was taken; a second call changes nothing."""
        if self._store.find(DumpRow, self.plan.dump) is None:
            self._store.add(taken_dump(self._store, self.id, self.plan, facts))

    def drop_dump(self) -> None:
        self._store.dumps.drop(self.plan.dump)
        self._store.delete(DumpRow, self.plan.dump)
