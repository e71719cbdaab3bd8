"""The composition root of the service: rooms are put together here, concrete drivers are named here and nowhere else."""

from __future__ import annotations

import os
from collections.abc import AsyncIterator, Callable, Iterator, Mapping
from contextlib import asynccontextmanager
from email.message import EmailMessage
from functools import partial
from importlib import resources
from pathlib import Path

import anyio
import anyio.to_thread
import structlog
from fastapi import APIRouter, FastAPI
from sqlmodel import col

from highshelf import __version__
from highshelf.core.account import Account, Credential
from highshelf.core.errors import NotFoundError, PrimerError
from highshelf.core.inside import Inside
from highshelf.core.origins import Origins
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
from highshelf.core.primers.models import BY_READING, READ, ApplicationPrimer, PanelPrimer, is_read
from highshelf.core.primers.reading import examine_primer, read_primer
from highshelf.drivers.archive.check_in import check_in
from highshelf.drivers.archive.dump import dump_lines, look_through
from highshelf.drivers.archive.openpgp import check_signature, seal
from highshelf.drivers.archive.repack import FORMS, repack_apart
from highshelf.drivers.browser.chromium import Browsers
from highshelf.drivers.browser.driver import BrowserTalk
from highshelf.drivers.ftp.files import FtpFiles
from highshelf.drivers.helper.client import HostHelper
from highshelf.drivers.helper.host_php import PhpOverShell, PhpThroughHelper
from highshelf.drivers.http.download import HttpsDownload
from highshelf.drivers.http.fetch import HttpFetch
from highshelf.drivers.mail.send import send_letter
from highshelf.drivers.panel.by_reading import ReadPanel
from highshelf.drivers.panel.forms import FormPanel
from highshelf.drivers.sftp.connection import SftpFiles, SshConnection, SshShell
from highshelf.drivers.wire.dial import dial_within
from highshelf.drivers.wire.outside import SocketOutside
from highshelf.engine.changing import Changer
from highshelf.engine.connections import Connected, Connections
from highshelf.engine.databases import Databases
from highshelf.engine.engine import Engine
from highshelf.engine.fetching import Fetcher
from highshelf.engine.inspecting import Inspector
from highshelf.engine.notices import Noticing
from highshelf.engine.outbox import Outbox
from highshelf.engine.packing import Packer
from highshelf.engine.planner import Planner
from highshelf.engine.rechecking import Rechecks
from highshelf.engine.shelving import read_anew
from highshelf.engine.sites import Sites
from highshelf.engine.steps import Steps
from highshelf.engine.surveyor import Surveyor
from highshelf.engine.undoing import Undoer
from highshelf.schemas.models import Health, StrongboxOut
from highshelf.service import (
    accounts,
    databases,
    dumps,
    fetches,
    imports,
    installations,
    jobs,
    licences,
    live,
    notices,
    operators,
    plans,
    primers,
    releases,
    seen,
    sites,
    surveys,
    values,
)
from highshelf.service.console import SafeHeaders, add_console
from highshelf.service.deps import In, Rooms, Who
from highshelf.service.faults import RESPONSES, add_handlers, add_problems
from highshelf.service.guard import Guard
from highshelf.service.heads import Heads
from highshelf.service.queues import Endings, Figure, Queues
from highshelf.service.reference import add_reference
from highshelf.service.repeats import Repeats
from highshelf.service.settings import Settings
from highshelf.service.throttle import Throttle
from highshelf.service.token import ensure_token
from highshelf.service.told import Told
from highshelf.store.lock import FolderLock
from highshelf.store.store import Store
from highshelf.store.tables import FetchRow, JobRow, PlanRow

log = structlog.get_logger()
# Told to whoever looks after the process: another one has taken its place.
SUPERSEDED_EXIT = 75


