"""Make a plan, check an account: looking at the account without changing it (a probe comes and goes)."""

from __future__ import annotations

import posixpath
import secrets
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from highshelf.core.account import Account
from highshelf.core.errors import (
    HighShelfError,
    InputError,
    MissingFileError,
    NotFoundError,
    TargetError,
    TransferError,
)
from highshelf.core.legs.trees import entries_or_none
from highshelf.core.pages.reader import read
from highshelf.core.places import Place, place_at
from highshelf.core.placing.target import Target, describe_target, judge_target
from highshelf.core.placing.ways import choose_way
from highshelf.core.plan import Plan, planned_acts
from highshelf.core.ports import HostFiles, Shell
from highshelf.core.primers.models import ApplicationPrimer
from highshelf.core.primers.recognise import recognise_panel
from highshelf.core.prove.root import prove_root
from highshelf.core.release.findings import Findings
from highshelf.core.values import ASK, CATALOGUE, check_settings
from highshelf.engine.bench import Connected, Drivers, account_of, findings_of
from highshelf.store.store import Store, new_id
from highshelf.store.tables import AccountRow, PlanRow, ReleaseRow, now

NO_SHELL = {"sftp": "none (a command was tried)", "ftps": "none over FTPS", "ftp": "none over FTP"}
TOOLS = ("unzip", "tar", "php", "sha256sum", "xz", "bzip2")


@dataclass(frozen=True)
class _Seen:
    """What a plan depends on: the target, the shell's tools, whether files can wait beside the document root."""

    target: Target
    tools: set[str]
    beside: bool


Look = Callable[[Account, Place], _Seen]
GLANCE_SECONDS = 20.0


@dataclass(frozen=True)
class Preview:
    """Where it would go, and either the plan or what forbids it."""

    address: str
    target: str
    plan: Plan | None
    fault: HighShelfError | None


