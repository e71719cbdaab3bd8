"""What the counter keeps: a database with its one user a store, under names that the counter chooses."""

from __future__ import annotations

import re
import secrets
from dataclasses import dataclass
from pathlib import Path

from highshelf.practice.servers.mariadb import query

LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"
LABEL_LENGTH = 30
LIMIT = 8


class Declined(Exception):
    """What the counter tells its customer instead of doing it."""


@dataclass(frozen=True)
class Store:
    """One database as the customer sees it; `secret` is told once, when it was made."""

    label: str
    schema: str
    account: str
    secret: str = ""


@dataclass(frozen=True)
class Stores:
    """One customer's stores. The label is the schema's comment: the database server is the only memory."""

    socket: Path
    number: str

    def all(self) -> list[Store]:
        sql = "SELECT SCHEMA_NAME, SCHEMA_COMMENT FROM information_schema.SCHEMATA ORDER BY SCHEMA_NAME"
        rows = query(self.socket, sql)
        mine = f"w{self.number}_"
        return [Store(label, schema, schema + "u") for schema, label in rows if schema.startswith(mine)]

    def check(self, label: str) -> None:
        """Raises Declined."""
        if not re.fullmatch(r"[A-Za-z0-9 _-]+", label) or len(label) > LABEL_LENGTH:
            raise Declined(f"label: letters, digits, spaces, - and _ only, at most {LABEL_LENGTH} of them")
        stores = self.all()
        if any(store.label == label for store in stores):
            raise Declined(f"there is a store labelled {label} already")
        if len(stores) >= LIMIT:
            raise Declined(f"all {LIMIT} stores of your contract are in use")

    def make(self, label: str) -> Store:
        self.check(label)
        schema = f"w{self.number}_" + "".join(secrets.choice(LETTERS) for _ in range(5))
        store = Store(label, schema, schema + "u", secrets.token_urlsafe(18))
        escaped = schema.replace("_", "\\_")
        query(
            self.socket,
            f"CREATE DATABASE `{schema}` CHARACTER SET utf8mb4 COMMENT '{label}'; "
            f"CREATE USER '{store.account}'@'%' IDENTIFIED BY '{store.secret}'; "
            f"GRANT ALL PRIVILEGES ON `{escaped}`.* TO '{store.account}'@'%'",
        )
        return store

    def drop(self, schema: str) -> None:
        store = next((one for one in self.all() if one.schema == schema), None)
        if store is None:
            raise Declined(f"you have no store {schema}")
        query(self.socket, f"DROP DATABASE `{schema}`; DROP USER IF EXISTS '{store.account}'@'%'")
