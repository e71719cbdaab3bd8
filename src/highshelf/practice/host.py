"""Start, stop and look at a practice host: one folder of data, private servers on loopback."""

from __future__ import annotations

import fcntl
import json
import pwd
import secrets
import shutil
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from highshelf.practice import users
from highshelf.practice.claim import check_free
from highshelf.practice.faults import PracticeError
from highshelf.practice.layout import LOOPBACK, Customer, Layout
from highshelf.practice.letters import welcome_letter
from highshelf.practice.servers import ftp, mariadb, php, postgresql, ssh, web
from highshelf.practice.servers.ftp import make_certificate
from highshelf.practice.servers.probe import port_answers
from highshelf.practice.supervise import (
    Daemon,
    Running,
    alive,
    await_ready,
    end_processes_of,
    launch,
    start_time,
    stop_all,
)
from highshelf.practice.vendor.releases import publish

Say = Callable[[str], None]
# What a browser may send to the panel in one file; many panels allow little.
PANEL_UPLOAD_BYTES = 24_000_000


@dataclass(frozen=True)
class Status:
    """What `practice status` tells: the running servers (name -> pid), the customers with their logins, both panels, the makers' site."""

    folder: Path
    servers: dict[str, int]
    customers: list[dict[str, Any]]
    panel: str
    counter: str
    makers: str

    @property
    def running(self) -> bool:
        return bool(self.servers)


def start(layout: Layout, say: Say = lambda _: None) -> Status:
    """Start every server that is not running; what a previous run left behind is stopped first.

    Raises:
        PracticeError: a package is missing, a port belongs to somebody else, or a server will not start.
    """
    users.need_tools()
    check_free(layout)
    layout.folder.mkdir(parents=True, exist_ok=True)
    layout.folder.chmod(0o755)
    with _only_one(layout):
        _stop_recorded(layout)
        claim_ports(layout)
        passwords = _passwords(layout)
        shutil.rmtree(layout.run, ignore_errors=True)
        for folder in (layout.etc, layout.run, layout.logs):
            folder.mkdir(parents=True, exist_ok=True)
            folder.chmod(0o755)
        for customer in layout.customers:
            uid, gid = users.ensure_user(layout, customer, passwords[customer.key])
            users.ensure_home(layout, customer, uid, gid)
        say("preparing the database servers")
        daemons = [mariadb.prepare(layout), postgresql.prepare(layout), php.prepare(layout), web.prepare(layout)]
        daemons += [ssh.prepare(layout), ftp.prepare(layout, passwords), _panel(layout, passwords), _vendor(layout)]
        daemons.append(_mailroom(layout))
        _write_letters(layout, passwords)
        _start_all(layout, daemons, say)
    return status(layout)


def stop(layout: Layout, *, remove: bool = False) -> int:
    """Stop what runs from this folder; returns how many servers that were. `remove` also takes data and users away.

    Raises:
        PracticeError: somebody else is at work with it.
    """
    check_free(layout)
    if not layout.folder.exists():
        return 0
    with _only_one(layout):
        count = _stop_recorded(layout)
    if remove:
        users.remove_users(layout)
        shutil.rmtree(layout.folder, ignore_errors=True)
    return count


def status(layout: Layout) -> Status:
    servers = {r.name: r.pid for r in _recorded(layout) if alive(r)}
    passwords = json.loads(_secret_file(layout).read_text()) if _secret_file(layout).exists() else {}
    customers = [_describe(layout, c, passwords.get(c.key, "")) for c in layout.customers] if servers else []
    return Status(
        layout.folder, servers, customers, layout.panel_address, layout.counter_address, layout.vendor_address
    )


