"""Apache with one PHP-FPM pool a customer: PHP runs as the login's own user."""

from __future__ import annotations

import grp
from pathlib import Path

from highshelf.practice.layout import LOOPBACK, Layout
from highshelf.practice.servers.probe import port_answers
from highshelf.practice.supervise import Daemon

MODULES = [
    "mpm_event",
    "authn_core",
    "authz_core",
    "authz_host",
    "auth_basic",
    "authn_file",
    "authz_user",
    "alias",
    "autoindex",
    "deflate",
    "dir",
    "env",
    "expires",
    "filter",
    "headers",
    "mime",
    "negotiation",
    "proxy",
    "proxy_fcgi",
    "reqtimeout",
    "rewrite",
    "setenvif",
    "status",
]


def prepare(layout: Layout) -> list[Daemon]:
    return [_fpm(layout), _apache(layout)]


def _fpm(layout: Layout) -> Daemon:
    etc = layout.etc / "php"
    etc.mkdir(parents=True, exist_ok=True)
    pools = "".join(
        POOL.format(
            login=layout.login(c),
            home=layout.home(c),
            run=layout.run,
            socket=layout.database_socket,
            web_group=grp.getgrnam("www-data").gr_name,
        )
        for c in layout.customers
    )
    config = etc / "fpm.conf"
    config.write_text(
        f"[global]\npid = {layout.run}/fpm.pid\nerror_log = {layout.logs}/fpm.log\ndaemonize = no\n{pools}"
    )
    _cli_php(layout)
    sockets = [layout.run / f"{layout.login(c)}.sock" for c in layout.customers]
    command = ["/usr/sbin/php-fpm8.2", "-F", "-y", str(config), "-c", "/etc/php/8.2/fpm/php.ini"]
    return Daemon("php-fpm", command, lambda: all(s.exists() and s.is_socket() for s in sockets))


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


def _apache(layout: Layout) -> Daemon:
    etc = layout.etc / "apache"
    etc.mkdir(parents=True, exist_ok=True)
    loads = "".join(
        f"LoadModule {name}_module /usr/lib/apache2/modules/mod_{name}.so\n"
        for name in MODULES
        if Path(f"/usr/lib/apache2/modules/mod_{name}.so").exists()
    )
    hosts = "".join(
        HOST.format(
            port=port,
            name=c.domain,
            root=layout.document_root(c),
            socket=layout.run / f"{layout.login(c)}.sock",
            login=layout.login(c),
            logs=layout.logs,
            key=c.key,
        )
        for c in layout.customers
        for port in (layout.port("web"), layout.base_port + c.temporary_port)
    )
    ports = [layout.port("web")] + [layout.base_port + c.temporary_port for c in layout.customers]
    listens = "".join(f"Listen {LOOPBACK}:{p}\n" for p in ports)
    config = etc / "apache.conf"
    config.write_text(
        APACHE.format(loads=loads, listens=listens, hosts=hosts, run=layout.run, logs=layout.logs, etc=etc)
    )
    web = layout.port("web")
    return Daemon("apache", ["/usr/sbin/apache2", "-DFOREGROUND", "-f", str(config)], lambda: port_answers(web))


POOL = """
[{login}]
user = {login}
group = {login}
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

APACHE = """ServerRoot {etc}
PidFile {run}/apache.pid
DefaultRuntimeDir {run}
Mutex file:{run} default
{loads}{listens}User www-data
Group www-data
ServerName localhost
ServerTokens Prod
ErrorLog {logs}/apache-error.log
LogFormat "%v:%p %h %t \\"%r\\" %>s %B %D" timed
TypesConfig /etc/mime.types
StartServers 1
MinSpareThreads 5
ThreadsPerChild 16
MaxRequestWorkers 32
DirectoryIndex index.html index.php
<Directory />
  AllowOverride None
  Require all denied
</Directory>
<FilesMatch "^\\.ht">
  Require all denied
</FilesMatch>
<FilesMatch "^\\.user\\.ini$">
  Require all denied
</FilesMatch>
{hosts}"""

HOST = """<VirtualHost *:{port}>
  ServerName {name}
  DocumentRoot {root}
  CustomLog {logs}/access-{key}.log timed
  <Directory {root}>
    AllowOverride All
    Options SymLinksIfOwnerMatch Indexes
    Require all granted
    <FilesMatch "\\.php$">
      <If "-f %{{REQUEST_FILENAME}}">
        SetHandler "proxy:unix:{socket}|fcgi://{login}"
      </If>
    </FilesMatch>
  </Directory>
</VirtualHost>
"""
