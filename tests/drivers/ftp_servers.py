"""vsftpd and Pure-FTPd beside the practice host's ProFTPD: from Debian's packages, on loopback, for one customer's home.

The three packages conflict in apt: these two are downloaded and unpacked, once a machine, and never installed.
"""

from __future__ import annotations

import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from highshelf.core.account import Transfer, TransferLogin
from highshelf.practice.servers.ftp import make_certificate
from highshelf.practice.servers.probe import port_answers
from highshelf.practice.supervise import Daemon, await_ready, launch, stop_all
from tests.support import Hosting

CACHE = Path("/var/cache/highshelf-practice/ftp-servers")
PACKAGES = ("vsftpd", "pure-ftpd", "pure-ftpd-common")
HOST = "127.0.0.1"


def unpacked() -> Path:
    """The folder with both servers' programs."""
    box = CACHE / "box"
    if not box.exists():
        draft = CACHE / f"draft-{os.getpid()}"
        shutil.rmtree(draft, ignore_errors=True)
        draft.mkdir(parents=True)
        subprocess.run(
            ["apt-get", "download", "-qq", "-o", "APT::Sandbox::User=root", *PACKAGES],
            cwd=draft,
            check=True,
            capture_output=True,
        )
        for package in draft.glob("*.deb"):
            subprocess.run(["dpkg-deb", "-x", str(package), str(draft / "box")], check=True)
        (draft / "box").rename(box)
        shutil.rmtree(draft)
    return box


@contextmanager
def server(
    name: str,
    kind: Transfer,
    port: int,
    folder: Path,
    *,
    most: int = 0,
    idle_seconds: int = 0,
    passive_address: str = "",
    quota_megabytes: int = 0,
) -> Iterator[list[str]]:
    """A running `vsftpd` or `pure-ftpd`, by its command, that takes every system user of the machine, confined to the home.

    Args:
        most: connections from one address at once, or 0.
        idle_seconds: after which a silent line is dropped, or 0.
        passive_address: what a server behind a wrongly set router says of itself (Pure-FTPd only).
        quota_megabytes: room for each login (Pure-FTPd only).
    """
    folder.mkdir(parents=True, exist_ok=True)
    certificate = folder / "server.pem"
    make_certificate(certificate, "ftp.saltmarsh.example")
    passive = (port + 10, port + 40)
    if name == "vsftpd":
        command = _vsftpd(kind, port, folder, certificate, passive, most, idle_seconds)
    else:
        command = _pure_ftpd(kind, port, certificate, passive, most, idle_seconds)
        command += ["-P", passive_address] if passive_address else []
        command += ["-n", f"10000:{quota_megabytes}"] if quota_megabytes else []
    daemon = Daemon(name, command, lambda: port_answers(port))
    log = folder / "server.out"
    running = launch(daemon, log)
    try:
        await_ready(daemon, running, log)
        yield command
    finally:
        stop_all([running], folder)


def _vsftpd(
    kind: Transfer, port: int, folder: Path, certificate: Path, passive: tuple[int, int], most: int, idle_seconds: int
) -> list[str]:
    (folder / "empty").mkdir(exist_ok=True)
    settings = {
        "listen": "YES",
        "listen_address": HOST,
        "listen_port": port,
        "background": "NO",
        "local_enable": "YES",
        "anonymous_enable": "NO",
        "write_enable": "YES",
        "local_umask": "022",
        "chroot_local_user": "YES",
        "allow_writeable_chroot": "YES",
        "secure_chroot_dir": folder / "empty",
        # Debian's fallback service: the system's own passwords.
        "pam_service_name": "other",
        "pasv_min_port": passive[0],
        "pasv_max_port": passive[1],
        "seccomp_sandbox": "NO",
        "xferlog_enable": "NO",
        "max_per_ip": most,
    }
    if idle_seconds:
        settings["idle_session_timeout"] = idle_seconds
    if kind != "ftp":
        settings |= {
            "ssl_enable": "YES",
            "rsa_cert_file": certificate,
            "ssl_ciphers": "HIGH",
            "require_ssl_reuse": "YES",
        }
        settings |= {"implicit_ssl": "YES"} if kind == "ftps-implicit" else {}
    config = folder / "vsftpd.conf"
    config.write_text("".join(f"{n}={v}\n" for n, v in settings.items()))
    return [str(unpacked() / "usr/sbin/vsftpd"), str(config)]


def _pure_ftpd(
    kind: Transfer, port: int, certificate: Path, passive: tuple[int, int], most: int, idle_seconds: int
) -> list[str]:
    command = [str(unpacked() / "usr/sbin/pure-ftpd"), "-S", f"{HOST},{port}", "-l", "unix", "-A", "-E", "-u", "100"]
    command += ["-p", f"{passive[0]}:{passive[1]}", "-U", "133:022", "-H"]
    command += ["-Y", "2" if kind == "ftps" else "0", "-2", str(certificate)] if kind != "ftp" else []
    command += ["-C", str(most)] if most else []
    return command + (["-I", str(max(1, idle_seconds // 60))] if idle_seconds else [])


def login_at(hosting: Hosting, key: str, kind: Transfer, port: int) -> TransferLogin:
    """A customer's login at a server of these."""
    return TransferLogin(kind, HOST, port, str(hosting.customer(key)["login"]))