class RealDrivers:
    """Drivers that open real connections. Primers come with the package or lie in `primers/` of the data folder."""

    def __init__(self, folder: Path, inside: Inside | None = None) -> None:
        self._folder, self._dial = folder, dial_within(inside or Inside())
        self.browsers = Browsers()

    def connect(self, account: Account, credential: Credential) -> Connected:
        login, known, confirm = account.transfer, account.fingerprint, account.confirm_server
        if login.kind == "sftp":
            ssh = SshConnection(
                login, credential, fingerprint=known, compress=account.compress, confirm=confirm, dial=self._dial
            )
            return Connected(SftpFiles(ssh), SshShell(ssh), ssh.fingerprint)
        files = FtpFiles(login, password=credential.password, fingerprint=known, confirm=confirm, dial=self._dial)
        return Connected(files, None, files.fingerprint)

    def outside(self) -> Outside:
        return SocketOutside(self._dial)

    def fetch(self, addresses: tuple[str, ...], reach: str, certificate: str = "") -> Fetch:
        return HttpFetch(
            Origins.of(*addresses), address=addresses[0], reach=reach, certificate=certificate, dial=self._dial
        )

    def browser(self, job: str, address: str, reach: str, certificate: str, cancel: CancelToken) -> Browse:
        line = partial(
            HttpFetch, Origins.of(address), address=address, reach=reach, certificate=certificate, dial=self._dial
        )
        return BrowserTalk(self.browsers, job, line, cancel)

    def leave_browser(self, job: str) -> None:
        self.browsers.leave(job)

    def printed(self, html: str) -> bytes:
        """A page of ours as PDF. Raises BrowserError."""
        return self.browsers.printed(html)

    def browser_missing(self) -> str:
        return self.browsers.missing()

    def close(self) -> None:
        """End what the drivers share; the process is about to end."""
        self.browsers.close()

    def panel(
        self,
        primer: PanelPrimer,
        account: Account,
        password: str,
        *,
        kind: str = "mariadb",
        told: Callable[[str], None] | None = None,
    ) -> Panel:
        fetch = HttpFetch(Origins.of(account.panel), dial=self._dial)
        login = account.panel_login or account.transfer.login
        if is_read(primer.name, kind):
            return ReadPanel(fetch, account.panel, login, password, kind, told or (lambda text: None))
        return FormPanel(fetch, primer, account.panel, login, password)

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

    def dump_lines(self, path: Path, encoding: str) -> Iterator[str]:
        return dump_lines(path, encoding)

    def call(self, address: str, body: bytes, headers: Mapping[str, str]) -> int:
        fetch = self.fetch((address,), "")
        try:
            return fetch.send_json(address, body, headers)[0]
        finally:
            fetch.close()

    def mail(self, server: MailServer, password: str, letter: EmailMessage) -> None:
        send_letter(self._dial, server, password, letter)

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
        if name == READ:
            return BY_READING
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


def _take_up(store: Store, engine: Engine, outbox: Outbox, packer: Packer) -> None:
    """What was written down and not done yet; the engine does none of it twice."""
    outbox.take_up()
    store.surveys.end_probes()
    for sha256 in packer.behind():
        engine.submit_pack(sha256)
    _tell_again(store, engine)


def _tell_again(store: Store, engine: Engine) -> None:
    """Surveys and fetches that have not ended: what the engine has already it does not do twice."""
    for survey in store.surveys.unfinished():
        engine.submit_survey(survey.id, survey.account)
    for fetch in store.all(FetchRow, col(FetchRow.finished_at).is_(None)):
        engine.submit_fetch(fetch.id)


def _stop_at_once() -> None:
    """Another service has the folder: as if the plug had been pulled, so that this one writes not a word more."""
    log.error("superseded", told="another service was started on this data folder; this one ends")
    os._exit(SUPERSEDED_EXIT)


def _make_rooms(store: Store, folder: Path, settings: Settings) -> Rooms:
    """Everything behind the routes, put together. Plain calls: off the event loop."""
    store.begin_epoch()
    store.shelf.sweep()
    store.dumps.sweep()
    if not store.disk.full:
        read_anew(store, check_in)
    inside = Inside(settings.inside)
    drivers = RealDrivers(folder / "primers", inside)
    connections = Connections(store, drivers.connect)
    surveyor = Surveyor(store, drivers, connections)
    fetcher = Fetcher(store, HttpsDownload(inside, settings.authority), check_in, check_signature)
    packer = Packer(store, repack_apart, FORMS, all_forms=settings.pack_all)
    steps = Steps(store, drivers, connections, surveyor, fetcher, packer, _stop_at_once)
    engine = Engine(steps, folder / "engine.sqlite", settings.patience_seconds)
    queues = Queues()
    outbox = Outbox(store, engine, others=partial(_tell_again, store, engine))
    undoer = Undoer(store, drivers, connections)
    return Rooms(
        store=store,
        drivers=drivers,
        planner=Planner(store, drivers, connections),
        steps=steps,
        surveyor=surveyor,
        sites=Sites(store, drivers, connections),
        inspector=Inspector(store, drivers, connections),
        changer=Changer(store, drivers, connections),
        undoer=undoer,
        databases=Databases(store, drivers, connections),
        look_through=look_through,
        printed=drivers.printed,
        seal=seal,
        rechecks=Rechecks(store, undoer, partial(_begin, steps, outbox)),
        engine=engine,
        outbox=outbox,
        token=ensure_token(folder).read_text().strip(),
        check_in=check_in,
        throttle=Throttle(),
        settings=settings,
        queues=queues,
        told=Told(store, queues["streams"]),
        noticing=Noticing(store, drivers, settings.public),
        endings=Endings(store.surveys.over, queues["streams"]),
        jobs_open=Figure(store.jobs.count_open, queues["callers"]),
    )


