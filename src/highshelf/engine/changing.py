"""Settings of an installation, read and changed on the host: unlocked, changed, looked at, locked again; put back when the site breaks.

Rules:
1. What stood there is sealed before the first byte is written; a change that was cut off is put back by the next look.
2. The site and the administrator's login are looked at before and after; what worked has to work.
3. Secrets are never shown: a setting that looks like one has no value here.
"""

from __future__ import annotations

import base64
import re
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from highshelf.core.config.filling import read
from highshelf.core.config.formats import format_of
from highshelf.core.config.literals import Literal, put
from highshelf.core.config.writing import written
from highshelf.core.errors import (
    BrokenByChangeError,
    ConfigurationError,
    ConflictError,
    HighShelfError,
    InputError,
    NotFoundError,
)
from highshelf.core.legs.looking import STALE_SECONDS
from highshelf.core.legs.trees import write_unlocked
from highshelf.core.pages.reader import read as read_page
from highshelf.core.places import Place
from highshelf.core.prove.login import Door, sign_in
from highshelf.core.release.names import real_name
from highshelf.core.values import redactor
from highshelf.engine.bench import Drivers, account_of, at_site, findings_of
from highshelf.engine.connections import Connections
from highshelf.engine.sites import Probe, probing
from highshelf.store.store import Store
from highshelf.store.tables import AccountRow, InstallationRow, JobRow, PlanRow, ReleaseRow, now

MOST_BYTES, MOST_FILES = 400_000, 40
SECRET = re.compile(
    r"(?i)pass|pwd|pw$|secret|salt|token|key|(?:^|[._])word$|kennwort|wachtwoord|senha|haslo|dsn|database_url|credential|auth"
)
SECRET_VALUES = ("database.password", "database.dsn", "admin.password", "licence.key", "setup.password", "key")
# A host's cache of compiled sources looks at a changed file again after a while.
# Until then a page may still be made by the old one: that it is good says nothing, that it is bad says all.
SETTLE_TRIES, SETTLE_SECONDS = 4, 1.0


@dataclass(frozen=True)
class SettingsFile:
    """One configuration file on the host. `path` is as it lies in the installation; `hidden`: where secrets begin, by their first byte."""

    path: str
    format: str
    mode: int | None
    settings: tuple[Literal, ...]
    hidden: frozenset[int] = frozenset()


@dataclass(frozen=True)
class Changed:
    """What a change did: the file, the settings by name, and what was looked at."""

    file: str
    names: tuple[str, ...]
    seen: tuple[str, ...]


