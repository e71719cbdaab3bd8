"""An SQL dump as the statements that are sent one by one. Pure, and a stream: no more than one statement is held.

Rules (MariaDB's client and `psql` are the judges):
1. A statement ends at its delimiter outside quotes, comments and bodies; `DELIMITER` lines change it for MariaDB alone.
2. `COPY … FROM stdin` of PostgreSQL becomes INSERTs of the same rows: no other session than `psql`'s own takes them as they stand.
3. What chooses or makes a database, hands things to other owners or asks for rights that no hosting customer has is left out, and told.
4. The name of a database that the dump insists on is taken from before the names of its tables.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Literal

Server = Literal["mariadb", "postgresql"]
# One row of a picture's bytes may have megabytes; a statement that is larger than this no server takes by itself.
MOST_BYTES = 64 << 20


class StatementError(ValueError):
    """A dump that cannot be cut; `line` counts from 1."""

    def __init__(self, message: str, line: int) -> None:
        super().__init__(f"{message} (line {line})")
        self.line = line


@dataclass(frozen=True)
class Statement:
    """One step of an import.

    Attributes:
        text: what is sent.
        line: where it begins, counted from 1.
        left_out: why it is not sent, or "".
    """

    text: str
    line: int
    left_out: str = ""

    @property
    def of_session(self) -> bool:
        return SESSION.match(_without_comments(self.text)) is not None


CHOOSES = re.compile(
    r"(?is)^\s*(?:USE\s|CREATE\s+DATABASE\b|CREATE\s+SCHEMA\s+(?:IF\s+NOT\s+EXISTS\s+)?(?:public|`)|DROP\s+DATABASE\b|ALTER\s+DATABASE\b)"
)
OWNERS = re.compile(
    r"(?is)^\s*(?:ALTER\s+(?:TABLE|SEQUENCE|VIEW|FUNCTION|SCHEMA|TYPE|MATERIALIZED\s+VIEW)\s+.*\bOWNER\s+TO\b|(?:CREATE|ALTER|DROP)\s+(?:USER|ROLE)\b|"
    r"GRANT\s|REVOKE\s|SET\s+(?:SESSION\s+)?AUTHORIZATION\b|SET\s+ROLE\b|COMMENT\s+ON\s+EXTENSION\b|FLUSH\s+PRIVILEGES|SET\s+(?:@@)?GLOBAL\b)"
)
# What is one transaction or one lock in a client's one session is not so in several sessions, one after the other.
TRANSACTIONS = re.compile(
    r"(?is)^\s*(?:BEGIN\b(?!\s+ATOMIC)|START\s+TRANSACTION\b|COMMIT\b|LOCK\s+TABLES?\b|UNLOCK\s+TABLES\b|SET\s+(?:@@)?(?:SESSION\s+)?AUTOCOMMIT\b)"
)
# What holds for the session, and has to be said again in the next one.
SESSION = re.compile(r"(?is)^\s*(?:/\*!\d*\s*SET\b|SET\s|SELECT\s+(?:pg_catalog\.)?set_config\()")
DEFINER = re.compile(
    r"(?i)/\*!5\d{4}\s+DEFINER\s*=\s*\S+\s*\*/|\bDEFINER\s*=\s*(?:`[^`]*`|'[^']*'|\w+)@(?:`[^`]*`|'[^']*'|\w+)\s*"
)
COPY = re.compile(r"(?is)^\s*COPY\s+((?:\"[^\"]*\"|[\w$.])+)\s*(\([^)]*\))?\s*FROM\s+stdin\b")
# The escapes of COPY's text format (PostgreSQL, COPY, "Text Format").
COPIED = {"b": "\b", "f": "\f", "n": "\n", "r": "\r", "t": "\t", "v": "\v"}
ROWS_AT_ONCE = 100
# What a piece of a statement may begin with, per server.
PIECES = {
    "mariadb": re.compile(r"'|\"|`|/\*|--(?=\s|$)|#"),
    "postgresql": re.compile(r"'|\"|/\*|--|\$(?:[A-Za-z_]\w*)?\$"),
}

# Most of a dump's bytes are rows, each a statement in a line of its own: those are known at one look.
ROW = {
    "mariadb": re.compile(
        r"(?i)[ \t]*+((?:INSERT|REPLACE)\b(?:[^'\"`;#/-]++|'(?:[^'\\]++|\\.)*+'|\"(?:[^\"\\]++|\\.)*+\"|`[^`]*+`|-(?!-)|/(?!\*))*+);[ \t]*+\r?\n?"
    ),
    "postgresql": re.compile(
        r"(?i)[ \t]*+(INSERT\b(?:[^'\";$/-]++|(?<!E)'[^']*+'|\"[^\"]*+\"|-(?!-)|/(?!\*))*+);[ \t]*+\r?\n?"
    ),
}


@dataclass
class _Cutter:
    """Reads lines, keeps what is open, gives finished statements."""

    server: Server
    database: str
    delimiter: str = ";"
    text: list[str] = field(default_factory=list)
    size: int = 0
    started: int = 0
    line: int = 0
    # What is open across lines: the mark that closes it, "" when nothing is; nested comments of PostgreSQL by depth.
    closes: str = ""
    depth: int = 0
    escapes: bool = False
    bodies: int = 0
    copying: str = ""
    rows: list[str] = field(default_factory=list)

    def take(self, line: str) -> Iterator[Statement]:
        self.line += 1
        if self.copying:
            yield from self._row(line)
            return
        if not self.closes and not any(part.strip() for part in self.text):
            self.text, self.size = [], 0
            if self.delimiter == ";" and len(line) <= MOST_BYTES and (row := ROW[self.server].fullmatch(line)):
                yield Statement(_unnamed(row[1], self.database, self.server), self.line)
                return
            if self._is_command(line):
                return
            self.started = self.line
        yield from self._cut(line)

    def _row(self, line: str) -> Iterator[Statement]:
        plain = line.rstrip("\r\n")
        ended = plain == "\\."
        if not ended:
            self.rows.append(plain)
        if self.rows and (ended or len(self.rows) >= ROWS_AT_ONCE):
            yield Statement(_unnamed(_inserted(self.copying, self.rows), self.database, self.server), self.started)
            self.rows = []
        if ended:
            self.copying = ""

    def _is_command(self, line: str) -> bool:
        """Lines that are for the client, not for the server."""
        if self.server == "postgresql":
            return line.lstrip().startswith("\\")
        told = re.match(r"(?i)\s*DELIMITER\s+(\S+)", line)
        if told:
            self.delimiter = told[1]
        return told is not None

    def _cut(self, line: str) -> Iterator[Statement]:
        at = start = 0
        while at < len(line):
            if self.closes:
                at = self._close(line, at)
                continue
            piece = PIECES[self.server].search(line, at)
            end = line.find(self.delimiter, at)
            if end >= 0 and (piece is None or end < piece.start()) and not self._in_body(line[start:end]):
                self._keep(line[start:end])
                yield from self._finished()
                at = start = end + len(self.delimiter)
                self.started = self.line
                continue
            if end >= 0 and (piece is None or end < piece.start()):
                at = end + len(self.delimiter)
                continue
            if piece is None:
                break
            at = self._open(line, piece)
        self._keep(line[start:])

    def _in_body(self, more: str) -> bool:
        """Bodies in the standard's own words (BEGIN ATOMIC … END), where a delimiter parts the statements inside."""
        if self.server != "postgresql":
            return False
        text = "".join(self.text) + more
        if not re.search(r"(?is)\bBEGIN\s+ATOMIC\b", text):
            return False
        return len(re.findall(r"(?i)\bEND\b", text)) < len(re.findall(r"(?i)\b(?:BEGIN\s+ATOMIC|CASE)\b", text))

    def _open(self, line: str, piece: re.Match[str]) -> int:
        mark = piece[0]
        if mark in ("--", "#"):
            return len(line)
        if mark == "/*":
            self.closes, self.depth = "*/", 1
        else:
            self.closes = mark
            before = line[: piece.start()]
            # PostgreSQL's plain strings know no backslash (4.1.2.1); those with an E before them do.
            self.escapes = self.server == "mariadb" and mark != "`"
            self.escapes |= (
                self.server == "postgresql" and mark == "'" and re.search(r"(?i)(?<![\w])E$", before) is not None
            )
        return piece.end()

    def _close(self, line: str, at: int) -> int:
        if self.closes == "*/":
            pattern = r"\*/|/\*" if self.server == "postgresql" else r"\*/"
            found = re.compile(pattern).search(line, at)
            if found is None:
                return len(line)
            self.depth += 1 if found[0] == "/*" else -1
            if self.depth == 0:
                self.closes = ""
            return found.end()
        mark = re.escape(self.closes)
        pattern = rf"\\.|{mark}" if self.escapes else mark
        for found in re.compile(pattern, re.S).finditer(line, at):
            if found[0] == self.closes:
                # A doubled mark closes and opens again at once, which comes to the same.
                self.closes = ""
                return found.end()
        return len(line)

    def _keep(self, text: str) -> None:
        self.text.append(text)
        self.size += len(text)
        if self.size > MOST_BYTES:
            raise StatementError("a statement has no end that could be found", self.started)

    def _finished(self) -> Iterator[Statement]:
        text = "".join(self.text)
        self.text, self.size = [], 0
        if not _says_something(text, self.server):
            return
        if self.server == "postgresql" and COPY.match(_without_comments(text)):
            self.copying = text.strip()
            return
        yield self._made(text.strip(), self.started)

    def _made(self, text: str, line: int) -> Statement:
        bare = _without_comments(text)
        if CHOOSES.match(bare):
            return Statement(text, line, "the database is chosen already")
        if TRANSACTIONS.match(bare):
            return Statement(text, line, "each statement is for itself here")
        if OWNERS.match(bare):
            return Statement(text, line, "a hosting customer has no such rights")
        if self.server == "mariadb":
            text = DEFINER.sub("", text)
        return Statement(_unnamed(text, self.database, self.server), line)

    def end(self) -> Iterator[Statement]:
        if self.copying:
            raise StatementError("rows of a COPY have no end", self.started)
        if self.closes:
            raise StatementError("a quotation or comment has no end", self.started)
        # The last one may do without its delimiter.
        yield from self._finished()