def _begin(steps: Steps, outbox: Outbox, planned: PlanRow) -> JobRow:
    row = steps.start(planned)
    outbox.send(row.id)
    return row


@asynccontextmanager
async def _running(rooms: Rooms) -> AsyncIterator[None]:
    """The engine and what looks after it, while the service answers."""
    await anyio.to_thread.run_sync(rooms.engine.start)
    await anyio.to_thread.run_sync(_take_up, rooms.store, rooms.engine, rooms.outbox, rooms.steps.packer)
    rooms.surveyor.start()
    rooms.outbox.start()
    rooms.rechecks.start()
    rooms.noticing.start()
    try:
        async with anyio.create_task_group() as group:
            group.start_soon(rooms.told.look)
            yield
            group.cancel_scope.cancel()
    finally:
        rooms.noticing.stop()
        rooms.rechecks.stop()
        rooms.outbox.stop()
        rooms.surveyor.stop()
        await anyio.to_thread.run_sync(rooms.engine.stop)
        await anyio.to_thread.run_sync(rooms.drivers.close)


def _build_routes(app: FastAPI) -> None:
    """The framework builds a route when it is first looked for, half a second for all: before anybody waits for it."""
    nowhere = {"type": "http", "method": "GET", "path": "/api/v1/-", "root_path": "", "headers": [], "app": app}
    for route in app.router.routes:
        route.matches(dict(nowhere))


def create_app(folder: Path, *, settings: Settings | None = None, lock: FolderLock | None = None) -> FastAPI:
    """The service on a data folder; its engine runs while the application's lifespan does.

    Args:
        lock: of the folder, when whoever calls has taken it already.

    Raises:
        InUseError, StoreError, StrongboxError: when the lifespan begins; nothing was written then.
    """
    settings = settings or Settings()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        with lock or FolderLock(folder):
            store = await anyio.to_thread.run_sync(Store, folder)
            app.state.rooms = await anyio.to_thread.run_sync(_make_rooms, store, folder, settings)
            await anyio.to_thread.run_sync(_build_routes, app)
            async with _running(app.state.rooms):
                yield
            store.close()

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
    app.include_router(_routes())
    add_problems(app)
    add_reference(app)
    add_console(app)
    app.add_middleware(Heads)
    # The outermost: it answers before anything of a body is read.
    app.add_middleware(Repeats)
    app.add_middleware(Guard, settings=settings)
    app.add_middleware(SafeHeaders, settings=settings)
    return app


def _routes() -> APIRouter:
    root = APIRouter(prefix="/api/v1")

    @root.get("/health", operation_id="health", responses={n: RESPONSES[n] for n in (401, 408, 413, 421, 422, 429)})
    async def health(room: In, who: Who) -> Health:
        why = f"the disk is full: {room.store.disk.free_bytes() >> 20} MB left" if room.store.disk.full else ""
        return Health(version=__version__, jobs_open=await room.jobs_open.now(), read_only=why)

    @root.get("/strongbox", operation_id="strongbox_verify", responses=RESPONSES)
    def strongbox(room: In, who: Who) -> StrongboxOut:
        """Open every secret, show none: whether the key is the right one for all of them."""
        count, unopened = room.store.verify_secrets()
        return StrongboxOut(secrets=count, unopened=unopened)

    for module in (
        imports,
        accounts,
        surveys,
        sites,
        databases,
        dumps,
        releases,
        fetches,
        licences,
        notices,
        primers,
        values,
        plans,
        jobs,
        seen,
    ):
        root.include_router(module.router)
    for router in (installations.router, live.router, operators.door, operators.operators):
        root.include_router(router)
    for router in (operators.sessions, operators.records):
        root.include_router(router)
    return root
