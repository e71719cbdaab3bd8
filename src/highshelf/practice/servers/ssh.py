"""OpenSSH: a shell for one customer, SFTP in a chroot for another, nothing for the rest."""

from __future__ import annotations

import os
import pwd
import subprocess
from pathlib import Path

from highshelf.practice.layout import Layout
from highshelf.practice.servers.probe import port_answers
from highshelf.practice.supervise import Daemon


def prepare(layout: Layout) -> Daemon:
    """Write keys and configuration; returns the daemon."""
    etc = layout.etc / "ssh"
    keys = layout.folder / "keys"
    for folder in (etc, keys):
        folder.mkdir(parents=True, exist_ok=True)
    etc.chmod(0o755)
    _key(etc / "host_ed25519")
    matches = []
    for customer in layout.customers:
        login = layout.login(customer)
        if not customer.over_ssh:
            continue
        _key(keys / f"{customer.key}_ed25519")
        authorized = etc / f"authorized.{login}"
        authorized.write_text((keys / f"{customer.key}_ed25519.pub").read_text())
        entry = pwd.getpwnam(login)
        os.chown(authorized, entry.pw_uid, entry.pw_gid)
        authorized.chmod(0o600)
        matches.append(_match(layout, login, chrooted=customer.access == "sftp", home=layout.home(customer)))
    allowed = " ".join(layout.login(c) for c in layout.customers if c.over_ssh)
    config = etc / "sshd_config"
    config.write_text(
        CONFIG.format(host=layout.host, port=layout.port("ssh"), etc=etc, run=layout.run, allowed=allowed)
        + "".join(matches)
    )
    # Compiled into Debian's sshd; a machine whose own sshd never ran lacks it.
    Path("/run/sshd").mkdir(mode=0o755, exist_ok=True)
    port = layout.port("ssh")
    return Daemon("sshd", ["/usr/sbin/sshd", "-D", "-e", "-f", str(config)], lambda: port_answers(port, layout.host))


def _match(layout: Layout, login: str, *, chrooted: bool, home: Path) -> str:
    if chrooted:
        return f"\nMatch User {login}\n  ChrootDirectory {home}\n  ForceCommand internal-sftp -u 0022\n  PermitTTY no\n"
    # The host's own php (its socket, its limits) comes first in the customer's path.
    path = f"{layout.folder}/bin:/usr/local/bin:/usr/bin:/bin"
    return f'\nMatch User {login}\n  SetEnv "PATH={path}"\n'


def _key(path: Path) -> None:
    if not path.exists():
        subprocess.run(
            ["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-C", "practice", "-f", str(path)],
            check=True,
            capture_output=True,
        )


CONFIG = """ListenAddress {host}:{port}
HostKey {etc}/host_ed25519
PidFile {run}/sshd.pid
AuthorizedKeysFile {etc}/authorized.%u
AllowUsers {allowed}
UsePAM no
PasswordAuthentication yes
KbdInteractiveAuthentication no
PrintMotd no
UseDNS no
Subsystem sftp internal-sftp
"""
