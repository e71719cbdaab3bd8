"""Who the practice host's customers are, and where everything lies: pure facts, no I/O."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

# sshd's ChrootDirectory refuses a path with a world-writable parent (/tmp), and MariaDB's socket path is short:
# so the data does not lie in the checkout.
DEFAULT_FOLDER = Path("/var/lib/highshelf-practice")
DEFAULT_PORT = 28400
LOOPBACK = "127.0.0.1"


Access = Literal["ssh", "sftp", "ftps", "ftps-implicit", "ftp"]


@dataclass(frozen=True)
class Customer:
    """One customer of the Saltmarsh Web Co-op.

    Attributes:
        root: the document root's name inside the home.
        lands_in_root: the login is confined to the document root itself and sees nothing beside it.
        php_user: whom PHP runs as when it is not the login's own user.
        htaccess: whether the web server looks at `.htaccess`.
        pinned: PHP settings that nothing in the customer's folders can change.
        by_name: the address is the real name, which leads nowhere yet; otherwise the host's temporary address.
        links: the web server follows links to what belongs to the same user.
        tls: the real name is spoken over HTTPS, with a certificate of the host's own making.
    """

    key: str
    number: str
    title: str
    root: str
    access: Access
    temporary_port: int
    domain: str
    lands_in_root: bool = False
    php_user: str = ""
    htaccess: bool = True
    links: bool = True
    pinned: tuple[tuple[str, str], ...] = ()
    by_name: bool = False
    tls: bool = False

    @property
    def over_ssh(self) -> bool:
        return self.access in ("ssh", "sftp")

    @property
    def seen_root(self) -> str:
        """The document root as the transfer login sees it."""
        return "." if self.lands_in_root else self.root


PINNED = (
    ("memory_limit", "96M"),
    ("max_execution_time", "20"),
    ("max_input_time", "20"),
    ("error_reporting", "22519"),
    ("disable_functions", "exec,passthru,shell_exec,system,proc_open,popen"),
)
CUSTOMERS = (
    Customer("ferry", "20417", "Estuary Ferry Museum", "www", "ssh", 81, "ferry.saltmarsh.example"),
    Customer("choir", "20533", "Saltings Choir", "htdocs", "ftps", 82, "choir.saltmarsh.example", by_name=True),
    Customer("seeds", "20608", "Creek Seed Library", "web", "sftp", 83, "seeds.saltmarsh.example"),
    Customer("yard", "20711", "Kelda Boat Yard", "html", "ftp", 84, "yard.saltmarsh.example", php_user="www-data"),
    Customer(
        "regatta", "20756", "Lantern Regatta", "site", "ftps-implicit", 85, "regatta.saltmarsh.example", lands_in_root=True
    ),
    Customer(
        "birds", "20802", "Marsh Bird Watch", "sites/birds.saltmarsh.example/web", "ftps", 86, "birds.saltmarsh.example",
        htaccess=False, links=False, pinned=PINNED, by_name=True, tls=True,
    ),
)  # fmt: skip
TRANSFER = {
    "ssh": ("sftp", "ssh"),
    "sftp": ("sftp", "ssh"),
    "ftps": ("ftps", "ftp"),
    "ftps-implicit": ("ftps-implicit", "ftp-implicit"),
    "ftp": ("ftp", "ftp-plain"),
}


@dataclass(frozen=True)
class Layout:
    """Paths and ports of one practice host. Every port is `base_port` plus a small number.

    `host` is where its servers listen: loopback, or an address in a network namespace of a bench's own making.
    """

    folder: Path = DEFAULT_FOLDER
    base_port: int = DEFAULT_PORT
    customers: tuple[Customer, ...] = field(default=CUSTOMERS)
    host: str = LOOPBACK

    def port(self, name: str) -> int:
        offsets = {
            "ftp-implicit": 19,
            "ftp-plain": 20,
            "ftp": 21,
            "ssh": 22,
            "mail": 25,
            "web-tls": 43,
            "vendor": 44,
            "postgresql": 54,
            "mariadb": 33,
            "web": 80,
            "panel": 90,
            "counter": 91,
            "passive": 100,
        }
        return self.base_port + offsets[name]

    @property
    def suffix(self) -> str:
        """Keeps the system users of two practice hosts on one machine apart; empty for the default folder."""
        if self.folder == DEFAULT_FOLDER:
            return ""
        return "x" + hashlib.sha256(str(self.folder).encode()).hexdigest()[:5]

    def login(self, customer: Customer) -> str:
        return f"sm{customer.number}{self.suffix}"

    def home(self, customer: Customer) -> Path:
        return self.folder / "homes" / self.login(customer)

    def document_root(self, customer: Customer) -> Path:
        return self.home(customer) / customer.root

    def address(self, customer: Customer) -> str:
        """The address a visitor types: the real name, or the host's temporary address."""
        if customer.tls:
            return f"https://{customer.domain}:{self.port('web-tls')}/"
        if customer.by_name:
            return f"http://{customer.domain}:{self.port('web')}/"
        return f"http://{self.host}:{self.base_port + customer.temporary_port}/"

    def reach(self, customer: Customer) -> str:
        """Where the real name is answered while it leads nowhere; "" for a temporary address."""
        return f"{self.host}:{self.port('web-tls' if customer.tls else 'web')}" if customer.by_name else ""

    def transfer(self, customer: Customer) -> str:
        kind, port = TRANSFER[customer.access]
        return f"{kind}://{self.login(customer)}@{self.host}:{self.port(port)}"

    @property
    def panel_address(self) -> str:
        return f"http://{self.host}:{self.port('panel')}/"

    @property
    def counter_address(self) -> str:
        """The other panel, which is called and answers in JSON."""
        return f"http://{self.host}:{self.port('counter')}/"

    @property
    def vendor_address(self) -> str:
        """The makers' download site."""
        return f"https://{self.host}:{self.port('vendor')}/"

    @property
    def vendor_certificate(self) -> Path:
        return self.etc / "makers.pem"

    @property
    def vendor_authority(self) -> Path:
        """What a service has to trust to fetch from the makers' site (`serve --authority`)."""
        return self.folder / "makers-authority.pem"

    @property
    def etc(self) -> Path:
        return self.folder / "etc"

    @property
    def run(self) -> Path:
        return self.folder / "run"

    @property
    def logs(self) -> Path:
        return self.folder / "logs"

    @property
    def database_socket(self) -> Path:
        return self.folder / "db" / "mariadb.sock"

    @property
    def postgresql_socket(self) -> Path:
        """The folder of its socket, beside its data."""
        return self.folder / "pg"
