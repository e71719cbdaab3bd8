"""The panel's habits with databases: a customer number after each name, limited lengths, chosen privileges."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from highshelf.practice.servers.mariadb import query

PRIVILEGES = (
    *(
        "SELECT",
        "INSERT",
        "UPDATE",
        "DELETE",
        "CREATE",
        "DROP",
        "ALTER",
        "INDEX",
        "REFERENCES",
        "CREATE VIEW",
        "SHOW VIEW",
    ),
    *("TRIGGER", "EVENT", "CREATE ROUTINE", "ALTER ROUTINE", "EXECUTE", "LOCK TABLES", "CREATE TEMPORARY TABLES"),
)
DATABASE_LENGTH = 24
USER_LENGTH = 20
COLLATIONS = ("utf8mb4_unicode_ci", "utf8mb4_general_ci", "latin1_swedish_ci")


class Refusal(Exception):
    """What the panel tells its customer instead of doing it."""


@dataclass(frozen=True)
class Databases:
    """One customer's databases and users."""

    socket: Path
    number: str
    limit: int

    def full_name(self, name: str, longest: int) -> str:
        """The name with the customer's number after it.

        Raises:
            Refusal: letters or lengths that the panel does not take.
        """
        if not re.fullmatch(r"[a-z][a-z0-9_]*", name):
            raise Refusal("Please use small letters, digits and underscores only, beginning with a letter.")
        full = f"{name}-{self.number}"
        if len(full) > longest:
            raise Refusal(f"This name is too long: at most {longest} characters together with “-{self.number}”.")
        return full

    def databases(self) -> list[str]:
        rows = query(self.socket, "SHOW DATABASES")
        return [row[0] for row in rows if row[0].endswith(f"-{self.number}")]

    def users(self) -> list[str]:
        rows = query(self.socket, f"SELECT User FROM mysql.user WHERE User LIKE '%-{self.number}' ORDER BY User")
        return [row[0] for row in rows]

    def attached(self, database: str) -> dict[str, list[str]]:
        """User -> privileges on this database."""
        pattern = database.replace("\\", "\\\\").replace("_", "\\_")
        sql = f"SELECT GRANTEE, PRIVILEGE_TYPE FROM information_schema.SCHEMA_PRIVILEGES WHERE TABLE_SCHEMA = {_text(pattern)}"
        found: dict[str, list[str]] = {}
        for grantee, privilege in query(self.socket, sql):
            found.setdefault(grantee.split("@")[0].strip("'"), []).append(privilege)
        return found

    def create_database(self, name: str, collation: str) -> str:
        full = self.full_name(name, DATABASE_LENGTH)
        if full in self.databases():
            raise Refusal(f"A database named {full} exists already.")
        if len(self.databases()) >= self.limit:
            raise Refusal(f"Your package allows {self.limit} databases and all of them are in use.")
        if collation not in COLLATIONS:
            raise Refusal("Please choose one of the collations offered.")
        query(self.socket, f"CREATE DATABASE {_name(full)} COLLATE {collation}")
        return full

    def create_user(self, name: str, password: str) -> str:
        full = self.full_name(name, USER_LENGTH)
        if full in self.users():
            raise Refusal(f"A database user named {full} exists already.")
        if len(password) < 10:
            raise Refusal("The password must have at least 10 characters.")
        query(self.socket, f"CREATE USER {_text(full)}@'%' IDENTIFIED BY {_text(password)}")
        return full

    def attach(self, database: str, user: str, privileges: list[str]) -> None:
        if user not in self.users():
            raise Refusal("There is no such database user.")
        chosen = [p for p in privileges if p in PRIVILEGES]
        if not chosen:
            raise Refusal("Please tick at least one privilege.")
        escaped = database.replace("_", "\\_")
        query(self.socket, f"GRANT {', '.join(chosen)} ON {_name(escaped)}.* TO {_text(user)}@'%'")

    def drop_database(self, database: str) -> None:
        for user, privileges in self.attached(database).items():
            escaped = database.replace("_", "\\_")
            query(self.socket, f"REVOKE {', '.join(privileges)} ON {_name(escaped)}.* FROM {_text(user)}@'%'")
        query(self.socket, f"DROP DATABASE {_name(database)}")

    def drop_user(self, user: str) -> None:
        query(self.socket, f"DROP USER {_text(user)}@'%'")


def _name(identifier: str) -> str:
    return "`" + identifier.replace("`", "``") + "`"


def _text(value: str) -> str:
    return "'" + value.replace("\\", "\\\\").replace("'", "\\'") + "'"