class Changer:
    """Every call opens a connection and closes it."""

    def __init__(self, store: Store, drivers: Drivers, connections: Connections) -> None:
        self._store, self._drivers, self._connections = store, drivers, connections

    def settings(self, number: str) -> list[SettingsFile]:
        """The configuration files that are known, with what stands in them; secrets without their value.

        Raises:
            NotFoundError; TransferError and its kin.
        """
        with self._open(number) as (row, place, ground):
            self._mend(row, ground)
            secrets = self._secrets(row)
            found = [self._file(place, ground, path, secrets) for path in self._known(row, place, ground)]
        return [one for one in found if one is not None and one.settings]

    def change(self, number: str, values: Mapping[str, str], file: str = "") -> Changed:
        """Set them, look at the site, and put everything back when something that worked does not any more.

        Raises:
            InputError, NotFoundError: no such file or setting, or several that could be meant. ConfigurationError: a value that the file
            cannot hold. ConflictError: a job is at work there. BrokenByChangeError: it was put back.
        """
        if not values:
            raise InputError("nothing is to be changed", hint="say NAME=VALUE; `installation settings` lists the names")
        with self._open(number) as (row, place, ground):
            self._free(row)
            self._mend(row, ground)
            path, old, chosen = self._chosen(row, place, ground, values, file)
            form = format_of(path, old)
            new = put(form, old, [(one, _meant(one, value, form.literals(old))) for one, value in chosen])
            names = tuple(one.name for one, _ in chosen)
            if new == old:
                return Changed(path, (), ("it stood there already",))
            before = self._before(row)
            where = place.path(path)
            entry = ground.files().stat(where)
            mode = entry.mode if entry is not None else None
            facts = {"at": now().isoformat(), "file": path, "path": where, "names": list(names), "mode": mode}
            self._note(row, facts, old)
            write_unlocked(ground.files(), where, new, None)
            seen, worse = self._settled(row, before)
            if worse:
                self._back(self._store.get(InstallationRow, number, "installation"), ground)
                # Some pages of errors show the login that they were refused with.
                told = redactor([*self._secrets(row), *values.values()])(worse)
                raise BrokenByChangeError(
                    f"{', '.join(names)} in {path}: {told}",
                    hint="it was put back, byte for byte; look at the value, or at what the application wants besides",
                )
            followed = self._keep(number, {one.value: value for one, value in chosen})
        return Changed(path, names, (*seen, *followed))

    def take_back(self, number: str) -> Changed:
        """Put back what the last change found. Raises ConflictError where there was none, or the file is another one since."""
        with self._open(number) as (row, _, ground):
            self._free(row)
            self._mend(row, ground)
            row = self._store.get(InstallationRow, number, "installation")
            made = list(row.facts.get("changes", []))
            if not made:
                raise ConflictError("nothing was changed here", hint="`installation change` changes a setting")
            last = made.pop()
            before = self._before(row)
            self._put_back(ground, last)
            seen, worse = self._settled(row, before)
            with self._store.together():
                self._store.change(InstallationRow, number, facts={**row.facts, "changes": made})
                self._books_back(number, last)
                self._store.drop_secret(last["before"])
        return Changed(last["file"], tuple(last["names"]), (*seen, *([worse] if worse else [])))

    # where it stands

    @contextmanager
    def _open(self, number: str) -> Iterator[tuple[InstallationRow, Place, Probe]]:
        row = self._store.get(InstallationRow, number, "installation")
        plan = self._store.get(PlanRow, self._store.get(JobRow, row.job_id, "job").plan_id, "plan").body
        account = account_of(self._store.get(AccountRow, row.account, "account"))
        account = at_site(self._store, account, plan.get("site", ""))
        place = Place(
            account.root,
            plan["place"].strip("/"),
            row.address,
            plan.get("web", ""),
            plan.get("apart", ""),
            plan.get("split", False),
            plan.get("below", ""),
        )
        with probing(self._store, self._drivers, self._connections, account) as ground:
            yield row, place, ground

    def _free(self, row: InstallationRow) -> None:
        for job in self._store.jobs_under_way(row.account):
            raise ConflictError(
                f"the job {job.id} is at work on {row.account}",
                hint=f"`highshelf job follow {job.id}`, and change it afterwards",
            )

    def _known(self, row: InstallationRow, place: Place, ground: Probe) -> list[str]:
        """Files that the job found to be configuration, and what the release's samples stand for."""
        told = (self._store.values(row.job_id).get("configuration.files") or "").split("\n")
        release = self._store.find(ReleaseRow, row.release)
        samples = [real_name(s) for s in findings_of(release).samples] if release is not None else []
        paths = [p for p in dict.fromkeys([*told, *samples]) if p][:MOST_FILES]
        return [p for p in paths if (e := ground.files().stat(place.path(p))) is not None and e.kind == "file"]

    def _secrets(self, row: InstallationRow) -> list[str]:
        """Every secret that is known of it, and of the job that made it."""
        filed = [self._store.secret(f"installation/{row.id}/{name}") for name in ("admin", "database")]
        filed += [self._store.secret(f"account/{row.account}/{name}") for name in ("transfer", "panel")]
        return [s for s in (*filed, *self._store.values(row.job_id).secrets()) if len(s) >= 6]

    def _file(self, place: Place, ground: Probe, path: str, secrets: Sequence[str]) -> SettingsFile | None:
        data = ground.files().read(place.path(path), MOST_BYTES)
        entry = ground.files().stat(place.path(path))
        try:
            form = format_of(path, data)
            found = form.literals(data)
            hidden = _hidden(found, secrets)
            return SettingsFile(path, form.name, entry.mode if entry else None, tuple(found), hidden)
        except ConfigurationError:
            return None

    def _chosen(
        self, row: InstallationRow, place: Place, ground: Probe, values: Mapping[str, str], file: str
    ) -> tuple[str, bytes, list[tuple[Literal, str]]]:
        """The file that has all of these settings, its bytes, and each setting with its value."""
        paths = [file.strip("/")] if file else self._known(row, place, ground)
        if file and (".." in file.split("/") or ground.files().stat(place.path(paths[0])) is None):
            raise NotFoundError(
                f"there is no {file} in the installation", hint="`installation settings` lists the files"
            )
        fits = []
        for path in paths:
            data = ground.files().read(place.path(path), MOST_BYTES)
            try:
                found = format_of(path, data).literals(data)
            except ConfigurationError:
                continue
            if all(_named(found, name) for name in values):
                fits.append((path, data, [(_only(found, name, path), value) for name, value in values.items()]))
        if not fits:
            raise NotFoundError(
                f"no configuration file has {', '.join(values)}",
                hint="`installation settings` lists files and settings",
            )
        if len(fits) > 1:
            raise InputError(
                f"several files have {', '.join(values)}: {', '.join(p for p, _, _ in fits)}",
                hint="say which with --file",
            )
        return fits[0]

    # looking

    def _look(self, row: InstallationRow) -> dict[str, str]:
        """What can be seen to work: the front page, the administrator's login; "" works, else why not."""
        found = {"front page": self._front(row)}
        password = self._store.secret(f"installation/{row.id}/admin")
        if row.login_address and row.admin_name and password:
            found["administrator's login"] = self._login(row, password)
        return found

    def _before(self, row: InstallationRow) -> dict[str, str]:
        """What works before a change. What seems not to may be a page that was made by a file which has been put back since."""
        found = self._look(row)
        if any(found.values()):
            time.sleep(STALE_SECONDS)
            found = self._look(row)
        return found

    def _front(self, row: InstallationRow) -> str:
        try:
            page = read_page(self._fetch(row).get(row.address))
        except HighShelfError as fault:
            return fault.message
        if page.status >= 400:
            return f"the front page answers with status {page.status}" + (f" ({page.title})" if page.title else "")
        return page.fatal or next(iter(page.php_faults), "") or ("the front page is empty" if not page.text else "")

    def _login(self, row: InstallationRow, password: str) -> str:
        try:
            attempt = sign_in(self._fetch(row), Door(row.login_address, ""), row.admin_name, password)
        except HighShelfError as fault:
            return fault.message
        return "" if attempt.inside else f"the administrator cannot sign in: {attempt.told}"

    def _fetch(self, row: InstallationRow) -> Any:
        plan = self._store.get(PlanRow, self._store.get(JobRow, row.job_id, "job").plan_id, "plan").body
        account = at_site(
            self._store, account_of(self._store.get(AccountRow, row.account, "account")), plan.get("site", "")
        )
        return self._drivers.fetch((account.address,), account.reach, account.certificate)

    def _settled(self, row: InstallationRow, before: Mapping[str, str]) -> tuple[list[str], str]:
        """What works now, and what worked before and does not: looked at for as long as old sources may be in a cache."""
        # Good twice after that time is good; bad once may be a page in the making, bad twice is bad.
        good = bad = 0
        seen, worse = list[str](), ""
        time.sleep(STALE_SECONDS)
        for _ in range(SETTLE_TRIES):
            after = self._look(row)
            seen = [f"{what} works" for what, why in after.items() if not why]
            worse = next((why for what, why in after.items() if why and not before.get(what)), "")
            good, bad = (0, bad + 1) if worse else (good + 1, 0)
            if good == 2 or bad == 2:
                break
            time.sleep(SETTLE_SECONDS)
        return seen, worse

    # keeping and putting back

    def _note(self, row: InstallationRow, facts: dict[str, Any], old: bytes) -> None:
        reference = f"installation/{row.id}/before/{facts['at']}"
        with self._store.together():
            self._store.set_secret(reference, base64.b64encode(old).decode())
            self._store.change(InstallationRow, row.id, facts={**row.facts, "changing": {**facts, "before": reference}})

    def _keep(self, number: str, given: Mapping[str, str]) -> list[str]:
        """Write the change down; what the books say of the database's login follows it.

        Args:
            given: the value that stood there -> the one that stands there now.
        """
        row = self._store.get(InstallationRow, number, "installation")
        facts = dict(row.facts)
        made = facts.pop("changing")
        sealed = f"installation/{number}/database"
        word = self._store.secret(sealed)
        books = {n: getattr(row, n) for n in ("database", "database_user") if given.get(getattr(row, n), "")}
        told = [f"the books have the new {n.replace('_', ' ')}" for n in books]
        with self._store.together():
            if word and given.get(word):
                self._store.set_secret(f"{made['before']}/database", word)
                self._store.set_secret(sealed, given[word])
                made = {**made, "sealed": True}
                told.append("the strongbox has the new database password")
            made = {**made, "books": books}
            changed = {n: given[old] for n, old in books.items()}
            facts = {**facts, "changes": [*facts.get("changes", []), made]}
            self._store.change(InstallationRow, number, facts=facts, **changed)
        return told

    def _books_back(self, number: str, made: Mapping[str, Any]) -> None:
        """What the books said before a change; part of the caller's transaction."""
        if made.get("sealed"):
            old = f"{made['before']}/database"
            self._store.set_secret(f"installation/{number}/database", self._store.secret(old))
            self._store.drop_secret(old)
        if made.get("books"):
            self._store.change(InstallationRow, number, **made["books"])

    def _mend(self, row: InstallationRow, ground: Probe) -> None:
        """A change that was cut off is put back before anything else."""
        if row.facts.get("changing"):
            self._back(row, ground)

    def _back(self, row: InstallationRow, ground: Probe) -> None:
        facts = dict(row.facts)
        made = facts.pop("changing")
        self._put_back(ground, made)
        self._store.change(InstallationRow, row.id, facts=facts)
        self._store.drop_secret(made["before"])

    def _put_back(self, ground: Probe, made: Mapping[str, Any]) -> None:
        old = base64.b64decode(self._store.secret(made["before"]))
        write_unlocked(ground.files(), made["path"], old, made["mode"])


