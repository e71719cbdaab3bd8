"""Placing through random faults on real servers: every run ends identical with the release, or as it was before.

    .venv/bin/python -m tests.drivers.placing_faults --seeds 200 [--first 1] [--only TEXT]

Run as root. Each seed chooses a server, a way and one to three faults: sessions killed or stopped for a while, the server killed and
started again, our own process killed, a disk that is full, a server that allows few connections. A seed prints one line.
The job's steps run in a process of their own, as in the service, without the engine around them.
"""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import hashlib
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import AsyncIterator, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

from highshelf.core.account import Transfer
from highshelf.core.inside import Inside
from highshelf.core.legs import slicing
from highshelf.core.plan import Plan
from highshelf.core.survey.site import certificate_to_pin
from highshelf.drivers.archive.check_in import check_in
from highshelf.drivers.archive.repack import FORMS, repack_apart
from highshelf.drivers.wire.outside import SocketOutside
from highshelf.engine import steps as steps_module
from highshelf.engine.bench import account_of
from highshelf.engine.connections import Connections
from highshelf.engine.packing import Packer
from highshelf.engine.planner import Planner
from highshelf.engine.shelving import keep_release
from highshelf.engine.steps import Steps
from highshelf.practice import host
from highshelf.practice.packing import write_zip
from highshelf.practice.servers import ftp, ssh
from highshelf.service.app import RealDrivers
from highshelf.store.store import Store, new_id
from highshelf.store.tables import AccountRow, JobRow, ReleaseRow
from tests.drivers.ftp_servers import server
from tests.support import Hosting, until

WRAPPER, PLACE = "yard-1.0", "/diary"
WEB = "public"
PATIENCE_SECONDS = 120
# A neighbour in the document root, and one that is called as the release's own folder.
NEIGHBOURS = {"shop/index.php": "<?php // a neighbour", f"{WRAPPER}/index.php": "<?php // the wrapper's namesake"}


@dataclass(frozen=True)
class Setting:
    """A customer, the way, and the server: the practice host's own ("") or one beside it."""

    key: str
    way: str
    server: str = ""
    kind: Transfer = "ftps"
    # Each connection is held to a few hundred kB a second there: an archive goes over in slices.
    slow: bool = False
    # A release with a web folder, and how the address comes to show it.
    showing: Literal["", "links", "split"] = ""

    @property
    def name(self) -> str:
        more = f"{'-slow' if self.slow else ''}{self.showing and '-' + self.showing}"
        return f"{self.server or 'practice'}-{self.kind}-{self.key}-{self.way}{more}"

    @property
    def at(self) -> str:
        return "/" if self.showing == "split" else PLACE

    def facts(self) -> dict[str, Any]:
        """What the account's check would have said."""
        found = {"web.htaccess": "ignored", "web.links": self.showing == "links", "php.basedir": []}
        return found if self.showing else {}

    def neighbours(self, root: Path) -> dict[Path, str]:
        """In the document root; in the folder above, where everything in the root would be in the way."""
        return {(root.parent if self.showing == "split" else root) / path: text for path, text in NEIGHBOURS.items()}


SETTINGS = (
    Setting("ferry", "shell-stream", kind="sftp"),
    Setting("ferry", "shell-unzip", kind="sftp"),
    Setting("ferry", "files", kind="sftp"),
    Setting("seeds", "files", kind="sftp"),
    Setting("seeds", "helper", kind="sftp"),
    Setting("seeds", "helper-tar", kind="sftp"),
    Setting("choir", "files"),
    Setting("choir", "helper"),
    Setting("choir", "helper-tar"),
    Setting("choir", "helper", slow=True),
    Setting("choir", "helper-tar", slow=True),
    Setting("choir", "panel"),
    Setting("yard", "files", kind="ftp"),
    *(Setting("choir", way, "vsftpd", kind) for kind in ("ftp", "ftps", "ftps-implicit") for way in ("files", "helper-tar")),
    *(Setting("ferry", way, "pure-ftpd", kind) for kind in ("ftp", "ftps") for way in ("files", "helper-tar")),
    Setting("ferry", "shell-stream", kind="sftp", showing="links"),
    Setting("choir", "helper-tar", showing="links"),
    Setting("ferry", "shell-stream", kind="sftp", showing="split"),
    Setting("choir", "files", showing="split"),
    Setting("birds", "helper-tar", showing="split"),
    Setting("choir", "files", "vsftpd", "ftps", showing="split"),
)  # fmt: skip
FAULTS = ("kill", "kill", "stall", "restart", "crash", "full", "few")


