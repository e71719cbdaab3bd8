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


@dataclass(frozen=True)
class Customer:
    """One customer of the Saltmarsh Web Co-op. `root` is the document root's name inside the home."""

    key: str
    number: str
    title: str
    root: str
    access: Literal["ssh", "ftps", "sftp"]
    temporary_port: int
    domain: str


CUSTOMERS = (
    Customer("ferry", "20417", "Estuary Ferry Museum", "www", "ssh", 81, "ferry.saltmarsh.example"),
    Customer("choir", "20533", "Saltings Choir", "htdocs", "ftps", 82, "choir.saltmarsh.example"),
    Customer("seeds", "20608", "Creek Seed Library", "web", "sftp", 83, "seeds.saltmarsh.example"),
)


@dataclass(frozen=True)
class Layout:
    """Paths and ports of one practice host. Every port is `base_port` plus a small number."""

    folder: Path = DEFAULT_FOLDER
    base_port: int = DEFAULT_PORT
    customers: tuple[Customer, ...] = field(default=CUSTOMERS)

    def port(self, name: str) -> int:
        offsets = {"ftp": 21, "ssh": 22, "mariadb": 33, "web": 80, "panel": 90, "passive": 100}
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
        """The address a visitor types: the choir's real name, for the others the host's temporary address."""
        if customer.key == "choir":
            return f"http://{customer.domain}:{self.port('web')}/"
        return f"http://{LOOPBACK}:{self.base_port + customer.temporary_port}/"

    @property
    def panel_address(self) -> str:
        return f"http://{LOOPBACK}:{self.port('panel')}/"

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
