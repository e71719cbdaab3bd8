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
from highshelf.core.account import Account
from highshelf.core.errors import NotFoundError, PrimerError
from highshelf.core.origins import Origins
from highshelf.core.ports import Fetch, Helper, HostFiles, HostPhp, Panel, Shell
from highshelf.core.primers.models import ApplicationPrimer, PanelPrimer, read_primer
from highshelf.drivers.archive.reader import make_zip, open_archive
from highshelf.drivers.ftp.files import FtpFiles
from highshelf.drivers.helper.client import HostHelper
from highshelf.drivers.helper.host_php import PhpOverShell, PhpThroughHelper
from highshelf.drivers.http.fetch import HttpFetch
from highshelf.drivers.panel.forms import FormPanel
from highshelf.drivers.sftp.connection import SftpFiles, SshConnection, SshShell
from highshelf.engine.bench import Connected
from highshelf.engine.engine import Engine
from highshelf.engine.planner import Planner
from highshelf.engine.steps import Steps
from highshelf.schemas.models import Health
from highshelf.service import accounts, installations, jobs, live, operators, plans, releases, values
from highshelf.service.console import add_console
from highshelf.service.deps import In, Rooms, Who
from highshelf.service.faults import RESPONSES, add_handlers
from highshelf.service.throttle import Throttle
from highshelf.service.token import ensure_token
from highshelf.store.store import Store
from highshelf.store.tables import JobRow


class RealDrivers:
    """Drivers that open real connections. Primers come with the package or lie in `primers/` of the data folder."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def connect(self, account: Account, secret: str, key: str) -> Connected:
        login = account.transfer
        if login.kind == "sftp":
            ssh = SshConnection(login, password=secret, key=key, fingerprint=account.fingerprint)
            return Connected(SftpFiles(ssh), SshShell(ssh), ssh.fingerprint)
        files = FtpFiles(login, password=secret, fingerprint=account.fingerprint)
        return Connected(files, None, files.fingerprint)

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

    def _primer(self, name: str) -> PanelPrimer | ApplicationPrimer:
        shipped = resources.files("highshelf.core.primers").joinpath("data", f"{name}.yaml")
        for place in (self._folder / f"{name}.yaml", shipped):
            if "/" not in name and place.is_file():
                return read_primer(place.read_text(encoding="utf-8"), f"{name}.yaml")
        raise NotFoundError(f"there is no primer {name}", hint=f"put it into {self._folder} as {name}.yaml")


def create_app(folder: Path) -> FastAPI:
    """The service on a data folder; its engine runs while the application's lifespan does."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        store = Store(folder)
        store.shelf.sweep()
        drivers = RealDrivers(folder / "primers")
        steps = Steps(store, drivers)
        engine = Engine(steps, folder / "engine.sqlite")
        token = ensure_token(folder).read_text().strip()
        app.state.rooms = Rooms(
            store, drivers, Planner(store, drivers), steps, engine, token, open_archive, make_zip, Throttle()
        )
        # The engine's calls are plain ones: off the event loop, as in the routes.
        await anyio.to_thread.run_sync(engine.start)
        try:
            yield
        finally:
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

    for module in (accounts, releases, values, plans, jobs, installations, live):
        root.include_router(module.router)
    for router in (operators.door, operators.operators, operators.sessions):
        root.include_router(router)
    app.include_router(root)
    add_console(app)
    return app
