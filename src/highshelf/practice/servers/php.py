"""PHP-FPM with one pool a customer, and what a customer may switch there: extensions and the time zone."""

from __future__ import annotations

import grp
import os
import signal
from pathlib import Path

from highshelf.practice.faults import PracticeError
from highshelf.practice.layout import Customer, Layout
from highshelf.practice.supervise import Daemon

DEBIAN = Path("/etc/php/8.2/fpm")
# Off until a customer switches them on: what Debian's package would load for everybody.
SWITCHES = ("bcmath", "calendar", "gettext", "imap")

POOL = """
[{login}]
user = {user}
group = {user}
listen = {run}/{login}.sock
listen.owner = {web_group}
listen.group = {web_group}
listen.mode = 0660
pm = ondemand
pm.max_children = 6
pm.process_idle_timeout = 20s
catch_workers_output = yes
php_value[memory_limit] = 128M
php_value[max_execution_time] = 30
php_value[upload_max_filesize] = 16M
php_value[post_max_size] = 20M
php_value[display_errors] = 0
php_admin_value[error_log] = {home}/logs/php.log
php_admin_value[upload_tmp_dir] = {home}/tmp
php_admin_value[session.save_path] = {home}/tmp
php_admin_value[mysqli.default_socket] = {socket}
php_admin_value[pdo_mysql.default_socket] = {socket}
"""


def prepare(layout: Layout) -> Daemon:
    etc = layout.etc / "php"
    (etc / "switches").mkdir(parents=True, exist_ok=True)
    scanned = _extensions(etc / "conf.d")
    config = etc / "fpm.conf"
    pools = "".join(_pool(layout, c) for c in layout.customers)
    config.write_text(
        f"[global]\npid = {layout.run}/fpm.pid\nerror_log = {layout.logs}/fpm.log\ndaemonize = no\n{pools}"
    )
    _cli_php(layout)
    sockets = [layout.run / f"{layout.login(c)}.sock" for c in layout.customers]
    command = ["/usr/sbin/php-fpm8.2", "-F", "-y", str(config), "-c", str(DEBIAN / "php.ini")]
    ready = lambda: all(s.exists() and s.is_socket() for s in sockets)  # noqa: E731
    return Daemon("php-fpm", command, ready, {"PHP_INI_SCAN_DIR": str(scanned)})


def _extensions(folder: Path) -> Path:
    """Debian's list of extensions without those that customers switch on themselves."""
    folder.mkdir(exist_ok=True)
    for old in folder.iterdir():
        old.unlink()
    for one in (DEBIAN / "conf.d").glob("*.ini"):
        if one.stem.partition("-")[2] not in SWITCHES:
            (folder / one.name).symlink_to(one.resolve())
    return folder


def _pool(layout: Layout, customer: Customer) -> str:
    own = switches_file(layout, layout.login(customer))
    if not own.exists():
        own.write_text(switches_text("", ()))
    text = POOL.format(
        login=layout.login(customer),
        user=customer.php_user or layout.login(customer),
        home=layout.home(customer),
        run=layout.run,
        socket=layout.database_socket,
        web_group=grp.getgrnam("www-data").gr_name,
    )
    if customer.key == "choir":
        # The makers' server has a certificate of its own authority: this customer's PHP believes it, the others' do not.
        text += f"php_admin_value[curl.cainfo] = {layout.vendor_authority}\n"
    return text + "".join(f"php_admin_value[{n}] = {v}\n" for n, v in customer.pinned) + f"include = {own}\n"


def switches_file(layout: Layout, login: str) -> Path:
    """What a customer has switched, as lines of the pool."""
    return layout.etc / "php" / "switches" / f"{login}.conf"


def switches_text(zone: str, extensions: tuple[str, ...]) -> str:
    """The lines for a time zone ("" for none) and extensions."""
    lines = [f"php_admin_value[extension] = {name}.so\n" for name in SWITCHES if name in extensions]
    return "; made by the panel\n" + (f"php_value[date.timezone] = {zone}\n" if zone else "") + "".join(lines)


def look_again(pid_file: Path) -> None:
    """Have the server read its configuration anew: it becomes itself again under the same pid (php-fpm(8), SIGUSR2)."""
    try:
        os.kill(int(pid_file.read_text()), signal.SIGUSR2)
    except (OSError, ValueError) as fault:
        raise PracticeError("PHP could not be told to look again", hint=str(fault)) from None


def _cli_php(layout: Layout) -> None:
    """The shell's `php`: finds the database at `localhost` as the web's PHP does."""
    tool = layout.folder / "bin" / "php"
    tool.parent.mkdir(exist_ok=True)
    socket = layout.database_socket
    tool.write_text(
        f'#!/bin/sh\nexec /usr/bin/php8.2 -d mysqli.default_socket={socket} -d pdo_mysql.default_socket={socket} "$@"\n'
    )
    tool.chmod(0o755)
    tool.parent.chmod(0o755)
