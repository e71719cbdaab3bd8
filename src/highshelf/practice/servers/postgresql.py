"""PostgreSQL: customers reach it over loopback at a port of its own; its administrator over the socket."""

from __future__ import annotations

import os
import pwd
import subprocess
from pathlib import Path

from highshelf.practice.faults import PracticeError
from highshelf.practice.layout import Layout
from highshelf.practice.supervise import Daemon
from highshelf.practice.users import owned_by

USER = "postgres"
RULES = """local all {user} peer
local all all scram-sha-256
host all all 127.0.0.0/8 scram-sha-256
"""


def server_folder() -> Path:
    """Where Debian keeps the newest server's programs. Raises PracticeError."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/postgres"), key=lambda p: int(p.parts[-3]))
    if not found:
        raise PracticeError(
            "the practice host needs PostgreSQL", hint="apt-get install postgresql (./bin/demo does it)"
        )
    return found[-1].parent


def prepare(layout: Layout) -> Daemon:
    folder, programs = layout.postgresql_socket, server_folder()
    if not (folder / "data" / "PG_VERSION").exists():
        folder.mkdir(parents=True, exist_ok=True)
        owned_by(folder, USER)
        _as_its_user(
            [str(programs / "initdb"), "-D", str(folder / "data"), "--no-sync", "-E", "UTF8", "--locale=C.UTF-8"]
        )
        (folder / "data" / "pg_hba.conf").write_text(RULES.format(user=USER))
    owned_by(folder, USER)
    # Everybody may reach the socket; who comes in is the rules' business.
    folder.chmod(0o755)
    (folder / "data").chmod(0o700)
    settings = {
        "listen_addresses": layout.host,
        "port": layout.port("postgresql"),
        "unix_socket_directories": folder,
        "shared_buffers": "16MB",
        "max_connections": 30,
        "fsync": "off",
    }
    command = [*_user_words(), str(programs / "postgres"), "-D", str(folder / "data")]
    command += [word for name, value in settings.items() for word in ("-c", f"{name}={value}")]
    return Daemon("postgresql", command, lambda: _answers(layout))


def _answers(layout: Layout) -> bool:
    try:
        return query(layout.postgresql_socket, layout.port("postgresql"), "SELECT 1") == [["1"]]
    except PracticeError:
        return False


def query(socket: Path, port: int, sql: str, database: str = "postgres") -> list[list[str]]:
    """Run SQL as the server's administrator; rows of text.

    Raises:
        PracticeError: the server refused the statement, or does not answer.
    """
    command = [
        "psql",
        "-X",
        "-q",
        "-A",
        "-t",
        "-F",
        "\t",
        "-v",
        "ON_ERROR_STOP=1",
        "-h",
        str(socket),
        "-p",
        str(port),
        "-d",
        database,
    ]
    done = subprocess.run([*_user_words(), *command], input=sql, capture_output=True, text=True, cwd="/")
    if done.returncode:
        raise PracticeError("the database server said: " + done.stderr.strip())
    return [line.split("\t") for line in done.stdout.splitlines()]


def _user_words() -> list[str]:
    """What makes a command run as the server's user; the server refuses to run as root."""
    entry = pwd.getpwnam(USER)
    if os.geteuid() == entry.pw_uid:
        return []
    return ["setpriv", f"--reuid={entry.pw_uid}", f"--regid={entry.pw_gid}", "--init-groups"]


def _as_its_user(command: list[str]) -> None:
    done = subprocess.run([*_user_words(), *command], capture_output=True, text=True, cwd="/")
    if done.returncode:
        raise PracticeError("PostgreSQL's data folder could not be made", hint=done.stderr[-400:])
