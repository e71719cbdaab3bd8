"""SQL files: which server they are for, and the database whose name they insist on."""

from __future__ import annotations

import re

from highshelf.core.release.clues import Clue, line_of

MARIADB = re.compile(
    rb"(?i)\bENGINE\s*=|AUTO_INCREMENT|CREATE TABLE (?:IF NOT EXISTS )?`|LOCK TABLES|/\*!\d{5}|DEFAULT CHARSET"
)
POSTGRESQL = re.compile(
    rb"(?i)\b(?:BIG|SMALL)?SERIAL\b|CREATE SEQUENCE|SET search_path|\bOWNER TO\b|nextval\s*\(|\bBYTEA\b|\bPLPGSQL\b|"
    rb"character varying|WITHOUT TIME ZONE|^COPY .* FROM stdin"
)
SQLITE = re.compile(rb"(?i)PRAGMA |AUTOINCREMENT|sqlite_sequence")
NAMED = re.compile(
    rb"(?im)^\s*(?:CREATE\s+(?:DATABASE|SCHEMA)\s+(?:/\*.*?\*/\s*)?(?:IF\s+NOT\s+EXISTS\s+)?|USE\s+|\\c(?:onnect)?\s+)[`\"]?([\w$-]+)"
)
TABLE = re.compile(rb"(?i)\bCREATE\s+(?:UNLOGGED\s+|TEMPORARY\s+)?TABLE\b")


def read(path: str, data: bytes) -> list[Clue]:
    """Clues `dump-kind` (mariadb, postgresql, sqlite), `dump-tables` (how many) and `dump-database`."""
    found: list[Clue] = []
    tables = len(TABLE.findall(data))
    if tables:
        found.append(Clue("dump-tables", str(tables), path, 0, 0.9))
    scores = {
        "mariadb": len(MARIADB.findall(data)),
        "postgresql": len(POSTGRESQL.findall(data)),
        "sqlite": len(SQLITE.findall(data)),
    }
    kind = max(scores, key=lambda k: scores[k])
    by_name = re.search(r"(?i)(mysql|mariadb|pgsql|postgres\w*|sqlite)", path)
    if by_name:
        kind = {"my": "mariadb", "ma": "mariadb", "pg": "postgresql", "po": "postgresql", "sq": "sqlite"}[
            by_name[1][:2].lower()
        ]
    if by_name or scores[kind]:
        found.append(Clue("dump-kind", kind, path, 0, 0.9 if by_name else 0.7))
    named = NAMED.search(data)
    if named and named[1].decode("ascii", "replace").lower() not in ("public", "if", "only"):
        found.append(
            Clue("dump-database", named[1].decode("ascii", "replace"), path, line_of(data, named.start(1)), 0.9)
        )
    return found