class Glances:
    """What was seen a moment ago, refusals too: whoever types does not log in again with every letter."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._seen: dict[tuple[Account, Place], tuple[float, _Seen | HighShelfError]] = {}
        self._lock = threading.Lock()

    def kept(self, look: Look) -> Look:
        def cached(account: Account, place: Place) -> _Seen:
            # The first look pins the server's identity: the account is the same one all the same.
            key = (replace(account, fingerprint=""), place)
            with self._lock:
                fresh = self._clock() - GLANCE_SECONDS
                self._seen = {k: v for k, v in self._seen.items() if v[0] > fresh}
                known = self._seen.get(key)
            found = known[1] if known is not None else self._try(look, account, place)
            with self._lock:
                self._seen.setdefault(key, (self._clock(), found))
            if isinstance(found, HighShelfError):
                raise found
            return found

        return cached

    def _try(self, look: Look, account: Account, place: Place) -> _Seen | HighShelfError:
        try:
            return look(account, place)
        except HighShelfError as fault:
            return fault


class Planner:
    """Plans and checks. Opens a connection for each call and closes it."""

    def __init__(self, store: Store, drivers: Drivers) -> None:
        self._store, self._drivers = store, drivers
        self._glances = Glances()

    def connect(self, account: Account) -> Connected:
        ref = f"account/{account.name}"
        return self._drivers.connect(account, self._store.secret(f"{ref}/transfer"), self._store.secret(f"{ref}/key"))

    def check_account(self, name: str, *, accept_identity: bool = False) -> dict[str, Any]:
        """Log in, find the document root, prove that the address shows it, look for shell tools, sign in to the panel.

        The fingerprint seen is pinned. Returns the facts, each with how it was found out.
        """
        row = self._store.get(AccountRow, name, "account")
        if accept_identity:
            row = self._store.change(AccountRow, name, fingerprint="")
        account = account_of(row)
        facts: dict[str, Any] = {}
        connected = self.connect(account)
        try:
            facts["transfer"] = f"{account.transfer.address} (logged in)"
            facts["identity"] = connected.fingerprint or "none: plain FTP has no identity and no encryption"
            self._check_root(account, connected.files)
            facts["root"] = f"{account.root} (proven: a file put there was fetched at {account.address})"
            tools = find_tools(connected.shell)
            facts["shell"] = "tools: " + ", ".join(sorted(tools)) if tools else NO_SHELL[account.transfer.kind]
            facts["beside"] = (
                "files can wait beside the document root"
                if can_hold_beside(connected.files, account.root)
                else "files wait inside the document root, denied to the web"
            )
        finally:
            connected.files.close()
        if account.panel:
            facts["panel"] = self._check_panel(row, account)
        self._store.change(
            AccountRow, name, fingerprint=connected.fingerprint or row.fingerprint, facts=facts, checked_at=now()
        )
        return facts

    def _check_root(self, account: Account, files: HostFiles) -> None:
        names = [e.name for e in entries_or_none(files, "") or [] if e.kind == "folder"]
        if files.stat(account.root) is None:
            seen = ", ".join(names[:12]) or "no folders at all"
            raise TargetError(
                f"there is no document root {account.root} on this account", hint=f"the login sees: {seen}"
            )
        prove_root(files, self._drivers.fetch((account.address,), account.reach), account.root, account.address)

    def _check_panel(self, row: AccountRow, account: Account) -> str:
        name = account.panel_primer or self._recognise(account)
        if not name:
            return f"no primer fits the panel at {account.panel}: jobs will ask for the database"
        if not account.panel_primer:
            self._store.change(AccountRow, account.name, panel_primer=name)
        password = self._store.secret(f"account/{account.name}/panel") or self._store.secret(
            f"account/{account.name}/transfer"
        )
        panel = self._drivers.panel(self._drivers.panel_primer(name), account, password)
        count = len(panel.databases())
        return f"signed in at {account.panel} (primer {name}), {count} database{'s' if count != 1 else ''}"

    def _recognise(self, account: Account) -> str:
        page = read(self._drivers.fetch((account.panel,), "").get(account.panel))
        primer = recognise_panel(page, self._drivers.panel_primers())
        return primer.name if primer is not None else ""

    def _look(self, account: Account, place: Place) -> _Seen:
        """Log in once and see what a plan depends on; pins the server's identity when none is known yet."""
        connected = self.connect(account)
        try:
            if connected.files.stat(account.root) is None:
                hint = f"`highshelf account check {account.name}` lists what is"
                raise TargetError(f"the document root {account.root} is not there", hint=hint)
            target = look(connected.files, place)
            seen = _Seen(target, find_tools(connected.shell), can_hold_beside(connected.files, account.root))
        finally:
            connected.files.close()
        if not account.fingerprint and connected.fingerprint:
            self._store.change(AccountRow, account.name, fingerprint=connected.fingerprint)
        return seen

    def preview(self, account_name: str, release_ref: str, **wishes: Any) -> Preview:
        """The plan as it would be, for somebody who is still typing: kept nowhere, and the host is not asked twice a minute.

        Raises:
            NotFoundError: no such account or release. Everything else that forbids the plan is told in the preview.
        """
        account = account_of(self._store.get(AccountRow, account_name, "account"))
        find_release(self._store, release_ref)
        try:
            place = place_at(account.root, account.address, wishes["at"])
        except InputError as fault:
            return Preview("", "", None, fault)
        try:
            look = self._glances.kept(self._look)
            return Preview(place.address, place.target, self._plan(account_name, release_ref, look, **wishes), None)
        except HighShelfError as fault:
            return Preview(place.address, place.target, None, fault)

    def make_plan(
        self,
        account_name: str,
        release_ref: str,
        *,
        at: str,
        settings: Mapping[str, str],
        database: str = "",
        primer: str = "",
    ) -> PlanRow:
        """Look at the target and say what would be done. Secret settings go to the strongbox, under the plan's id.

        Raises:
            InputError: settings that cannot be; NotFoundError: no such account or release.
            TargetError: what stands at the target forbids it; TransferError and its kin: the account cannot be reached.
        """
        plan = self._plan(
            account_name, release_ref, self._look, at=at, settings=settings, database=database, primer=primer
        )
        plan_id = new_id()
        for name, value in settings.items():
            if name not in plan.settings:
                self._store.set_secret(f"plan/{plan_id}/{name}", value)
        return self._store.add(PlanRow(id=plan_id, account=plan.account, release=plan.release, body=plan.to_dict()))

    def _plan(
        self,
        account_name: str,
        release_ref: str,
        look: Look,
        *,
        at: str,
        settings: Mapping[str, str],
        database: str = "",
        primer: str = "",
    ) -> Plan:
        """The plan; secret settings are not in it."""
        check_settings(dict(settings))
        account = account_of(self._store.get(AccountRow, account_name, "account"))
        release = find_release(self._store, release_ref)
        findings = findings_of(release)
        place = place_at(account.root, account.address, at)
        application = self._drivers.application_primer(primer) if primer else None
        seen = look(account, place)
        kind = _database_kind(database, findings, application)
        way = choose_way("zip" if release.format == "zip" else "tar", seen.tools, helper=account.helper)
        warnings = _warnings(account, findings, kind)
        open_settings = {n: v for n, v in settings.items() if v == ASK or not CATALOGUE[n].secret}
        return Plan(
            account=account.name,
            release=release.sha256,
            application=f"{release.name} {release.version}".strip(),
            place="/" + place.folder,
            address=place.address,
            target=place.target,
            fingerprint=seen.target.fingerprint,
            way={"name": way.name, "archive": way.archive, "reason": way.reason},
            holding_beside=seen.beside,
            database=kind,
            acts=planned_acts(
                target=place.target,
                way=way,
                files=release.files,
                size_bytes=release.unpacked_bytes,
                database=kind,
                placeholders=seen.target.placeholders,
                installers=findings.installer_entries(),
            ),
            warnings=tuple(warnings),
            settings=open_settings,
            primer=primer,
            touches=seen.target.placeholders,
            there=describe_target(place.target, seen.target),
            asks=tuple(_asks(account, kind, settings)),
        )