def _named(found: Sequence[Literal], name: str) -> list[Literal]:
    """The settings that a name means: its whole path, or its last key."""
    whole = [one for one in found if not one.off and one.name.lstrip("$") == name.lstrip("$")]
    return whole or [one for one in found if not one.off and one.path[-1].lstrip("$") == name.lstrip("$")]


def _only(found: Sequence[Literal], name: str, path: str) -> Literal:
    meant = _named(found, name)
    if len(meant) > 1:
        raise InputError(
            f"{name} stands in {path} more than once", hint="say one of " + ", ".join(one.name for one in meant[:6])
        )
    return meant[0]


def _meant(literal: Literal, value: str, found: Sequence[Literal]) -> str:
    """A plain host name where a pattern stands becomes a pattern, its dots escaped."""
    for filling in read(found).fillings:
        if filling.literal == literal and filling.how == "pattern" and re.fullmatch(r"[\w.-]+", value):
            return written(filling, {"site.address": f"http://{value}/"}) or value
    return value


def _hidden(found: Sequence[Literal], secrets: Sequence[str]) -> frozenset[int]:
    """Where secrets stand: by what they are called, by what a sample would want there, by being one that is known."""
    wanted = {f.literal.start for f in read(found).fillings if f.value in SECRET_VALUES}
    return frozenset(
        one.start
        for one in found
        if one.value
        and (
            one.start in wanted
            or SECRET.search(one.name)
            or re.search(r"://[^/\s:]*:[^/\s@]+@", one.value)
            or any(secret in one.value for secret in secrets)
        )
    )
