"""The panel's habits with PostgreSQL: database, user and password in one form, both of one name with the customer's number before it."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from highshelf.practice.panel.databases import Refusal
from highshelf.practice.servers.postgresql import query


@dataclass(frozen=True)
class PostgresqlDatabases:
    """One customer's databases, each with a user of the same name."""

    socket: Path
    port: int
    number: str

    def names(self) -> list[str]:
        # In LIKE a backslash makes an underscore mean itself (PostgreSQL manual, 9.7.1).
        sql = f"SELECT datname FROM pg_database WHERE datname LIKE 'c{self.number}\\_%' ORDER BY datname"
        return [row[0] for row in query(self.socket, self.port, sql)]

    def create(self, label: str, secret: str) -> str:
        """Make both; returns their name. Raises Refusal."""
        if not re.fullmatch(r"[a-z][a-z0-9]{0,20}", label):
            raise Refusal("Please use up to 21 small letters and digits, beginning with a letter.")
        if len(secret) < 10:
            raise Refusal("The password must have at least 10 characters.")
        name = f"c{self.number}_{label}"
        if name in self.names():
            raise Refusal(f"A database named {name} exists already.")
        quoted = secret.replace("'", "''")
        query(self.socket, self.port, f"CREATE ROLE {name} LOGIN PASSWORD '{quoted}'")
        query(self.socket, self.port, f"CREATE DATABASE {name} OWNER {name} ENCODING 'UTF8' TEMPLATE template0")
        query(self.socket, self.port, f"REVOKE CONNECT ON DATABASE {name} FROM PUBLIC")
        return name

    def drop(self, name: str) -> None:
        if name not in self.names():
            raise Refusal("There is no such database.")
        query(self.socket, self.port, f"DROP DATABASE {name} WITH (FORCE)")
        query(self.socket, self.port, f"DROP ROLE {name}")