def corpus(*, web: bool = False) -> dict[str, bytes]:
    """About 3 MB in 200 files, one of them of 1.2 MB; the same each time. `web`: half of it lies in a web folder."""
    dice = random.Random(7)
    files = {
        "index.php": b"<?php // front",
        ".htaccess": b"Options -Indexes\n",
        "lib/.env.sample": b"KEY=\n",
        "empty.txt": b"",
    }
    for number in range(190):
        files[f"tides/pier-{number % 12}/week-{number}.txt"] = dice.randbytes(dice.randint(200, 9000))
    files["pictures/estuary.jpg"] = dice.randbytes(1_200_000)
    if not web:
        return files
    # The server's guard lets no `lib` be made where the login lands.
    rest = ("lib/", "empty", *(f"tides/pier-{number}/" for number in range(6)))
    return {(p.replace("lib/", "program/") if p.startswith(rest) else f"{WEB}/{p}"): c for p, c in files.items()}


# --- the job's side ---------------------------------------------------------------------------------------------------------------


def steps_on(folder: Path) -> tuple[Store, Steps]:
    store = Store(folder)
    drivers = RealDrivers(folder / "primers", Inside(("127.0.0.1",)))
    connections = Connections(store, drivers.connect)
    return store, Steps(store, drivers, connections, None, None, Packer(store, repack_apart, FORMS))  # type: ignore[arg-type]


def work(folder: Path, job: str) -> None:
    """The survey and the placing of a job, as the engine would call them."""
    steps_module.PAUSE_SECONDS = 0.3
    # The release is small: what is a lot of it is soon over.
    slicing.SETTLE_SECONDS, slicing.WATCH_SECONDS, slicing.WORTH_SECONDS = 0.2, 0.5, 1.0
    _, steps = steps_on(folder)
    for leg in ("survey", "place"):
        while (move := steps.step(job, leg)["move"]) == "advance":
            pass
        if move == "failed":
            return


def shelve(folder: Path) -> tuple[str, str]:
    """Two releases on a fresh shelf, packed in every form, the second with a web folder; their SHA-256."""
    store = Store(folder)
    return _shelve(folder, store, web=False), _shelve(folder, store, web=True)


def _shelve(folder: Path, store: Store, *, web: bool) -> str:
    path = write_zip(folder / f"{WRAPPER}-{web}.zip", corpus(web=web), WRAPPER)

    async def blocks() -> AsyncIterator[bytes]:
        yield path.read_bytes()

    draft = asyncio.run(store.shelf.receive(blocks(), path.name))
    row: ReleaseRow = keep_release(store, check_in, [(draft, path.name, "")], [])
    # No account is checked yet that could tell which forms it unpacks.
    Packer(store, repack_apart, FORMS, all_forms=True).do(row.sha256)
    return row.sha256


# --- the host's side --------------------------------------------------------------------------------------------------------------


class Sessions:
    """The processes of one server, found by who listens on its port."""

    def __init__(self, port: int, command: list[str]) -> None:
        self._port, self._command = port, command
        self.main = _listener(port)
        self.started: list[subprocess.Popen[bytes]] = []

    def _all(self) -> list[int]:
        parents = {}
        for entry in Path("/proc").iterdir():
            if entry.name.isdigit():
                with contextlib.suppress(OSError, ValueError):
                    parents[int(entry.name)] = int((entry / "stat").read_text().rpartition(")")[2].split()[1])
        found = [self.main]
        for pid in found:
            found += [child for child, parent in parents.items() if parent == pid]
        return found[1:]

    def signal(self, number: signal.Signals) -> int:
        sent = 0
        for pid in self._all():
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, number)
                sent += 1
        return sent

    def restart(self, after_seconds: float) -> None:
        """Killed with its sessions, and there again after a while."""
        family = [self.main, *self._all()]
        for pid in family:
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        time.sleep(after_seconds)
        deadline = time.monotonic() + 10
        while time.monotonic() < deadline:
            started = subprocess.Popen(
                self._command,
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                start_new_session=True,
            )
            time.sleep(0.3)
            if (pid := _listener(self._port, wait_seconds=2)) != 0:
                self.started.append(started)
                self.main = pid
                return
        raise RuntimeError(f"the server on {self._port} did not come back: {self._command}")


