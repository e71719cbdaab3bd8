"""MariaDB: customers reach it through the socket PHP calls `localhost`, or over loopback."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

from highshelf.practice.faults import PracticeError
from highshelf.practice.layout import LOOPBACK, Layout
from highshelf.practice.supervise import Daemon
from highshelf.practice.users import owned_by

SERVER = "/usr/sbin/mariadbd"
# mariadb-install-db takes about 20 s: done once a machine, then copied.
PREPARED = Path("/var/cache/highshelf-practice")


def prepared_folder() -> Path:
    """The machine's prepared, empty data folder for this server version; made when missing."""
    version = subprocess.run([SERVER, "--version"], capture_output=True, text=True, check=True).stdout.split()[2]
    target = PREPARED / f"mariadb-{version}"
    if target.exists():
        return target
    PREPARED.mkdir(parents=True, exist_ok=True)
    draft = PREPARED / f"draft-{version}"
    shutil.rmtree(draft, ignore_errors=True)
    done = subprocess.run(
        ["mariadb-install-db", "--no-defaults", f"--datadir={draft}", "--user=mysql", "--skip-test-db"],
        capture_output=True,
        text=True,
    )
    if done.returncode:
        raise PracticeError("MariaDB's data folder could not be made", hint=done.stderr[-400:] or done.stdout[-400:])
    draft.rename(target)
    return target


def prepare(layout: Layout) -> Daemon:
    folder = layout.folder / "db"
    if not (folder / "data").exists():
        folder.mkdir(parents=True, exist_ok=True)
        subprocess.run(["cp", "-a", str(prepared_folder()), str(folder / "data")], check=True)
    owned_by(folder, "mysql")
    folder.chmod(0o755)
    command = [
        SERVER,
        "--no-defaults",
        f"--datadir={folder}/data",
        f"--socket={layout.database_socket}",
        f"--pid-file={folder}/mariadb.pid",
        f"--port={layout.port('mariadb')}",
        f"--bind-address={LOOPBACK}",
        "--user=mysql",
        "--character-set-server=utf8mb4",
        "--skip-name-resolve",
        "--innodb-buffer-pool-size=32M",
        "--performance-schema=OFF",
    ]
    return Daemon("mariadb", command, lambda: _answers(layout))


def _answers(layout: Layout) -> bool:
    return layout.database_socket.exists() and query(layout.database_socket, "SELECT 1") == [["1"]]


def query(socket: Path, sql: str) -> list[list[str]]:
    """Run SQL as the server's administrator (root over the socket); rows of text, or [] when it cannot connect.

    Raises:
        PracticeError: the server refused the statement.
    """
    done = subprocess.run(
        ["mariadb", "--no-defaults", f"--socket={socket}", "-N", "-B"], input=sql, capture_output=True, text=True
    )
    if done.returncode:
        if "ERROR 2002" in done.stderr:
            return []
        raise PracticeError("the database server said: " + done.stderr.strip())
    return [line.split("\t") for line in done.stdout.splitlines()]
