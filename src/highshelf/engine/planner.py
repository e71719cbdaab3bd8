"""Make a plan: looking at the account without changing it (a probe comes and goes)."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Callable, Collection, Mapping
from dataclasses import asdict, dataclass, replace
from datetime import UTC, timedelta
from typing import Any
from urllib.parse import urlsplit

from highshelf.core.account import Account
from highshelf.core.database.dumps import told_of_dumps
from highshelf.core.errors import (
    ArchiveError,
    HighShelfError,
    InputError,
    NotFoundError,
    TargetError,
)
from highshelf.core.legs.trees import entries_or_none
from highshelf.core.nearest import meant
from highshelf.core.places import Place, place_at
from highshelf.core.placing.estimate import Line
from highshelf.core.placing.packages import AUTOLOAD, are_missing
from highshelf.core.placing.swapping import IfThere, tree_of
from highshelf.core.placing.target import Target, describe_target, look_at
from highshelf.core.placing.ways import Ground, ordered_ways
from highshelf.core.placing.web import Beside, Showing, brought, rest_of, ways_to_show
from highshelf.core.plan import Plan, planned_acts
from highshelf.core.plan_notes import notes_of, of_database_name, of_survey, of_what_is_there, unmet
from highshelf.core.ports import HostFiles, Shell
from highshelf.core.primers.models import ApplicationPrimer
from highshelf.core.primers.recognise import recognise_application
from highshelf.core.release.findings import Findings
from highshelf.core.release.matching import forbidding, match
from highshelf.core.survey.neighbours import application_at
from highshelf.core.survey.probes import can_hold_beside
from highshelf.core.value_rules import check_values
from highshelf.core.values import ASK, CATALOGUE, about, check_settings, is_secret
from highshelf.core.walk.browsing import told_of_scripts
from highshelf.engine.bench import Drivers, account_of, at_site, findings_of
from highshelf.engine.connections import Connections
from highshelf.engine.panels import moves_in_panel, name_like, switches_of, told_switches, unpacking_panel
from highshelf.engine.showing import beside_of, fits, free_beside, warnings_of, where_beside
from highshelf.store.licences import is_free, licences_for
from highshelf.store.store import Store, new_id
from highshelf.store.tables import AccountRow, PlanRow, ReleaseRow, now

TOOLS = ("unzip", "tar", "php", "sha256sum", "xz", "zstd", "gzip", "bzip2", "curl", "wget", "composer")


@dataclass(frozen=True)
class _Seen:
    """What a plan depends on: the target, the shell's tools, whether files can wait beside the document root."""

    target: Target
    tools: set[str]
    beside: bool
    rtt_seconds: float | None = None
    names_beside: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Wish:
    """What is to go there, and what is to become of what stands there."""

    if_there: IfThere = ""
    release: str = ""
    paths: frozenset[str] = frozenset()


NOTHING = Wish()
Look = Callable[[Account, Place, Wish], _Seen]
GLANCE_SECONDS = 20.0
# What a check found of PHP is believed for so long; a way that it does not hold for gives place to the next anyhow.
FRESH = timedelta(hours=1)
# Said instead of a primer's name: do without, even if one fits.
NO_PRIMER = "none"


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
        self._seen: dict[tuple[Account, Place, Wish], tuple[float, _Seen | HighShelfError]] = {}
        self._lock = threading.Lock()

    def kept(self, look: Look) -> Look:
        def cached(account: Account, place: Place, wish: Wish) -> _Seen:
            # The first look pins the server's identity: the account is the same one all the same.
            key = (replace(account, fingerprint=""), place, replace(wish, paths=frozenset()))
            with self._lock:
                fresh = self._clock() - GLANCE_SECONDS
                self._seen = {k: v for k, v in self._seen.items() if v[0] > fresh}
                known = self._seen.get(key)
            found = known[1] if known is not None else self._try(look, account, place, wish)
            with self._lock:
                self._seen.setdefault(key, (self._clock(), found))
            if isinstance(found, HighShelfError):
                raise found
            return found

        return cached

    def _try(self, look: Look, account: Account, place: Place, wish: Wish) -> _Seen | HighShelfError:
        try:
            return look(account, place, wish)
        except HighShelfError as fault:
            return fault