def _listener(port: int, wait_seconds: float = 0) -> int:
    """The process that listens on a loopback port, 0 when there is none."""
    deadline = time.monotonic() + wait_seconds
    while True:
        told = subprocess.run(["ss", "-Hltnp", f"sport = :{port}"], capture_output=True, text=True).stdout
        if "pid=" in told:
            return min(int(part.split(",")[0]) for part in told.split("pid=")[1:])
        if time.monotonic() > deadline:
            return 0
        time.sleep(0.05)


@contextmanager
def small_disk(home: Path, free_bytes: int) -> Iterator[None]:
    """A customer's home on a disk of its own with so much room left."""
    held = sum(p.stat().st_blocks * 512 for p in home.rglob("*"))
    aside = Path(tempfile.mkdtemp())
    subprocess.run(["cp", "-a", f"{home}/.", str(aside)], check=True)
    stat = home.stat()
    options = f"size={held + free_bytes},mode={stat.st_mode & 0o7777:o},uid={stat.st_uid},gid={stat.st_gid}"
    subprocess.run(["mount", "-t", "tmpfs", "-o", options, "tmpfs", str(home)], check=True)
    try:
        subprocess.run(["cp", "-a", f"{aside}/.", str(home)], check=True)
        yield
    finally:
        subprocess.run(["umount", "-l", str(home)], check=True)
        shutil.rmtree(aside)


# --- one seed ---------------------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Ended:
    """How a seed ended: `identical` or `undone`, and what was done to it."""

    how: str
    setting: str
    faults: tuple[str, ...]
    seconds: float
    told: str


def run_seed(seed: int, hosting: Hosting, folder: Path, releases: tuple[str, str], only: str = "") -> Ended:
    """One job through its faults.

    Args:
        releases: as `shelve` gives them.

    Raises:
        AssertionError: a wrong byte, something left, something else touched.
    """
    dice = random.Random(seed)
    setting = dice.choice([s for s in SETTINGS if only in s.name])
    faults = [dice.choice(FAULTS) for _ in range(dice.randint(1, 3))]
    began = time.monotonic()
    hosting.reset()
    with ExitStack() as stack:
        for path, text in setting.neighbours(hosting.root(setting.key)).items():
            path.parent.mkdir(exist_ok=True)
            path.write_text(text)
            stack.callback(shutil.rmtree, path.parent)
        hosting.own(setting.key)
        if setting.slow:
            limit = hosting.home(setting.key) / ".ftpaccess"
            limit.write_text("TransferRate STOR 300\n")
            stack.callback(limit.unlink)
        port = _port_of(hosting, setting)
        if setting.server:
            place = Path(tempfile.mkdtemp(prefix="faults-"))
            stack.callback(shutil.rmtree, place, ignore_errors=True)
            few = 2 if "few" in faults else 0
            command = stack.enter_context(server(setting.server, setting.kind, port, place, most=few))
        else:
            command = _own_command(hosting, setting)
        if "full" in faults:
            stack.enter_context(small_disk(hosting.home(setting.key), dice.randint(200_000, 3_000_000)))
        sessions = Sessions(port, command)
        stack.callback(_end, sessions, hosting, setting)
        before = hosting.picture(setting.key)
        store, steps = steps_on(folder)
        job = _job(store, hosting, setting, port, releases[bool(setting.showing)])
        lasting = [f for f in faults if f == "full" or (f == "few" and setting.server)]
        passing = [f for f in faults if f not in ("full", "few")]
        hit = [*lasting, *_through(dice, passing, folder, job, sessions, hosting.home(setting.key))]
        error = store.get(JobRow, job, "job").error
        if error is None:
            _check_identical(hosting, setting)
        while steps.undo_step(job)["move"] != "done":
            pass
        left = [r for r in store.journal(job).newest_first() if r.state == "undo-failed"]
        assert not left, [(r.leg, r.name) for r in left]
        after = hosting.picture(setting.key)
        assert after == before, f"something else is there than before: {_differing(before, after)}"
        told = error["message"][:150] if error else ""
    return Ended("undone" if error else "identical", setting.name, tuple(hit), time.monotonic() - began, told)