def _describe(layout: Layout, customer: Customer, password: str) -> dict[str, Any]:
    described = {
        "key": customer.key,
        "number": customer.number,
        "domain": customer.domain,
        "title": customer.title,
        "transfer": layout.transfer(customer),
        "login": layout.login(customer),
        "password": password,
        "root": customer.seen_root,
        "address": layout.address(customer),
        "reach": layout.reach(customer),
        "panel": layout.panel_address,
        "counter": layout.counter_address,
        "shell": customer.access == "ssh",
        "home": str(layout.home(customer)),
        "letter": str(layout.folder / "letters" / f"{customer.key}.txt"),
    }
    return described


def _start_all(layout: Layout, daemons: list[Daemon], say: Say) -> None:
    started: list[tuple[Daemon, Running]] = []
    try:
        for daemon in daemons:
            log = layout.logs / f"{daemon.name}.out"
            log.unlink(missing_ok=True)
            started.append((daemon, launch(daemon, log)))
            _record(layout, [r for _, r in started])
        for daemon, running in started:
            await_ready(daemon, running, layout.logs / f"{daemon.name}.out")
            say(f"{daemon.name} answers")
    except BaseException:
        stop_all([r for _, r in started], layout.logs)
        _record(layout, [])
        raise


def _panel(layout: Layout, passwords: dict[str, str]) -> Daemon:
    config = layout.etc / "panel.json"
    config.touch(mode=0o600)
    settings = {
        "title": "Saltmarsh Web Co-op",
        "host": layout.host,
        "port": layout.port("panel"),
        "socket": str(layout.database_socket),
        "postgresql_socket": str(layout.postgresql_socket),
        "postgresql_port": layout.port("postgresql"),
        "customers": {c.number: _at_the_panel(layout, c, passwords[c.key]) for c in layout.customers},
        "sites": str(layout.etc / "apache" / "sites"),
        "apache_pid": str(layout.run / "apache.pid"),
        "php_pid": str(layout.run / "fpm.pid"),
        "database_limit": 12,
        "upload_limit_bytes": PANEL_UPLOAD_BYTES,
        "counter": _counter(layout, passwords),
    }
    config.write_text(json.dumps(settings))
    port, counter = layout.port("panel"), layout.port("counter")
    command = [sys.executable, "-m", "highshelf.practice.panel", str(config)]
    source = str(Path(__file__).resolve().parents[2])
    ready = lambda: port_answers(port, layout.host) and port_answers(counter, layout.host)  # noqa: E731
    return Daemon("panel", command, ready, {"PYTHONPATH": source})


def _counter(layout: Layout, passwords: dict[str, str]) -> dict[str, Any]:
    """Settings of the order counter, which has the same customers."""
    folder = layout.folder / "counter"
    folder.mkdir(exist_ok=True)
    return {
        "host": layout.host,
        "port": layout.port("counter"),
        "socket": str(layout.database_socket),
        "server": f"{LOOPBACK}:{layout.port('mariadb')}",
        "folder": str(folder),
        "customers": {c.number: {"password": passwords[c.key]} for c in layout.customers},
    }


def _vendor(layout: Layout) -> Daemon:
    """The makers' site; its certificate is its own authority."""
    folder, config = layout.folder / "makers", layout.etc / "vendor.json"
    publish(folder)
    make_certificate(layout.vendor_certificate, "localhost", layout.host)
    # The private key lies in the same file: whoever trusts it gets the certificate alone.
    text = layout.vendor_certificate.read_text()
    layout.vendor_authority.write_text(text[text.index("-----BEGIN CERTIFICATE") :])
    port = layout.port("vendor")
    settings = {"folder": str(folder), "host": layout.host, "port": port, "certificate": str(layout.vendor_certificate)}
    config.write_text(json.dumps(settings))
    command = [sys.executable, "-m", "highshelf.practice.vendor", str(config)]
    source = str(Path(__file__).resolve().parents[2])
    return Daemon("makers", command, lambda: port_answers(port, layout.host), {"PYTHONPATH": source})


