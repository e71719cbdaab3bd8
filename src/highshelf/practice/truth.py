"""What the practice host knows about itself, in the survey's terms: read from its configuration and the system, never from a survey."""

from __future__ import annotations

import os
import pwd
import re
import subprocess
from typing import Any

from highshelf.practice.layout import Customer, Layout
from highshelf.practice.servers.mariadb import query
from highshelf.practice.servers.php import POOL, switches_file

UNKNOWN = object()


def php_extensions(layout: Layout, customer: Customer) -> list[str]:
    """Of the FPM binary itself, as `-m` prints them with the host's list, and what the customer has switched on."""
    environment = {**os.environ, "PHP_INI_SCAN_DIR": str(layout.etc / "php" / "conf.d")}
    told = subprocess.run(
        ["/usr/sbin/php-fpm8.2", "-m"], capture_output=True, text=True, check=True, env=environment
    ).stdout
    own = re.findall(r"\[extension\] = (\w+)\.so", switches_file(layout, layout.login(customer)).read_text())
    return [line for line in told.splitlines() if line and not line.startswith("[")] + own


def _pool(customer: Customer) -> dict[str, str]:
    """The PHP settings of a customer's pool, pinned ones last so that they win."""
    found = dict(re.findall(r"php(?:_admin)?_value\[([\w.]+)\] = (\S+)", POOL))
    return {**found, **dict(customer.pinned)}


def _bytes(text: str) -> int:
    return int(text[:-1]) << {"K": 10, "M": 20, "G": 30}[text[-1]]


def truth(layout: Layout, customer: Customer) -> dict[str, Any]:
    """Topic -> the data a survey with shell and helper must find for a customer without installations."""
    own = pwd.getpwnam(layout.login(customer))
    php = pwd.getpwnam(customer.php_user) if customer.php_user else own
    pool = _pool(customer)
    version = subprocess.run(
        ["/usr/sbin/php-fpm8.2", "-n", "-v"], capture_output=True, text=True, check=True
    ).stdout.split()[1]
    server = query(layout.database_socket, "SELECT VERSION()")[0][0].split("-")[0]
    home = str(layout.home(customer))
    shell = customer.access == "ssh"
    # What stands beside the root is the customer's, but for who is confined to the root or to a home that is root's.
    beside = not customer.lands_in_root and not (customer.access == "sftp" and "/" not in customer.root)
    same = php.pw_uid == own.pw_uid
    room = os.statvfs(home)
    told = {
        "transfer.login": {"ssh": "sftp"}.get(customer.access, customer.access),
        "transfer.landing": home if shell else "/",
        "shell.login": shell,
        "space.free": room.f_bavail * room.f_frsize,
        "site.root": customer.seen_root,
        "site.address": layout.address(customer),
        "site.beside": beside,
        # ProFTPD guards these in the folder it confines a login to.
        "site.refused": ["etc", "lib"] if customer.lands_in_root else [],
        "site.self": not customer.by_name,
        "site.name": not customer.by_name,
        "site.certificate": customer.tls,
        "web.htaccess": "honoured" if customer.htaccess else "ignored",
        "web.rewriting": customer.htaccess,
        "web.links": customer.links and (shell or (beside and same)),
        "web.user_ini": True,
        "php.version": version,
        "php.handler": "fpm-fcgi",
        "php.user": {"id": php.pw_uid, "name": php.pw_name, "same": same},
        "php.writes": same,
        "php.extensions": sorted(set(php_extensions(layout, customer))),
        "php.memory": _bytes(pool["memory_limit"]),
        "php.upload": min(_bytes(pool["upload_max_filesize"]), _bytes(pool["post_max_size"])),
        "php.post": _bytes(pool["post_max_size"]),
        "php.time": int(pool["max_execution_time"]),
        "php.input_time": int(pool.get("max_input_time", "60")),
        "php.pinned": sorted({"session.save_path", *(n for n, _ in customer.pinned if n != "disable_functions")}),
        "php.opcache": True,
        "php.timezone": "UTC",
        "php.errors": pool["display_errors"] != "0",
        "php.basedir": [],
        "php.disabled": sorted(f for f in pool.get("disable_functions", "").split(",") if f),
        "database.server": f"MariaDB {server}",
        "panel.login": True,
        "neighbours": [],
        "placing": "shell" if shell else "helper" if same else "files",
        "undoing": "whole" if same else "partly",
    }
    if shell:
        told["shell.user"] = {"name": own.pw_name, "id": own.pw_uid, "home": home}
        told["shell.php"] = version
    return told