class Planner:
    """Plans and checks. Opens a connection for each call and closes it."""

    def __init__(self, store: Store, drivers: Drivers, connections: Connections) -> None:
        self._store, self._drivers, self._connections = store, drivers, connections
        self._glances = Glances()

    def _account(self, name: str, site: str) -> Account:
        return at_site(self._store, account_of(self._store.get(AccountRow, name, "account")), site)

    def _look(self, account: Account, place: Place, wish: Wish) -> _Seen:
        """Log in once and see what a plan depends on; pins the server's identity when none is known yet."""
        connected = self._connections.open(account)
        try:
            if not account.root:
                hint = f"`highshelf account check {account.name}` looks for it"
                raise TargetError(f"the document root of {account.name} is not known yet", hint=hint)
            if connected.files.stat(account.root) is None:
                hint = f"`highshelf account check {account.name}` lists what is"
                raise TargetError(f"the document root {account.root} is not there", hint=hint)
            target = look(connected.files, place, wish)
            # In a folder that another site shows, files would wait in public.
            row = self._store.get(AccountRow, account.name, "account")
            free = beside_of(row, self._roots(account.name), place).free
            beside = free and can_hold_beside(connected.files, account.root)
            names = (
                frozenset(e.name for e in entries_or_none(connected.files, place.beside_root) or [])
                if beside
                else frozenset()
            )
            seen = _Seen(target, find_tools(connected.shell), beside, _round_trip(connected.files, account.root), names)
        finally:
            connected.close()
        if not account.fingerprint and connected.fingerprint:
            self._store.change(AccountRow, account.name, fingerprint=connected.fingerprint)
        return seen

    def preview(self, account_name: str, release_ref: str, **wishes: Any) -> Preview:
        """The plan as it would be, for somebody who is still typing: kept nowhere, and the host is not asked twice a minute.

        Raises:
            NotFoundError: no such account or release. Everything else that forbids the plan is told in the preview.
        """
        account = self._account(account_name, wishes.get("site", ""))
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
        site: str = "",
        database: str = "",
        primer: str = "",
        way: str = "",
        if_there: IfThere = "",
        configure: str = "",
    ) -> PlanRow:
        """Look at the target and say what would be done. Secret settings go to the strongbox, under the plan's id.

        Raises:
            InputError: settings that cannot be; NotFoundError: no such account or release.
            TargetError: what stands at the target forbids it; TransferError and its kin: the account cannot be reached.
        """
        plan = self._plan(
            account_name,
            release_ref,
            self._look,
            at=at,
            site=site,
            settings=settings,
            database=database,
            primer=primer,
            way=way,
            if_there=if_there,
            configure=configure,
        )
        plan_id = new_id()
        for name, value in settings.items():
            if name not in plan.settings and name in CATALOGUE:
                self._store.set_secret(f"plan/{plan_id}/{name}", value)
        if fields := {n: v for n, v in settings.items() if n not in plan.settings and n not in CATALOGUE}:
            self._store.set_secret(f"plan/{plan_id}/fields", json.dumps(fields))
        return self._store.add(PlanRow(id=plan_id, account=plan.account, release=plan.release, body=plan.to_dict()))

    def _plan(
        self,
        account_name: str,
        release_ref: str,
        look: Look,
        *,
        at: str,
        settings: Mapping[str, str],
        site: str = "",
        database: str = "",
        primer: str = "",
        way: str = "",
        if_there: IfThere = "",
        configure: str = "",
    ) -> Plan:
        """The plan; secret settings are not in it."""
        check_settings(dict(settings))
        account = self._account(account_name, site)
        release = find_release(self._store, release_ref)
        if fault := self._store.shelf.fault(release.sha256, release.size_bytes):
            raise ArchiveError(
                f"{release.name} {release.version} cannot be used: {fault}",
                hint="take it off the shelf and check it in again from where it came from",
            )
        findings = findings_of(release)
        check_values(settings, findings.fields)
        by_sample = _by_sample(configure, findings)
        place = place_at(account.root, account.address, at)
        application, faulty = self._application_primer(primer, release)
        paths = self._store.shelf.contents(release.sha256).paths()
        row = self._store.get(AccountRow, account_name, "account")
        packages = _packages(application, paths)
        beside = beside_of(row, self._roots(account_name), place)
        showing, seen, taken = self._showing(account, row, release, place, beside, Wish(if_there), packages, look)
        web = findings.web_folder if showing != "root" else ""
        below = findings.web_folder if showing == "root" else ""
        _check_packages(packages, seen.tools)
        apart = free_beside(place, release.name, seen.names_beside) if showing == "links" else ""
        kind = _database_kind(database, findings, application)
        ways = ordered_ways(self._ways(release, account, seen, row), way)
        chosen = ways[0]
        if not place.folder and row.facts.get("site.refused"):
            _check_names(row.facts["site.refused"], self._store.shelf.contents(release.sha256).top_names())
        warnings = notes_of(account, findings, kind) + of_survey(row.facts, account.name)
        warnings += of_what_is_there(seen.target, seen.beside, if_there, row.facts)
        warnings += of_database_name(findings, kind, name_like(self._drivers, account, findings))
        switches = switches_of(self._store, self._drivers, account, place.address)
        needs = match(findings, row.facts, unpacked_bytes=release.unpacked_bytes, database=kind)
        forbids = forbidding(needs, switches=bool(switches))
        warnings += unmet([line for line in needs if line not in forbids], told_switches(switches) if switches else "")
        asked = chosen.name.startswith("shell") or (
            account.helper and (row.facts.get("php.user") or {}).get("same") is not False
        )
        sql = [p for p in paths if p.lower().endswith(".sql")]
        warnings += told_of_scripts(findings.javascript, self._drivers.browser_missing())
        warnings += told_of_dumps(findings.dumps, findings.dump_kinds(), kind, sql, asked=asked)
        warnings += warnings_of(showing, findings.web_folder, place, beside, taken)
        if are_missing(paths) and not packages:
            warnings.append(
                "the release names packages (composer.lock) and does not bring them (vendor/): a primer with `packages` lets the "
                "package manager of PHP bring them, on accounts whose shell has it"
            )
        warnings += [f"the primer {name} has faults and was not looked at: `highshelf primer check`" for name in faulty]
        licence, told = self._licence(release, account.name, settings)
        warnings += told
        open_settings = {n: v for n, v in settings.items() if v == ASK or not is_secret(n)}
        return Plan(
            account=account.name,
            release=release.sha256,
            application=f"{release.name} {release.version}".strip(),
            place="/" + place.folder,
            address=place.address + (below + "/" if below else ""),
            below=below,
            target=place.target,
            fingerprint=seen.target.fingerprint,
            way=asdict(chosen),
            ways=tuple(asdict(w) for w in ways),
            pace_bytes=row.pace_kb * 1000,
            if_there=if_there,
            configure=by_sample,
            tunes=row.facts.get("web.user_ini") is not False,
            **switches,
            php=_known_php(row),
            web=web,
            apart=apart,
            split=showing == "split",
            packages=packages,
            shown=(row.facts.get("site.root"), row.facts.get("site.address")) == (account.root, account.address),
            seen_until=_seen_until(row),
            published=_published(release),
            holding_beside=seen.beside,
            database=kind,
            acts=planned_acts(
                target=place.target,
                way=chosen,
                files=release.files,
                size_bytes=release.unpacked_bytes,
                database=kind,
                placeholders=seen.target.placeholders,
                installers=findings.installer_entries() or list(findings.setting_up),
                aside=[p for p in seen.target.swap.aside if p not in seen.target.placeholders],
                web=web,
                apart=apart,
                beside=where_beside(place) if showing == "split" else "",
                rest=rest_of(paths, web, packages),
                packages=packages,
                configure=by_sample,
                samples=findings.samples,
                panel_moves=moves_in_panel(self._store, self._drivers, account, kind),
            ),
            warnings=tuple(warnings),
            forbids=tuple(unmet(forbids)),
            settings=open_settings,
            primer=application.name if application else "",
            touches=seen.target.swap.aside,
            there=describe_target(place.target, seen.target),
            asks=tuple(_asks(account, kind, settings)),
            site="" if site == "" else account.address,
            licence=licence,
        )

    def _showing(
        self,
        account: Account,
        row: AccountRow,
        release: ReleaseRow,
        place: Place,
        beside: Beside,
        wish: Wish,
        packages: str,
        look: Look,
    ) -> tuple[Showing, _Seen, set[str]]:
        """How the address will show the web folder, what was seen, and which names of the release's rest are taken beside it."""
        web_folder, paths = findings_of(release).web_folder, self._store.shelf.contents(release.sha256).paths()
        rest, taken = set(rest_of(paths, web_folder, packages)) if web_folder else set(), set[str]()
        may_link = account.transfer.kind == "sftp" or account.helper
        open_ways = ways_to_show(
            web_folder, paths, row.facts, wish.if_there, beside, at_root=not place.folder, may_link=may_link
        )
        for showing in open_ways:
            comes = frozenset(brought(paths, web_folder, showing, packages))
            seen = look(account, place, replace(wish, release=release.sha256, paths=comes))
            taken = taken or (rest & seen.names_beside if showing == "split" else set())
            if fits(showing, beside=seen.beside, taken=taken):
                return showing, seen, taken
        raise AssertionError("the last of them always fits")

    def _roots(self, account: str) -> list[str]:
        """Every document root of the account, "" where it is not known."""
        own = self._store.get(AccountRow, account, "account").root
        return [own, *(site.root for site in self._store.sites(account))]

    def _ways(self, release: ReleaseRow, account: Account, seen: _Seen, row: AccountRow) -> Ground:
        """What the choice of a way goes by."""
        facts = row.facts
        rate = row.limits.get("up_bytes_per_second")
        if row.pace_kb:
            rate = min(rate or row.pace_kb * 1000, row.pace_kb * 1000)
        extensions = facts.get("php.extensions")
        return Ground(
            archive_format="tar" if release.format == "tar" else "zip",
            archive_bytes=release.size_bytes,
            tools=seen.tools,
            helper=account.helper,
            forms=self._store.shelf.forms(release.sha256),
            same_user=(facts.get("php.user") or {}).get("same"),
            zip_there=None if extensions is None else "zip" in [str(e).lower() for e in extensions],
            zlib_there=None if extensions is None else "zlib" in [str(e).lower() for e in extensions],
            files=release.files,
            unpacked_bytes=release.unpacked_bytes,
            published=_published(release),
            panel=unpacking_panel(self._drivers, account),
            kind=account.transfer.kind,
            connections=int(row.limits.get("connections") or 0),
            line=Line(seen.rtt_seconds, rate),
        )

    def _licence(self, release: ReleaseRow, account: str, settings: Mapping[str, str]) -> tuple[str, list[str]]:
        """The filed licence key that the job will take ("" for none), and what is to be told of it."""
        filed = licences_for(self._store, release.name, account)
        if not filed or "licence.key" in settings:
            return "", []
        free = next((row for row in filed if is_free(row)), None)
        if free is not None:
            return free.id, []
        users = ", ".join(dict.fromkeys(u for row in filed for u in row.used_by))
        return "", [
            f"every licence key that is filed for {release.name} on {account} is used already ({users}): "
            "the job asks for one when the installer does"
        ]

    def _application_primer(self, wanted: str, release: ReleaseRow) -> tuple[ApplicationPrimer | None, list[str]]:
        """The primer that was asked for, none when that was asked for, else the one that the release's files fit."""
        if wanted == NO_PRIMER:
            return None, []
        if wanted:
            return self._drivers.application_primer(wanted), []
        primers, faulty = self._drivers.application_primers()
        paths = self._store.shelf.contents(release.sha256).paths() if primers else {}
        return recognise_application(paths, primers), faulty


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
    return [{"value": n, "text": about(n)} for n in asked]


