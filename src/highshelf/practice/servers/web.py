"""Apache: a website a customer, whose PHP is the customer's pool (servers/php.py)."""

from __future__ import annotations

from pathlib import Path

from highshelf.practice.layout import Customer, Layout
from highshelf.practice.servers.ftp import make_certificate
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
    "socache_shmcb",
    "ssl",
    "status",
]


def prepare(layout: Layout) -> Daemon:
    etc = layout.etc / "apache"
    etc.mkdir(parents=True, exist_ok=True)
    loads = "".join(
        f"LoadModule {name}_module /usr/lib/apache2/modules/mod_{name}.so\n"
        for name in MODULES
        if Path(f"/usr/lib/apache2/modules/mod_{name}.so").exists()
    )
    hosts = "".join(
        host_text(layout, c, c.domain, str(layout.document_root(c)), port)
        for c in layout.customers
        for port in (
            layout.port("web"),
            layout.base_port + c.temporary_port,
            *([layout.port("web-tls")] if c.tls else []),
        )
    )
    (etc / "sites").mkdir(exist_ok=True)
    make_certificate(etc / "web.pem", "web.saltmarsh.example")
    ports = [layout.port("web"), layout.port("web-tls")] + [
        layout.base_port + c.temporary_port for c in layout.customers
    ]
    listens = "".join(f"Listen {layout.host}:{p}\n" for p in ports)
    config = etc / "apache.conf"
    config.write_text(
        APACHE.format(loads=loads, listens=listens, hosts=hosts, run=layout.run, logs=layout.logs, etc=etc)
    )
    web = layout.port("web")
    return Daemon(
        "apache", ["/usr/sbin/apache2", "-DFOREGROUND", "-f", str(config)], lambda: port_answers(web, layout.host)
    )


def host_text(layout: Layout, customer: Customer, name: str, root: str, port: int) -> str:
    """One website of a customer in Apache's words."""
    return HOST.format(
        port=port,
        name=name,
        root=root,
        socket=layout.run / f"{layout.login(customer)}.sock",
        login=layout.login(customer),
        logs=layout.logs,
        key=customer.key,
        override="All" if customer.htaccess else "None",
        links="SymLinksIfOwnerMatch" if customer.links else "",
        tls=TLS.format(etc=layout.etc / "apache") if port == layout.port("web-tls") else "",
    )


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
{hosts}IncludeOptional {etc}/sites/*.conf
"""

# The host's own certificate, for a name of its own: what a site has until somebody orders one for it.
TLS = """  SSLEngine on
  SSLCertificateFile {etc}/web.pem
"""

HOST = """<VirtualHost *:{port}>
  ServerName {name}
  DocumentRoot {root}
  CustomLog {logs}/access-{key}.log timed
{tls}  <Directory {root}>
    AllowOverride {override}
    Options {links} Indexes
    Require all granted
    <FilesMatch "\\.php$">
      <If "-f %{{REQUEST_FILENAME}}">
        SetHandler "proxy:unix:{socket}|fcgi://{login}"
      </If>
    </FilesMatch>
  </Directory>
</VirtualHost>
"""