def _differing(before: dict[str, Any], after: dict[str, Any]) -> list[Any]:
    """The first things of two pictures that are not alike."""
    trees = set(before["tree"].items()) ^ set(after["tree"].items())
    return sorted(trees)[:4] or [before["databases"], after["databases"]]


def _port_of(hosting: Hosting, setting: Setting) -> int:
    return hosting.layout.base_port + 300 if setting.server else hosting.login(setting.key).port


def _own_command(hosting: Hosting, setting: Setting) -> list[str]:
    layout = hosting.layout
    if setting.kind == "sftp":
        return ssh.prepare(layout).command
    return ftp.prepare(layout, {c.key: hosting.password(c.key) for c in layout.customers}).command


def _end(sessions: Sessions, hosting: Hosting, setting: Setting) -> None:
    """A server that was started again: one of the practice host's is written down as such, one beside it ends here."""
    if not sessions.started:
        return
    if setting.server:
        for pid in [sessions.main, *sessions._all()]:
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        return
    name = "sshd" if setting.kind == "sftp" else "proftpd"
    host.replace_recorded(hosting.layout, name, sessions.main)


def _job(store: Store, hosting: Hosting, setting: Setting, port: int, release: str) -> str:
    name = f"{setting.key}-{new_id()[:8]}"
    new = hosting.new_account(setting.key, name=name)
    login = replace(hosting.login(setting.key), kind=setting.kind, port=port)
    row = AccountRow(
        name=name, title=name, transfer_kind=login.kind, transfer_host=login.host, transfer_port=login.port,
        transfer_login=login.login, root=new.root or str(hosting.customer(setting.key)["root"]), address=new.address, reach=new.reach,
        helper=setting.way.startswith("helper"), facts=setting.facts(),
    )  # fmt: skip
    if setting.way == "panel":
        row.panel, row.panel_login, row.panel_primer = new.panel, new.panel_login, new.panel_primer
    # As a check would: the host's own certificate is pinned where the name is reached.
    row.certificate = certificate_to_pin(account_of(row), SocketOutside())
    store.add(row)
    store.set_secret(f"account/{name}/transfer", hosting.password(setting.key))
    drivers = RealDrivers(store.folder / "primers", Inside(("127.0.0.1",)))
    planner = Planner(store, drivers, Connections(store, drivers.connect))
    plan = planner.make_plan(name, release, at=setting.at, settings={}, database="none", way=setting.way)
    assert not setting.showing or Plan.from_dict(plan.body).showing == setting.showing
    job = new_id()
    store.add(JobRow(id=job, plan_id=plan.id, account=name, application="yard 1.0", state="running"))
    return job