def _packages(primer: ApplicationPrimer | None, paths: Collection[str]) -> str:
    """The least version of the package manager that is wanted; "" when the primer does not say, or the release brings them."""
    wanted = primer.packages if primer is not None else None
    return wanted.at_least if wanted is not None and AUTOLOAD not in paths else ""


def _check_packages(wanted: str, tools: Collection[str]) -> None:
    """Raises TargetError where nobody can bring the packages."""
    if wanted and "composer" not in tools:
        has = "the account's shell does not have it" if tools else "the account has no shell"
        raise TargetError(
            f"the release does not bring its packages, the package manager of PHP has to (composer {wanted} or newer), and {has}",
            hint="take a release that brings them (with vendor/ in it), or an account with a shell that has composer",
        )


def _published(release: ReleaseRow) -> str:
    """Where anybody can fetch the archive as it is; one that hosts cannot unpack themselves is no use there.

    What stands before the host's name or behind a question mark may be what signs in: such an address stays with us.
    """
    address = str(release.origin.get("address") or "")
    parts = urlsplit(address)
    secret = bool(parts.query or parts.username or parts.password)
    return address if release.format in ("zip", "tar") and not secret else ""


def _known_php(row: AccountRow) -> str:
    """PHP's version, when the account was checked lately and everything that the helper needs was seen then."""
    if _seen_until(row) < now().timestamp():
        return ""
    fits = (row.facts.get("php.user") or {}).get("same") is True and "php.extensions" in row.facts
    return str(row.facts.get("php.version") or "") if fits else ""


