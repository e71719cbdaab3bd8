"""The practice host itself: gone without a trace, not upset by a stale previous run."""

from __future__ import annotations

import json
import os
import pwd
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.practice import host
from highshelf.practice.faults import PracticeError
from highshelf.practice.layout import Layout
from highshelf.practice.tidebook.build import build_archive

FOLDER = Path("/var/lib/highshelf-test-own")


@pytest.fixture
def layout() -> Iterator[Layout]:
    made = Layout(FOLDER, 26800)
    host.stop(made, remove=True)
    yield made
    host.stop(made, remove=True)


def processes() -> list[str]:
    """Command lines that name the folder, and everything its users run."""
    found = []
    for entry in Path("/proc").iterdir():
        try:
            line = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode()
        except OSError:
            continue
        if str(FOLDER) + "/" in line and str(os.getpid()) != entry.name:
            found.append(line)
    return found


def test_all_its_servers_come_and_go(layout: Layout) -> None:
    status = host.start(layout)
    assert set(status.servers) == {
        "mariadb",
        "postgresql",
        "php-fpm",
        "apache",
        "sshd",
        "proftpd",
        "panel",
        "makers",
        "mailroom",
    }
    assert len(processes()) >= 6
    assert host.stop(layout) == 9
    assert processes() == []
    assert not host.status(layout).running


def test_a_second_start_and_a_stale_run_are_survived(layout: Layout) -> None:
    first = host.start(layout).servers
    os.kill(first["apache"], signal.SIGKILL)
    os.kill(first["mariadb"], signal.SIGKILL)
    second = host.start(layout).servers
    assert set(first.values()) & set(second.values()) == set()
    host.stop(layout)
    # A state file that names processes of somebody else must not end them.
    innocent = subprocess.Popen(["sleep", "60"])
    (layout.folder / "state.json").write_text(json.dumps([{"name": "sshd", "pid": innocent.pid, "started": 1}]))
    assert host.stop(layout) == 0
    assert innocent.poll() is None
    innocent.kill()
    innocent.wait()


def test_data_and_passwords_outlive_a_stop_and_go_with_remove(layout: Layout) -> None:
    password = host.start(layout).customers[0]["password"]
    host.stop(layout)
    assert host.start(layout).customers[0]["password"] == password
    login = layout.login(layout.customers[0])
    assert pwd.getpwnam(login).pw_dir.startswith(str(FOLDER))
    host.stop(layout, remove=True)
    assert not FOLDER.exists()
    with pytest.raises(KeyError):
        pwd.getpwnam(login)


def test_a_port_in_use_is_named(layout: Layout) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", layout.port("ssh")))
        taken.listen()
        with pytest.raises(PracticeError) as caught:
            host.start(layout)
    assert str(layout.port("ssh")) in caught.value.message and "--port" in caught.value.hint


def test_the_commands_start_tell_and_stop(layout: Layout) -> None:
    def run(*words: str) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "highshelf", "practice", *words, "--folder", str(FOLDER), "--port", "26800"]
        return subprocess.run(command, capture_output=True, text=True)

    assert run("status").returncode == 1
    assert "sshd answers" in run("start").stdout
    told = json.loads(run("status", "--json").stdout)
    assert [c["key"] for c in told["customers"]] == [c.key for c in layout.customers]
    letter = Path(told["customers"][1]["letter"])
    assert told["customers"][1]["password"] in letter.read_text() and letter.parent.stat().st_mode & 0o077 == 0
    assert "9 servers stopped" in run("stop", "--remove").stdout


def test_the_demo_release_is_the_same_bytes_each_time(tmp_path: Path) -> None:
    assert build_archive(tmp_path / "a").read_bytes() == build_archive(tmp_path / "b").read_bytes()


def test_php_runs_as_each_logins_own_user(hosting: object) -> None:
    for key in ("ferry", "choir", "seeds"):
        customer = hosting.customer(key)  # type: ignore[attr-defined]
        page = hosting.root(key) / "who.php"  # type: ignore[attr-defined]
        page.write_text("<?php echo posix_getpwuid(posix_geteuid())['name'];")
        port = customer["reach"].split(":")[-1] if customer["reach"] else customer["address"].split(":")[-1].strip("/")
        name = customer["domain"] if customer["reach"] else "127.0.0.1"
        with socket.create_connection(("127.0.0.1", int(port))) as line:
            line.sendall(f"GET /who.php HTTP/1.0\r\nHost: {name}\r\n\r\n".encode())
            answer = b"".join(iter(lambda: line.recv(4096), b""))
        page.unlink()
        assert answer.endswith(customer["login"].encode()), key