def _database_kind(wanted: str, findings: Findings, primer: ApplicationPrimer | None) -> str:
    if wanted:
        return wanted
    if primer is not None and primer.database:
        return primer.database
    if "mariadb" in findings.databases:
        return "mariadb"
    return findings.databases[0] if findings.databases else "none"


def _asks(account: Account, kind: str, settings: Mapping[str, str]) -> list[dict[str, str]]:
    """What the job will ask, as far as it is known before the installer's pages are."""
    asked = [n for n, v in settings.items() if v == ASK]
    if kind != "none" and not (account.panel and account.panel_primer):
        asked += [n for n in ("database.name", "database.user", "database.password") if n not in asked]
    return [{"value": n, "text": CATALOGUE[n].about.partition(";")[0]} for n in asked]


def _warnings(account: Account, findings: Findings, kind: str) -> list[str]:
    found = []
    if account.transfer.kind == "ftp":
        found.append("plain FTP sends the login and every file in the clear; ask the host for FTPS or SFTP")
    if account.address.startswith("http://"):
        found.append("the address is not https: the administrator's password travels in the clear")
    if kind == "none":
        found.append("nothing in the release connects to a database; no database will be made unless you say which")
    if kind != "none" and not (account.panel and account.panel_primer):
        found.append(
            f"a database ({kind}) is wanted and no known panel can make it: make one by hand, the job asks for its name, user and password"
        )
    if not findings.has_php:
        found.append("the release holds no PHP files")
    if not account.email:
        found.append("the account has no e-mail address; if the installer wants one, the job will ask")
    return found


def look(files: HostFiles, place: Place) -> Target:
    """What stands at the place. Raises TargetError."""
    entries = entries_or_none(files, place.target)
    return judge_target(place.target, entries, lambda name: files.read(posixpath.join(place.target, name)))


def find_tools(shell: Shell | None) -> set[str]:
    """Tools the account's shell has; empty when it runs no commands (SFTP-only accounts answer with a sentence)."""
    if shell is None:
        return set()
    try:
        ran = shell.run(
            "for t in "
            + " ".join(TOOLS)
            + '; do command -v "$t" >/dev/null 2>&1 && echo "tool:$t"; done; echo tool:end',
            timeout_seconds=20,
        )
    except HighShelfError:
        return set()
    told = [line.removeprefix("tool:") for line in ran.output.splitlines() if line.startswith("tool:")]
    return set(told) - {"end"} if "end" in told and "sha256sum" in told else set()


def can_hold_beside(files: HostFiles, root: str) -> bool:
    """Whether a folder can be made beside the document root; tried with one that is removed at once."""
    path = posixpath.join(posixpath.dirname(root.rstrip("/")), f".hs-try-{secrets.token_hex(6)}")
    try:
        files.make_folder(path)
        files.rename(path, path + "-2")
        files.remove_folder(path + "-2")
    except (TransferError, MissingFileError):
        return False
    return True


def find_release(store: Store, ref: str) -> ReleaseRow:
    """A release by the start of its SHA-256, by `name`, or by `name-version` (the newest checked in).

    Raises:
        NotFoundError.
    """
    rows = sorted(store.all(ReleaseRow), key=lambda r: r.checked_in_at, reverse=True)
    for row in rows:
        if row.sha256 == ref or (len(ref) >= 6 and row.sha256.startswith(ref)):
            return row
    for row in rows:
        if ref.lower() in (row.name.lower(), f"{row.name}-{row.version}".lower(), row.file_name.lower()):
            return row
    raise NotFoundError(
        f"there is no release {ref} on the shelf",
        hint="check it in with `highshelf release check-in FILE`; `highshelf release list` shows what is there",
    )