def _seen_until(row: AccountRow) -> float:
    """Until when the account's last check is believed, seconds since 1970; 0 when there was none."""
    checked = row.checked_at
    if checked is None:
        return 0.0
    return ((checked if checked.tzinfo else checked.replace(tzinfo=UTC)) + FRESH).timestamp()


def _by_sample(configure: str, findings: Findings) -> str:
    """Whether the configuration comes from a sample. Raises InputError where the release has none."""
    if configure != "sample":
        return ""
    if not findings.samples:
        raise InputError(
            "this release has no sample of a configuration",
            hint="leave --configure out: the installer writes the configuration itself, or asks for a file",
        )
    return "sample"


def _check_names(refused: Collection[str], wanted: Collection[str]) -> None:
    """Raises TargetError when the release brings a folder that the account's server lets nobody make there."""
    if both := sorted(set(refused) & set(wanted)):
        raise TargetError(
            f"the server of this account refuses folders called {' and '.join(both)} where the login lands, and the release brings them",
            hint="choose a folder below the document root, or ask the host for a login that lands above it",
        )


def _round_trip(files: HostFiles, path: str) -> float:
    """Seconds of the shortest of a few small questions."""
    found = []
    for _ in range(3):
        begun = time.monotonic()
        files.stat(path)
        found.append(time.monotonic() - begun)
    return min(found)