def statements(lines: Iterable[str], server: Server, database: str = "") -> Iterator[Statement]:
    """The statements of a dump, in order.

    Args:
        lines: with their ends.
        database: the name that the dump insists on, "" for none.

    Raises:
        StatementError: it ends in the middle, or cannot be cut.
    """
    cutter = _Cutter(server, database)
    for line in lines:
        yield from cutter.take(line)
    yield from cutter.end()


def _inserted(copy: str, rows: Iterable[str]) -> str:
    """The INSERT that brings the rows of a COPY."""
    told = COPY.match(_without_comments(copy))
    assert told is not None
    values = ",\n".join("(" + ", ".join(map(_copied, row.split("\t"))) + ")" for row in rows)
    return f"INSERT INTO {told[1]} {told[2] or ''} VALUES {values}"


def _copied(field: str) -> str:
    if field == "\\N":
        return "NULL"

    def one(m: re.Match[str]) -> str:
        said = m[1]
        if said[0] == "x":
            return chr(int(said[1:], 16))
        return chr(int(said, 8) & 255) if said[0] in "01234567" else COPIED.get(said, said)

    return "'" + re.sub(r"\\(x[0-9A-Fa-f]{1,2}|[0-7]{1,3}|.)", one, field, flags=re.S).replace("'", "''") + "'"


def _says_something(text: str, server: Server) -> bool:
    """Whether more than comments stands there; MariaDB runs what stands in `/*! … */`."""
    return bool(_without_comments(text).strip()) or (server == "mariadb" and re.search(r"/\*M?!", text) is not None)


def _without_comments(text: str) -> str:
    return re.sub(r"(?s)^(?:\s*(?:--[^\n]*(?:\n|$)|#[^\n]*(?:\n|$)|/\*(?!M?!).*?\*/))*", "", text)


def _unnamed(text: str, database: str, server: Server) -> str:
    """Without the database's name before its tables, outside quotations of text."""
    if not database or database not in text:
        return text
    quoted = re.escape(database)
    name = (
        rf"`{quoted}`\s*\.\s*|(?<![\w`.]){quoted}\.(?=[`\w])"
        if server == "mariadb"
        else rf'(?<![\w".]){quoted}\.(?=["\w])'
    )
    parts = re.split(
        r"('(?:\\.|''|[^'\\])*'|\"(?:\\.|\"\"|[^\"\\])*\")" if server == "mariadb" else r"('(?:''|[^'])*')",
        text,
        flags=re.S,
    )
    return "".join(p if n % 2 else re.sub(name, "", p) for n, p in enumerate(parts))
