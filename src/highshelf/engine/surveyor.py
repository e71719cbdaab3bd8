"""Surveys of accounts: durable, their lines kept as they come, nothing of ours left on the host."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import structlog

from highshelf.core.errors import FaultError, HighShelfError
from highshelf.core.places import Site
from highshelf.core.ports import Fetch, Helper, HostFiles, HostPhp, Outside, Shell
from highshelf.core.survey.lines import Line, Survey
from highshelf.core.survey.probes import remove_ours
from highshelf.core.survey.run import survey_account
from highshelf.core.values import redactor
from highshelf.engine.bench import Drivers, account_of
from highshelf.engine.connections import Connections, OwnLine
from highshelf.engine.panels import sign_in_to_panel
from highshelf.store.journal import JobJournal
from highshelf.store.store import Store, new_id
from highshelf.store.tables import AccountRow, SiteRow, SurveyRow, now

log = structlog.get_logger()
SWEEP_SECONDS = 300.0


class SurveyGround:
    """What one survey has in its hands (port `Ground` of core/survey/ground.py); close it at the end."""

    def __init__(
        self,
        store: Store,
        drivers: Drivers,
        connections: Connections,
        row: AccountRow,
        survey_id: str,
        *,
        accept: bool = False,
    ) -> None:
        self._store, self._drivers = store, drivers
        self.account, self.limits = account_of(row), dict(row.limits)
        # Somebody has said yes to whatever server is there now.
        if accept:
            self.account = replace(self.account, confirm_server=False)
        self.journal = JobJournal(store.engine, survey_id, store.epoch)
        self.line = OwnLine(connections, self.account)
        self._fetch: Fetch | None = None
        self.places: dict[str, Any] = {}

    @property
    def outside(self) -> Outside:
        return self._drivers.outside()

    def files(self) -> HostFiles:
        return self.line.connected().files

    def shell(self) -> Shell | None:
        return self.line.connected().shell

    def fingerprint(self) -> str:
        return self.line.connected().fingerprint

    def fetch(self) -> Fetch:
        if self._fetch is None:
            self._fetch = self._drivers.fetch((self.account.address,), self.account.reach, self.account.certificate)
            self.line.later(self._fetch.close)
        return self._fetch

    def helper(self, folder: str, address: str, reaches: tuple[str, ...]) -> Helper:
        return self._drivers.helper(self.files(), self.fetch(), folder, address, reaches, self.outstanding, self.gone)

    def php_over_shell(self, shell: Shell) -> HostPhp:
        return self._drivers.php_over_shell(shell)

    def panel(self) -> str:
        return sign_in_to_panel(self._store, self._drivers, self.account)

    def outstanding(self, path: str) -> None:
        self.journal.outstanding(path)

    def gone(self, path: str) -> None:
        self.journal.gone(path)

    def found_root(self, root: str) -> None:
        self._store.change(AccountRow, self.account.name, root=root)

    def found_place(self, view: str, path: str, how: str) -> None:
        self.places[view] = {"path": path, "how": how}

    def further(self) -> list[Site]:
        return [Site(r.root, r.address) for r in self._store.sites(self.account.name)]

    def fetch_of(self, site: Site) -> Fetch:
        row = self._store.get(SiteRow, (self.account.name, site.address), "site")
        made = self._drivers.fetch((site.address,), row.reach, row.certificate)
        self.line.later(made.close)
        return made

    def pin(self, certificate: str) -> None:
        """What is seen where the address is reached, and does not prove itself, is what is taken from now on."""
        self._store.change(AccountRow, self.account.name, certificate=certificate)
        self.account = replace(self.account, certificate=certificate)

    def proven(self, site: Site) -> None:
        self._store.change(SiteRow, (self.account.name, site.address), proven_at=now())

    def close(self) -> None:
        self.line.close()


class Surveyor:
    """Starts, does and sweeps up after surveys."""

    def __init__(self, store: Store, drivers: Drivers, connections: Connections) -> None:
        self._store, self._drivers, self._connections = store, drivers, connections
        self._stop = threading.Event()
        self._sweeper: threading.Thread | None = None

    def order(self, account: str, *, accept_identity: bool = False) -> SurveyRow:
        """Write a survey down that is to be done; one of the account that has not begun yet is taken instead."""
        self._store.get(AccountRow, account, "account")
        for row in self._store.surveys.waiting(account):
            if row.accept_identity == accept_identity:
                return row
        return self._store.add(SurveyRow(id=new_id(), account=account, accept_identity=accept_identity))

    def do(self, survey_id: str) -> None:
        """One survey, from its beginning: what a run that was cut off left on the host goes first. Never raises."""
        row = self._store.find(SurveyRow, survey_id)
        account_row = self._store.find(AccountRow, row.account) if row is not None else None
        if row is None or row.finished_at is not None:
            return
        if account_row is None:
            self._end(survey_id, [], FaultError(f"the account {row.account} was forgotten meanwhile"))
            return
        try:
            hide = redactor(
                [
                    s
                    for p in ("transfer", "panel", "passphrase")
                    if (s := self._store.secret(f"account/{row.account}/{p}"))
                ]
            )
        except HighShelfError as caught:
            # A secret that does not open: the survey ends and says so.
            self._end(survey_id, [], caught)
            return
        accept = row.accept_identity and row.state == "queued"
        if accept:
            account_row = self._store.change(AccountRow, row.account, fingerprint="", certificate="")
        self._store.change(SurveyRow, survey_id, state="running", started_at=now(), lines=[])
        ground = SurveyGround(self._store, self._drivers, self._connections, account_row, survey_id, accept=accept)
        survey = Survey(lambda _: self._keep(survey_id, survey, hide))
        fault: HighShelfError | None = None
        try:
            self._clear(ground, row.account)
            survey_account(ground, survey)
        except HighShelfError as caught:
            fault = caught
        except Exception as caught:
            log.exception("survey", survey=survey_id)
            fault = FaultError(f"High Shelf itself failed in the survey: {type(caught).__name__}: {hide(str(caught))}")
        finally:
            try:
                self._pin(ground, account_row)
            finally:
                ground.close()
        self._end(survey_id, survey.lines, fault, ground, hide)

    def _keep(self, survey_id: str, survey: Survey, hide: Callable[[str], str]) -> None:
        lines = [{**line.to_dict(), "text": hide(line.text)} for line in survey.lines]
        self._store.change(SurveyRow, survey_id, lines=lines)

    def _pin(self, ground: SurveyGround, row: AccountRow) -> None:
        """A server whose login worked is the one that is known from now on, whatever came after."""
        if ground.line.opened and ground.fingerprint() and ground.fingerprint() != row.fingerprint:
            self._store.change(AccountRow, row.name, fingerprint=ground.fingerprint())

    def _end(
        self,
        survey_id: str,
        lines: list[Line],
        fault: HighShelfError | None,
        ground: SurveyGround | None = None,
        hide: Callable[[str], str] = str,
    ) -> None:
        told = None
        if fault is not None:
            told = {
                "code": fault.code,
                "message": hide(fault.message),
                "hint": hide(fault.hint),
                "retryable": fault.retryable,
                "context": fault.context,
            }
        row = self._store.change(
            SurveyRow, survey_id, state="failed" if fault is not None else "done", error=told, finished_at=now()
        )
        if ground is not None and self._store.find(AccountRow, row.account) is not None:
            changed: dict[str, Any] = {"facts": {line.topic: line.data for line in lines}}
            if fault is None:
                changed |= {"checked_at": now(), "places": ground.places}
            self._store.change(AccountRow, row.account, **changed)
        self._store.surveys.forget_old(row.account)

    def _clear(self, ground: SurveyGround, account: str) -> None:
        """Take away what earlier surveys of the account left there. Raises TransferError."""
        for survey_id, path in self._store.surveys.left(account).get(account, []):
            remove_ours(ground.files(), path)
            JobJournal(self._store.engine, survey_id, self._store.epoch).gone(path)

    def sweep(self, only: str = "") -> None:
        """Try once more to take away what ended surveys left, of one account or of all; what cannot be reached stays listed."""
        for account in self._store.surveys.left(only):
            row = self._store.find(AccountRow, account)
            if row is None or self._store.surveys.unfinished(account):
                continue
            ground = SurveyGround(self._store, self._drivers, self._connections, row, "sweep")
            try:
                self._clear(ground, account)
            except HighShelfError as fault:
                log.warning("sweep", account=account, code=fault.code)
            finally:
                ground.close()

    def start(self) -> None:
        """Sweep now and then, until `stop`."""

        def work() -> None:
            while not self._stop.wait(SWEEP_SECONDS):
                self.sweep()

        self._sweeper = threading.Thread(target=work, name="sweep", daemon=True)
        self._sweeper.start()

    def stop(self) -> None:
        self._stop.set()
