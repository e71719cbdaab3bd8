"""What tests share: the practice host as tests see it, and a service that can be killed."""

from __future__ import annotations

import hashlib
import itertools
import json
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from pydantic import SecretStr

from highshelf.client import Client
from highshelf.core.account import TransferLogin, parse_transfer
from highshelf.core.origins import Origins
from highshelf.drivers.http.fetch import HttpFetch
from highshelf.drivers.wire.outside import SocketOutside
from highshelf.practice import host, users
from highshelf.practice.layout import Customer, Layout
from highshelf.practice.servers import php, postgresql
from highshelf.practice.servers.mariadb import query
from highshelf.schemas.models import AccountNew, InstallationOut, JobOut, PlanNew
from tests.nursery import Child, begin

# Another checkout's sources can be put under these tests: what they say of it is what it does.
# Large matrices are run whole by a word, and as a sample otherwise.
WHOLE = os.environ.get("HIGHSHELF_WHOLE") == "1"
OURS = Path(__file__).resolve().parents[1] / "src"
SOURCE = Path(os.environ.get("HIGHSHELF_TEST_SOURCE") or OURS)


class Hosting:
    """The practice host: its customers' logins, and what stands there."""

    def __init__(self, layout: Layout) -> None:
        self.layout = layout

    def customer(self, key: str) -> dict[str, Any]:
        return next(c for c in host.status(self.layout).customers if c["key"] == key)

    def _known(self, key: str) -> Customer:
        return next(c for c in self.layout.customers if c.key == key)

    def home(self, key: str) -> Path:
        return self.layout.home(self._known(key))

    def root(self, key: str) -> Path:
        return self.layout.document_root(self._known(key))

    def login(self, key: str) -> TransferLogin:
        return parse_transfer(self.customer(key)["transfer"])

    def password(self, key: str) -> str:
        return str(self.customer(key)["password"])

    def fetch(self, key: str, address: str = "") -> HttpFetch:
        """A conversation with the customer's site, which takes the certificate that the host shows now."""
        found = self.customer(key)
        seen = None
        if found["reach"] and found["address"].startswith("https:"):
            host_name, _, port = found["reach"].rpartition(":")
            seen = SocketOutside().certificate(host_name, int(port), urlsplit(found["address"]).hostname or "")
        address = address or found["address"]
        return HttpFetch(
            Origins.of(address), address=address, reach=found["reach"], certificate=seen.sha256 if seen else ""
        )

    def new_account(self, key: str, **changes: Any) -> AccountNew:
        found = self.customer(key)
        fields = {
            "name": key,
            "title": found["title"],
            "transfer": found["transfer"],
            "password": SecretStr(found["password"]),
            "root": found["root"],
            "address": found["address"],
            "reach": found["reach"],
            "panel": found["panel"],
            "panel_login": found["number"],
            "panel_primer": "saltmarsh",
            "email": f"keeper@{found['domain']}",
        }
        return AccountNew(**{**fields, **changes})

    def databases(self) -> tuple[list[str], list[str]]:
        """The customers' databases and database users."""
        names = [r[0] for r in self.sql("SHOW DATABASES") if "-20" in r[0] or r[0].startswith("w20")]
        people = self.sql("SELECT User FROM mysql.user WHERE User LIKE '%-20%' OR User LIKE 'w20%'")
        return sorted(names), sorted(r[0] for r in people)

    def counter_weather(self, **told: int | str) -> None:
        """What goes wrong at the order counter from now on."""
        (self.layout.folder / "counter" / "weather.json").write_text(json.dumps(told))

    def sql(self, text: str) -> list[list[str]]:
        return query(self.layout.database_socket, text)

    def picture(self, key: str) -> dict[str, Any]:
        """Everything that an undone job must leave as it was: files with hashes, modes and owners; databases; users."""
        tree = {}
        for path in sorted(self.home(key).rglob("*")):
            name = str(path.relative_to(self.home(key)))
            if name.startswith(("logs", "tmp/")):
                continue
            stat = path.lstat()
            digest = hashlib.sha256(path.read_bytes()).hexdigest() if path.is_file() else ""
            tree[name] = (oct(stat.st_mode), stat.st_uid, digest)
        return {"tree": tree, "databases": self.databases()}

    def own(self, key: str) -> None:
        """Everything in the customer's document root belongs to its login."""
        owner = (self.home(key) / "private").stat()
        for path in self.root(key).rglob("*"):
            os.chown(path, owner.st_uid, owner.st_gid, follow_symlinks=False)

    def reset(self) -> None:
        for customer in self.layout.customers:
            root, home = self.layout.document_root(customer), self.layout.home(customer)
            shutil.rmtree(root, ignore_errors=True)
            # What was shown by links stands beside: left there, PHP's opcode cache would go on running it at the same address.
            laid = {"logs", "private", "tmp", root.relative_to(home).parts[0]}
            for left in [p for p in home.iterdir() if p.name not in laid]:
                shutil.rmtree(left, ignore_errors=True) if left.is_dir() and not left.is_symlink() else left.unlink()
            uid = self.layout.home(customer) / "private"
            users.ensure_home(self.layout, customer, uid.stat().st_uid, uid.stat().st_gid)
        for left in (self.layout.etc / "apache" / "sites").glob("*.conf"):
            left.unlink()
        self._switch_back()
        for name in self.postgresql_databases():
            self.pg(f"DROP DATABASE {name} WITH (FORCE)")
            self.pg(f"DROP ROLE {name}")
        self.counter_weather()
        names, people = self.databases()
        for name in names:
            self.sql(f"DROP DATABASE `{name}`")
        for name in people:
            self.sql(f"DROP USER '{name}'@'%'")

    def pg(self, text: str, database: str = "postgres") -> list[list[str]]:
        return postgresql.query(self.layout.postgresql_socket, self.layout.port("postgresql"), text, database)

    def postgresql_databases(self) -> list[str]:
        return [r[0] for r in self.pg("SELECT datname FROM pg_database WHERE datname ~ '^c[0-9]+_'")]

    def _switch_back(self) -> None:
        """Nobody has switched anything in PHP."""
        usual, changed = php.switches_text("", ()), False
        for customer in self.layout.customers:
            own = php.switches_file(self.layout, self.layout.login(customer))
            if own.read_text() != usual:
                own.write_text(usual)
                changed = True
        if changed:
            php.look_again(self.layout.run / "fpm.pid")

    def leftovers(self) -> list[str]:
        """Anything of ours in any customer's home."""
        return [str(p) for c in self.layout.customers for p in self.layout.home(c).rglob("*hs-*")]


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Service:
    """`highshelf serve` as a process of its own."""

    def __init__(self, data: Path, source: Path = SOURCE, options: tuple[str, ...] = ()) -> None:
        self.data, self.source, self.port, self.options = data, source, free_port(), options
        self.inside = "127.0.0.1"
        self.process: Child | subprocess.Popen[bytes] | None = None
        self.environment = {
            **os.environ,
            "HIGHSHELF_DATA": str(data),
            "HIGHSHELF_URL": f"http://127.0.0.1:{self.port}",
            "PYTHONPATH": str(source),
            "COLUMNS": "200",
        }

    @property
    def log(self) -> Path:
        return self.data.parent / "service.log"

    def start(self) -> None:
        words = ["serve", "--port", str(self.port), *self.options]
        # The practice host is in our own network, which has to be said.
        words += ["--inside", self.inside] if self.inside else []
        self.process = self._begin(words)
        try:
            until(lambda: self._answers(), "the service did not start", 60)
        except AssertionError as fault:
            # Whoever asked for it has none to stop.
            self.kill()
            raise AssertionError(f"{fault}: {self.log.read_text()[-800:]}") from None

    def _begin(self, words: list[str]) -> Child | subprocess.Popen[bytes]:
        if self.environment["PYTHONPATH"] == str(OURS):
            return begin(words, self.environment, self.log)
        with self.log.open("ab") as log:
            command = [sys.executable, "-m", "highshelf", *words]
            return subprocess.Popen(command, env=self.environment, stdout=log, stderr=log, start_new_session=True)

    def _answers(self) -> bool:
        assert self.process is not None
        if self.process.poll() is not None:
            raise AssertionError(self.log.read_text()[-2000:])
        with socket.socket() as probe:
            reached = probe.connect_ex(("127.0.0.1", self.port)) == 0
            # The system may give the probe that very port, and it reaches itself (TCP's simultaneous open).
            return reached and probe.getsockname() != probe.getpeername()

    def kill(self) -> None:
        """As a power cut would."""
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def hold(self) -> None:
        """Stand still, in the middle of whatever it does."""
        assert self.process is not None
        self.process.send_signal(signal.SIGSTOP)

    def go_on(self) -> None:
        assert self.process is not None
        self.process.send_signal(signal.SIGCONT)

    def stop(self) -> None:
        if self.process is not None and self.process.poll() is None:
            self.go_on()
            self.process.terminate()
            try:
                self.process.wait(15)
            except subprocess.TimeoutExpired:
                self.kill()

    @property
    def token(self) -> str:
        return (self.data / "token").read_text().strip()

    @property
    def welcome(self) -> str:
        """The code of the first operator's link, as `serve` printed it last."""
        return re.findall(r"/welcome#(\S+)", self.log.read_text())[-1]

    @property
    def client(self) -> Client:
        return Client(f"http://127.0.0.1:{self.port}", self.token)

    def cli(self, *words: str, text: str = "") -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "highshelf", *words]
        return subprocess.run(command, env=self.environment, capture_output=True, text=True, input=text, timeout=180)

    def cli_json(self, *words: str, text: str = "") -> Any:
        return json.loads(self.cli(*words, "--json", text=text).stdout)

    def install(self, release: str, account: str, at: str = "/", **plan: Any) -> JobOut:
        """Install and wait for the end, or for a question."""
        with self.client as client:
            made = client.plan_make(PlanNew(account=account, release=release, at=at, **plan))
            job = client.job_start(made.id)
            return self.wait(job.id)

    def wait(
        self, job_id: str, states: tuple[str, ...] = ("done", "failed", "cancelled", "waiting"), seconds: float = 120
    ) -> JobOut:
        with self.client as client:
            try:
                until(
                    lambda: client.job_show(job_id).state in states,
                    f"job {job_id} never came to {states}",
                    seconds,
                    longest_seconds=0.25,
                )
            except AssertionError as fault:
                job, last = client.job_show(job_id), client.job_log(job_id).items[-6:]
                raise AssertionError(f"{fault}: {job.state} {job.error}\n" + "\n".join(e.text for e in last)) from None
            return client.job_show(job_id)

    def installed(self, job: JobOut) -> InstallationOut:
        assert job.state == "done", (job.error, [e.text for e in self.client.job_log(job.id).items])
        return self.client.installation_show(job.installation)


def crossed(*axes: Sequence[Any]) -> list[tuple[Any, ...]]:
    """Every value of each axis, each at least once; with HIGHSHELF_WHOLE=1 every value with every other."""
    if WHOLE:
        return list(itertools.product(*axes))
    return [tuple(axis[n % len(axis)] for axis in axes) for n in range(max(len(axis) for axis in axes))]


def until(
    holds: Callable[[], bool],
    otherwise: str,
    seconds: float = 30,
    pause_seconds: float = 0.01,
    longest_seconds: float = 0.03,
) -> None:
    """Poll until something holds, ever less often: who asks a service every moment keeps it from its work."""
    deadline = time.monotonic() + seconds
    while not holds():
        if time.monotonic() > deadline:
            raise AssertionError(otherwise)
        time.sleep(pause_seconds)
        pause_seconds = min(pause_seconds * 1.3, longest_seconds)