def look(files: HostFiles, place: Place, wish: Wish = NOTHING) -> Target:
    """What stands at the place, and what a swap would move. Raises TargetError."""
    return look_at(
        place,
        lambda path: entries_or_none(files, path),
        files.read,
        tree_of(wish.paths),
        wish.if_there,
        known=lambda entries: application_at(files, place.target, list(entries)),
    )


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


def find_release(store: Store, ref: str) -> ReleaseRow:
    """A release by the start of its SHA-256, by `name`, or by `name-version` (the newest checked in).

    Raises:
        NotFoundError.
    """
    known = store.columns(ReleaseRow, "sha256", "name", "version", "file_name", "checked_in_at")
    rows = sorted(known, key=lambda r: r.checked_in_at, reverse=True)
    exactly = (r.sha256 for r in rows if r.sha256 == ref or (len(ref) >= 6 and r.sha256.startswith(ref)))
    called = (
        r.sha256 for r in rows if ref.lower() in (r.name.lower(), f"{r.name}-{r.version}".lower(), r.file_name.lower())
    )
    if sha256 := next(exactly, "") or next(called, ""):
        return store.get(ReleaseRow, sha256, "release")
    near = meant(ref, (name for r in rows for name in (r.name, f"{r.name}-{r.version}")))
    raise NotFoundError(
        f"there is no release {ref} on the shelf",
        hint=f"{near}check it in with `highshelf release check-in FILE`; `highshelf release list` shows what is there",
    )
