"""Sites of an account: found, proven, made; and where a path or address is in every view."""

from __future__ import annotations

import posixpath
import time
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager
from dataclasses import replace
from urllib.parse import urlsplit

from highshelf.core.account import Account, check_address, check_reach
from highshelf.core.errors import ConflictError, PanelError, TargetError
from highshelf.core.places import Site, Views, tidy
from highshelf.core.survey.lines import Survey
from highshelf.core.survey.locate import Found, locate
from highshelf.core.survey.run import settle_root
from highshelf.core.survey.site import certificate_to_pin
from highshelf.engine.bench import Drivers, account_of
from highshelf.engine.connections import Connections
from highshelf.engine.panels import panel_password
from highshelf.engine.surveyor import SurveyGround
from highshelf.store.store import Store, new_id
from highshelf.store.tables import AccountRow, SiteRow, SurveyRow, now

SETTLE_SECONDS = 20


def sites_of(store: Store, account: Account) -> list[SiteRow]:
    """All sites, the account's own first."""
    own = SiteRow(
        account=account.name,
        address=account.address,
        root=account.root,
        reach=account.reach,
        certificate=account.certificate,
    )
    return [own, *store.sites(account.name)]


class Probe(SurveyGround):
    """A ground for one site: a root that is found is the site's, not the account's."""

    def at(self, account: Account) -> Probe:
        self.account = account
        return self

    def found_root(self, root: str) -> None:
        return

    def pin(self, certificate: str) -> None:
        return


@contextmanager
def probing(store: Store, drivers: Drivers, connections: Connections, account: Account) -> Iterator[Probe]:
    """A look at one site of an account; what it puts on the host is written down before, and taken away at the end."""
    row = store.get(AccountRow, account.name, "account")
    survey = store.add(SurveyRow(id=new_id(), kind="probe", account=account.name, state="running"))
    ground = Probe(store, drivers, connections, row, survey.id).at(account)
    try:
        yield ground
    finally:
        ground.close()
        store.surveys.end_probe(survey.id)


def _settled(ground: Probe, *, patient: bool) -> str:
    """The root, proven. A web server takes a moment until it knows a website that was made just now."""
    deadline = time.monotonic() + (SETTLE_SECONDS if patient else 0)
    while True:
        try:
            return settle_root(ground, Survey())
        except TargetError:
            if time.monotonic() > deadline:
                raise
            time.sleep(1)


class Sites:
    """Every call opens a connection and closes it; what it puts on the host is journalled."""

    def __init__(self, store: Store, drivers: Drivers, connections: Connections) -> None:
        self._store, self._drivers, self._connections = store, drivers, connections

    def _probe(self, account: Account) -> AbstractContextManager[Probe]:
        return probing(self._store, self._drivers, self._connections, account)

    def add(self, name: str, address: str, root: str, reach: str, *, make: bool = False) -> SiteRow:
        """Prove a further site and keep it; without a root, the folder that the address shows is looked for.

        `make` has it made in the panel first.

        Raises:
            PanelError: the panel says no, or nobody knows how it makes websites.
            InputError: an address that is none; ConflictError: it is kept already.
            TargetError: no folder of the account shows there.
        """
        account = account_of(self._store.get(AccountRow, name, "account"))
        address = check_address(address)
        if address in [s.address for s in sites_of(self._store, account)]:
            raise ConflictError(
                f"{address} is a site of {name} already", hint=f"`highshelf site list {name}` shows them"
            )
        wanted = replace(account, root=tidy(root) or ("." if root else ""), address=address, reach=check_reach(reach))
        if make:
            self._make(account, wanted)
        wanted = replace(wanted, certificate=certificate_to_pin(wanted, self._drivers.outside()))
        with self._probe(wanted) as ground:
            found = _settled(ground, patient=make)
        return self._store.add(
            SiteRow(
                account=name,
                address=address,
                root=found,
                reach=wanted.reach,
                certificate=wanted.certificate,
                proven_at=now(),
            )
        )

    def _make(self, account: Account, wanted: Account) -> None:
        """A subdomain in the panel; one that is there already is left as it is."""
        if not account.panel or not account.panel_primer:
            hint = "make the subdomain by hand in the panel; then add it here without making it"
            raise PanelError(f"the account {account.name} has no control panel that High Shelf knows", hint=hint)
        host = urlsplit(wanted.address).hostname or ""
        password = panel_password(self._store, account.name)
        panel = self._drivers.panel(self._drivers.panel_primer(account.panel_primer), account, password)
        if host not in panel.sites():
            panel.create_site(host, wanted.root or host.partition(".")[0])

    def make_root(self, name: str, root: str) -> str:
        """Make a document root that is not there; returns what the address shows afterwards, in a sentence.

        Raises:
            ConflictError: it is there already. TransferError: it cannot be made.
        """
        account = account_of(self._store.get(AccountRow, name, "account"))
        wanted = tidy(root or account.root)
        with self._probe(replace(account, root=wanted or ".")) as ground:
            files = ground.files()
            if wanted == "" or files.stat(wanted) is not None:
                raise ConflictError(
                    f"{wanted or '.'} is there already", hint=f"check it with `highshelf account check {name}`"
                )
            parts = wanted.split("/")
            for depth in range(1, len(parts) + 1):
                here = posixpath.join(*parts[:depth])
                if files.stat(here) is None:
                    files.make_folder(here)
                    files.chmod(here, 0o755)
            self._store.change(AccountRow, name, root=wanted)
            try:
                settle_root(ground, Survey())
            except TargetError as fault:
                return f"made {wanted}. {fault.message}: set the site's document root to this folder in the panel, then check the account"
            return f"made {wanted}, and {account.address} shows it"

    def locate(self, name: str, given: str) -> Found:
        """A path or address in every view. Raises InputError, TransferError and its kin."""
        row = self._store.get(AccountRow, name, "account")
        account = account_of(row)
        rows = sites_of(self._store, account)
        sites = [Site(r.root, r.address) for r in rows if r.root]
        if not sites:
            hint = f"`highshelf account check {name}` looks for it"
            raise TargetError(f"the document root of {name} is not known yet", hint=hint)
        connected = self._connections.open(account)
        reach = {r.address: (r.reach, r.certificate) for r in rows}
        try:
            views = Views(account.root, connected.files.facts().landing, row.places)
            return locate(
                given,
                views,
                sites,
                connected.files,
                lambda site: self._drivers.fetch((site.address,), *reach[site.address]),
            )
        finally:
            connected.close()