def _through(
    dice: random.Random, faults: list[str], folder: Path, job: str, sessions: Sessions, home: Path
) -> list[str]:
    """Run the steps to their end; faults come one after the other while they run. Returns those that hit."""
    hit: list[str] = []
    deadline = time.monotonic() + PATIENCE_SECONDS
    command = [sys.executable, "-m", "tests.drivers.placing_faults", "--work", str(folder), "--job", job]
    running = subprocess.Popen(command, start_new_session=True)
    try:
        waits = [dice.uniform(0.0, 1.2) for _ in faults]
        for fault, wait in zip(faults, waits, strict=True):
            # What is to be hit is the placing, not the start of the process: it is under way once its holding folder is there.
            until(
                lambda now=running: now.poll() is not None or any(home.rglob(".hs-hold-*/tree")),
                "nothing was begun",
                60,
            )
            with contextlib.suppress(subprocess.TimeoutExpired):
                running.wait(wait)
            if running.poll() is not None:
                break
            hit.append(fault)
            if fault == "kill":
                sessions.signal(signal.SIGKILL)
            elif fault == "stall":
                sessions.signal(signal.SIGSTOP)
                time.sleep(dice.uniform(0.3, 3.0))
                sessions.signal(signal.SIGCONT)
            elif fault == "restart":
                sessions.restart(dice.uniform(0, 0.8))
            elif running.poll() is None:
                os.killpg(running.pid, signal.SIGKILL)
                running.wait()
                running = subprocess.Popen(command, start_new_session=True)
        code = running.wait(max(1, deadline - time.monotonic()))
        assert code == 0, f"the job's process ended with {code}"
        return hit
    finally:
        if running.poll() is None:
            os.killpg(running.pid, signal.SIGKILL)
            running.wait()


def _check_identical(hosting: Hosting, setting: Setting) -> None:
    root = hosting.root(setting.key)
    files = corpus(web=bool(setting.showing))
    found = _split(root) if setting.showing == "split" else _whole(root / PLACE.strip("/"))
    if setting.showing == "links":
        assert (root / PLACE.strip("/")).resolve() == root.parent / "yard" / WEB
        found = _whole(root.parent / "yard")
    there = {path: hashlib.sha256(p.read_bytes()).hexdigest() for path, p in found.items() if p.is_file()}
    wanted = {path: hashlib.sha256(content).hexdigest() for path, content in files.items()}
    assert there == wanted, sorted(set(there.items()) ^ set(wanted.items()))[:4]
    modes = {(p.is_dir(), p.stat().st_mode & 0o777) for p in found.values()}
    assert modes == {(True, 0o755), (False, 0o644)}, modes
    # The host's placeholder page waits there until the job is over.
    known = (".htaccess", "aside-index.html")
    held = [p for p in hosting.home(setting.key).rglob(".hs-hold-*/*") if p.name not in known]
    assert not held, held


def _whole(base: Path) -> dict[str, Path]:
    """What stands in a folder, by its path below that; the folder itself is "."."""
    return {str(p.relative_to(base)): p for p in [base, *base.rglob("*")]}


def _split(root: Path) -> dict[str, Path]:
    """What stands in the document root, and what of the release beside it, by its path in the release."""
    found = {
        str(Path(WEB) / path): p for path, p in _whole(root).items() if path != "." and not path.startswith("logs")
    }
    for name in {path.split("/", 1)[0] for path in corpus(web=True)} - {WEB}:
        beside = root.parent / name
        found |= {str(Path(name) / path): p for path, p in _whole(beside).items()}
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seeds", type=int, default=200)
    parser.add_argument("--first", type=int, default=1)
    parser.add_argument("--only", default="", help="only settings whose name holds this text")
    parser.add_argument("--work", type=Path, help=argparse.SUPPRESS)
    parser.add_argument("--job", default="", help=argparse.SUPPRESS)
    asked = parser.parse_args()
    if asked.work:
        work(asked.work, asked.job)
        return
    from highshelf.practice.layout import Layout

    layout = Layout(Path("/var/lib/highshelf-faults"), 24400)
    host.stop(layout, remove=True)
    host.start(layout)
    failed = 0
    try:
        with tempfile.TemporaryDirectory() as folder:
            data = Path(folder) / "data"
            releases = shelve(data)
            for seed in range(asked.first, asked.first + asked.seeds):
                try:
                    ended = run_seed(seed, Hosting(layout), data, releases, asked.only)
                    print(json.dumps({"seed": seed, **ended.__dict__}), flush=True)
                except Exception as fault:
                    failed += 1
                    print(
                        json.dumps({"seed": seed, "how": "FAILED", "told": f"{type(fault).__name__}: {fault}"[-400:]}),
                        flush=True,
                    )
    finally:
        host.stop(layout, remove=True)
    sys.exit(bool(failed))


if __name__ == "__main__":
    main()
