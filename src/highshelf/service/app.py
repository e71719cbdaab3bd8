"""The composition root of the service: rooms are put together here, concrete drivers are named here and nowhere else."""

from __future__ import annotations

from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from importlib import resources
from pathlib import Path
from typing import Any

import anyio.to_thread
from fastapi import APIRouter, FastAPI
from sqlmodel import col

from highshelf import __version__
from highshelf.core.account import Account, Credential
from highshelf.core.errors import NotFoundError, PrimerError
from highshelf.core.origins import Origins
from highshelf.core.ports import Fetch, Helper, HostFiles, HostPhp, Outside, Panel, Shell
from highshelf.core.primers.models import ApplicationPrimer, PanelPrimer
from highshelf.core.primers.reading import examine_primer, read_primer
from highshelf.core.release.fetching import Inside
from highshelf.drivers.archive.check_in import check_in
from highshelf.drivers.archive.openpgp import check_signature
from highshelf.drivers.archive.repack import FORMS, repack_apart
from highshelf.drivers.ftp.files import FtpFiles
from highshelf.drivers.helper.client import HostHelper
from highshelf.drivers.helper.host_php import PhpOverShell, PhpThroughHelper
from highshelf.drivers.http.download import HttpsDownload
from highshelf.drivers.http.fetch import HttpFetch
from highshelf.drivers.panel.forms import FormPanel
from highshelf.drivers.sftp.connection import SftpFiles, SshConnection, SshShell
from highshelf.drivers.wire.outside import SocketOutside
from highshelf.engine.connections import Connected, Connections
from highshelf.engine.engine import Engine
from highshelf.engine.fetching import Fetcher
from highshelf.engine.inspecting import Inspector
from highshelf.engine.packing import Packer
from highshelf.engine.planner import Planner
from highshelf.engine.shelving import read_anew
from highshelf.engine.sites import Sites
from highshelf.engine.steps import Steps
from highshelf.engine.surveyor import Surveyor
from highshelf.schemas.models import Health
from highshelf.service import (
    accounts,
    fetches,
    imports,
    installations,
    jobs,
    licences,
    live,
    operators,
    plans,
    primers,
    releases,
    sites,
    surveys,
    values,
)
from highshelf.service.console import add_console
from highshelf.service.deps import In, Rooms, Who
from highshelf.service.faults import RESPONSES, add_handlers
from highshelf.service.throttle import Throttle
from highshelf.service.token import ensure_token
from highshelf.store.store import Store
from highshelf.store.tables import FetchRow, JobRow, ReleaseRow


class RealDrivers:
    """Drivers that open real connections. Primers come with the package or lie in `primers/` of the data folder."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def connect(self, account: Account, credential: Credential) -> Connected:
        login = account.transfer
        if login.kind == "sftp":
            ssh = SshConnection(login, credential, fingerprint=account.fingerprint, compress=account.compress)
            return Connected(SftpFiles(ssh), SshShell(ssh), ssh.fingerprint)
        files = FtpFiles(login, password=credential.password, fingerprint=account.fingerprint)
        return Connected(files, None, files.fingerprint)

    def outside(self) -> Outside:
        return SocketOutside()

    def fetch(self, addresses: tuple[str, ...], reach: str) -> Fetch:
        return HttpFetch(Origins.of(*addresses), address=addresses[0], reach=reach)

    def panel(self, primer: PanelPrimer, account: Account, password: str) -> Panel:
        return FormPanel(
            HttpFetch(Origins.of(account.panel)),
            primer,
            account.panel,
            account.panel_login or account.transfer.login,
            password,
        )

    def helper(
        self,
        files: HostFiles,
        fetch: Fetch,
        folder: str,
        address: str,
        reaches: tuple[str, ...],
        outstanding: Callable[[str], None],
        gone: Callable[[str], None],
    ) -> Helper:
        return HostHelper(
            files, fetch, folder=folder, address=address, reaches=reaches, outstanding=outstanding, gone=gone
        )

    def php_over_shell(self, shell: Shell) -> HostPhp:
        return PhpOverShell(shell)

    def php_through_helper(
        self,
        helper: Helper,
        files: HostFiles,
        path: str,
        outstanding: Callable[[str], None],
        gone: Callable[[str], None],
    ) -> HostPhp:
        return PhpThroughHelper(helper, files, path, outstanding, gone)

    def panel_primer(self, name: str) -> PanelPrimer:
        primer = self._primer(f"panel-{name}")
        if not isinstance(primer, PanelPrimer):
            raise PrimerError(f"the primer {name} is not of a panel")
        return primer

    def panel_primers(self) -> list[PanelPrimer]:
        """All panel primers there are; those in the data folder come before those of the same name that ship."""
        shipped = resources.files("highshelf.core.primers").joinpath("data")
        found = {f.name for place in (self._folder, shipped) if place.is_dir() for f in place.iterdir()}
        names = sorted(n.removeprefix("panel-").removesuffix(".yaml") for n in found if n.startswith("panel-"))
        return [self.panel_primer(name) for name in names]

    def application_primer(self, name: str) -> ApplicationPrimer:
        primer = self._primer(name)
        if not isinstance(primer, ApplicationPrimer):
            raise PrimerError(f"the primer {name} is not of an application")
        return primer

    def application_primers(self) -> tuple[list[ApplicationPrimer], list[str]]:
        """All that can be read, and the names of those that have faults; the data folder's come before those that ship."""
        found, faulty = [], []
        for name, _, text in self.primer_texts():
            primer, faults = examine_primer(text)
            misnamed = isinstance(primer, ApplicationPrimer) and primer.name != name
            if (faults or misnamed) and not name.startswith("panel-"):
                faulty.append(name)
            elif isinstance(primer, ApplicationPrimer):
                found.append(primer)
        return found, faulty

    def primer_texts(self) -> list[tuple[str, bool, str]]:
        """Name, whether it is the operators' own, text."""
        shipped = resources.files("highshelf.core.primers").joinpath("data")
        found: dict[str, tuple[str, bool, str]] = {}
        for place, own in ((shipped, False), (self._folder, True)):
            for file in place.iterdir() if place.is_dir() else ():
                if file.name.endswith(".yaml"):
                    name = file.name.removesuffix(".yaml")
                    found[name] = (name, own, file.read_text(encoding="utf-8"))
        return [found[name] for name in sorted(found)]

    def _primer(self, name: str) -> PanelPrimer | ApplicationPrimer:
        shipped = resources.files("highshelf.core.primers").joinpath("data", f"{name}.yaml")
        for place in (self._folder / f"{name}.yaml", shipped):
            if "/" not in name and place.is_file():
                return read_primer(place.read_text(encoding="utf-8"), f"{name}.yaml")
        raise NotFoundError(f"there is no primer {name}", hint=f"put it into {self._folder} as {name}.yaml")


