"""The customers' system users: PHP, SSH and FTP all act as the login's own user, as on a real host."""

from __future__ import annotations

import grp
import os
import pwd
import shutil
import subprocess
from pathlib import Path

from highshelf.practice.faults import PracticeError
from highshelf.practice.layout import Customer, Layout


def ensure_user(layout: Layout, customer: Customer, password: str) -> tuple[int, int]:
    """Make the system user of a customer when it is missing, set its password; returns uid and gid."""
    login = layout.login(customer)
    shell = "/bin/bash" if customer.access == "ssh" else "/usr/sbin/nologin"
    home = str(layout.home(customer))
    try:
        pwd.getpwnam(login)
        _run(["usermod", "-d", home, "-s", shell, login])
    except KeyError:
        _run(["useradd", "-M", "-U", "-d", home, "-s", shell, "-c", "High Shelf practice host", login])
    _run(["chpasswd"], f"{login}:{password}\n")
    entry = pwd.getpwnam(login)
    return entry.pw_uid, entry.pw_gid


def ensure_home(layout: Layout, customer: Customer, uid: int, gid: int) -> None:
    """Lay out a customer's home once: document root with the host's placeholder page, logs, private folder."""
    home, root = layout.home(customer), layout.document_root(customer)
    for folder in (home, root, home / "logs", home / "private", home / "tmp"):
        # A document root may lie deeper: the folders on the way are the customer's too.
        fresh = [f for f in (folder, *folder.parents) if f.is_relative_to(home) and not f.exists()]
        folder.mkdir(parents=True, exist_ok=True)
        for made in fresh:
            os.chown(made, uid, gid)
    (home / "tmp").chmod(0o700)
    (home / "private").chmod(0o700)
    if not any(root.iterdir()):
        placeholder = root / "index.html"
        placeholder.write_text(PLACEHOLDER.format(title=customer.title), encoding="utf-8")
        os.chown(placeholder, uid, gid)
    if customer.php_user:
        _for_another_user(home, root, uid, customer.php_user)
    # A chroot must belong to root and be writable by nobody else (sshd_config(5), ChrootDirectory).
    if customer.access == "sftp":
        os.chown(home, 0, gid)
        home.chmod(0o755)
    else:
        os.chown(home, uid, gid)
        home.chmod(0o711)


def _for_another_user(home: Path, root: Path, uid: int, user: str) -> None:
    """PHP runs as the web server's user: it reads by the group, which new files get from their folder, and writes nothing."""
    entry = pwd.getpwnam(user)
    os.chown(root, uid, entry.pw_gid)
    root.chmod(0o2750)
    for path in root.iterdir():
        os.chown(path, uid, entry.pw_gid)
        if path.is_file():
            path.chmod(0o640)
    os.chown(home / "tmp", entry.pw_uid, entry.pw_gid)


def remove_users(layout: Layout) -> None:
    for customer in layout.customers:
        subprocess.run(["userdel", layout.login(customer)], capture_output=True)


def user_ids(layout: Layout) -> list[int]:
    found = []
    for customer in layout.customers:
        try:
            found.append(pwd.getpwnam(layout.login(customer)).pw_uid)
        except KeyError:
            continue
    return found


def owned_by(path: Path, user: str) -> None:
    """Give a tree to a system user."""
    entry = pwd.getpwnam(user)
    for folder, _, files in os.walk(path):
        os.chown(folder, entry.pw_uid, entry.pw_gid)
        for name in files:
            os.chown(Path(folder) / name, entry.pw_uid, entry.pw_gid)


def need_tools() -> None:
    """Raises PracticeError naming each server that is not installed."""
    wanted = {
        "/usr/sbin/sshd": "openssh-server",
        "/usr/sbin/proftpd": "proftpd-core",
        "/usr/lib/proftpd/mod_tls.so": "proftpd-mod-crypto",
        "/usr/sbin/apache2": "apache2",
        "/usr/sbin/php-fpm8.2": "php8.2-fpm",
        "/usr/sbin/mariadbd": "mariadb-server",
    }
    missing = [package for path, package in wanted.items() if not Path(path).exists()]
    if not list(Path("/usr/lib/postgresql").glob("*/bin/postgres")):
        missing.append("postgresql")
    if missing:
        raise PracticeError(
            "the practice host needs servers that are not installed: " + ", ".join(missing),
            hint="apt-get install " + " ".join(missing) + " (./bin/demo does it)",
        )
    if os.geteuid() != 0:
        raise PracticeError("the practice host starts servers for several system users", hint="run it as root")
    if shutil.which("useradd") is None or not grp.getgrall():
        raise PracticeError("useradd is missing", hint="apt-get install passwd")


def _run(command: list[str], text: str | None = None) -> None:
    done = subprocess.run(command, input=text, capture_output=True, text=True)
    if done.returncode:
        raise PracticeError(f"{command[0]} failed: {done.stderr.strip()}")


PLACEHOLDER = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{title}</title></head>
<body><h1>{title}</h1><p>This space at the Saltmarsh Web Co-op is reserved. A website will be here soon.</p></body></html>
"""