def _mailroom(layout: Layout) -> Daemon:
    """Letters to anybody, kept in `mail/`."""
    port, config = layout.port("mail"), layout.etc / "mailroom.json"
    config.write_text(json.dumps({"host": layout.host, "port": port, "folder": str(layout.folder / "mail")}))
    command = [sys.executable, "-m", "highshelf.practice.mailroom", str(config)]
    source = str(Path(__file__).resolve().parents[2])
    return Daemon("mailroom", command, lambda: port_answers(port, layout.host), {"PYTHONPATH": source})


def _at_the_panel(layout: Layout, customer: Customer, password: str) -> dict[str, Any]:
    entry = pwd.getpwnam(layout.login(customer))
    return {
        "title": customer.title,
        "login": layout.login(customer),
        "password": password,
        "domain": customer.domain,
        "home": str(layout.home(customer)),
        "uid": entry.pw_uid,
        "gid": entry.pw_gid,
        "host": web.host_text(layout, customer, "@NAME@", "@ROOT@", layout.port("web")),
        "switches": str(php.switches_file(layout, layout.login(customer))),
    }


def claim_ports(layout: Layout) -> None:
    """Raises PracticeError naming each port that somebody has."""
    wanted = {
        name: layout.port(name)
        for name in (
            "ftp",
            "ftp-implicit",
            "ftp-plain",
            "ssh",
            "mariadb",
            "postgresql",
            "web",
            "web-tls",
            "panel",
            "counter",
            "vendor",
            "mail",
        )
    }
    wanted |= {f"web of {c.key}": layout.base_port + c.temporary_port for c in layout.customers}
    taken = [f"{port} ({name})" for name, port in wanted.items() if port_answers(port, layout.host)]
    if taken:
        raise PracticeError(
            "ports that the practice host wants are in use: " + ", ".join(taken),
            hint="stop what uses them, or choose other ports with --port",
        )


def _passwords(layout: Layout) -> dict[str, str]:
    """The customers' passwords, made at the first start and kept in a file only root can read."""
    path = _secret_file(layout)
    if path.exists():
        known: dict[str, str] = json.loads(path.read_text())
    else:
        known = {}
    for customer in layout.customers:
        known.setdefault(customer.key, secrets.token_urlsafe(12))
    path.touch(mode=0o600)
    path.write_text(json.dumps(known))
    return known


def _secret_file(layout: Layout) -> Path:
    return layout.folder / "customers.json"


def _write_letters(layout: Layout, passwords: dict[str, str]) -> None:
    folder = layout.folder / "letters"
    folder.mkdir(exist_ok=True)
    folder.chmod(0o700)
    for customer in layout.customers:
        (folder / f"{customer.key}.txt").write_text(welcome_letter(layout, customer, passwords[customer.key]))


def _recorded(layout: Layout) -> list[Running]:
    path = layout.folder / "state.json"
    if not path.exists():
        return []
    try:
        return [Running(**entry) for entry in json.loads(path.read_text())]
    except (ValueError, TypeError):
        return []


def _record(layout: Layout, running: list[Running]) -> None:
    (layout.folder / "state.json").write_text(json.dumps([asdict(r) for r in running]))


def replace_recorded(layout: Layout, name: str, pid: int) -> None:
    """A server that somebody else started again is ours all the same: `stop` ends it."""
    there = [r for r in _recorded(layout) if r.name != name]
    _record(layout, [*there, Running(name, pid, start_time(pid) or 0)])


def _stop_recorded(layout: Layout) -> int:
    recorded = _recorded(layout)
    count = sum(alive(r) for r in recorded)
    stop_all(recorded, layout.logs)
    for uid in users.user_ids(layout):
        end_processes_of(uid)
    _record(layout, [])
    return count


@contextmanager
def _only_one(layout: Layout) -> Iterator[None]:
    """Two starts or stops of one folder wait for each other."""
    with (layout.folder / "lock").open("w") as lock:
        deadline = time.monotonic() + 60
        while True:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except BlockingIOError:
                if time.monotonic() > deadline:
                    raise PracticeError("another start or stop of this practice host is still at work") from None
                time.sleep(0.05)
        yield