def _take_up_surveys(store: Store, engine: Engine) -> None:
    """Surveys that were written down and not done yet; the engine does none of them twice."""
    store.surveys.end_probes()
    for row in store.surveys.unfinished():
        engine.submit_survey(row.id, row.account)


def _take_up_fetches(store: Store, engine: Engine) -> None:
    """Fetches that had not ended, and releases that are not packed in every form yet."""
    for release in store.all(ReleaseRow, limit=100_000):
        if not store.shelf.forms(release.sha256):
            engine.submit_pack(release.sha256)
    for row in store.all(FetchRow, col(FetchRow.finished_at).is_(None)):
        engine.submit_fetch(row.id)


def create_app(folder: Path, *, inside: tuple[str, ...] = (), authority: Path | None = None) -> FastAPI:
    """The service on a data folder; its engine runs while the application's lifespan does.

    Args:
        inside: addresses of our own network that releases may be fetched from (`host`, `host:port`, or a network).
        authority: a file of certificates that are trusted for fetches besides the machine's.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        store = Store(folder)
        store.shelf.sweep()
        await anyio.to_thread.run_sync(read_anew, store, check_in)
        drivers = RealDrivers(folder / "primers")
        connections = Connections(store, drivers.connect)
        surveyor = Surveyor(store, drivers, connections)
        fetcher = Fetcher(store, HttpsDownload(Inside(inside), authority), check_in, check_signature)
        steps = Steps(store, drivers, connections, surveyor, fetcher, Packer(store, repack_apart, FORMS))
        engine = Engine(steps, folder / "engine.sqlite")
        token = ensure_token(folder).read_text().strip()
        planner, room_of_sites = Planner(store, drivers, connections), Sites(store, drivers, connections)
        app.state.rooms = Rooms(
            store,
            drivers,
            planner,
            steps,
            surveyor,
            room_of_sites,
            Inspector(store, drivers, connections),
            engine,
            token,
            check_in,
            Throttle(),
        )
        # The engine's calls are plain ones: off the event loop, as in the routes.
        await anyio.to_thread.run_sync(engine.start)
        await anyio.to_thread.run_sync(_take_up_surveys, store, engine)
        await anyio.to_thread.run_sync(_take_up_fetches, store, engine)
        surveyor.start()
        try:
            yield
        finally:
            surveyor.stop()
            await anyio.to_thread.run_sync(engine.stop)

    app = FastAPI(
        title="High Shelf",
        version=__version__,
        summary="Installs PHP applications on shared hosting accounts.",
        lifespan=lifespan,
        openapi_url=None,
        docs_url=None,
        redoc_url=None,
    )
    add_handlers(app)
    root = APIRouter(prefix="/api/v1")

    @root.get("/health", operation_id="health", responses={401: RESPONSES[401]})
    def health(room: In, who: Who) -> Health:
        return Health(version=__version__, jobs_open=len(room.store.all(JobRow, col(JobRow.finished_at).is_(None))))

    @root.get("/openapi.json", include_in_schema=False)
    def document(who: Who) -> dict[str, Any]:
        return app.openapi()

    for module in (
        imports,
        accounts,
        surveys,
        sites,
        releases,
        fetches,
        licences,
        primers,
        values,
        plans,
        jobs,
        installations,
        live,
    ):
        root.include_router(module.router)
    for router in (operators.door, operators.operators, operators.sessions):
        root.include_router(router)
    app.include_router(root)
    add_console(app)
    return app
