"""An SQL dump as a file: packed or not, its bytes as lines of text. A stream: no more than a line is held."""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from highshelf.core.database.statements import MOST_BYTES
from highshelf.core.errors import ArchiveError, InputError
from highshelf.core.release.sql import MARIADB, NAMED, POSTGRESQL
from highshelf.drivers.archive.codecs import Inflated, bzip2, xz, zstandard
from highshelf.drivers.archive.members import Stream

# By the first bytes, whatever the file is called.
FORMS: tuple[tuple[bytes, str, Callable[[IO[bytes]], Stream]], ...] = (
    (b"\x1f\x8b", "gz", lambda source: Inflated(source, 31)),
    (b"BZh", "bz2", bzip2),
    (b"\xfd7zXZ\0", "xz", xz),
    (b"\x28\xb5\x2f\xfd", "zst", zstandard),
)
NOT_DUMPS = {
    b"PK\x03\x04": "a zip archive",
    b"\xff\xfe": "text in UTF-16",
    b"\xfe\xff": "text in UTF-16",
    b"PGDMP": "PostgreSQL's own binary form",
}
NAMES_CHARSET = re.compile(
    rb"(?i)\bSET\s+(?:NAMES|CHARACTER\s+SET|client_encoding|character_set_client)|\b_binary\b|DEFAULT\s+CHARSET"
)
CHOOSES = re.compile(rb"(?i)\s*(?:USE|CREATE\s+DATABASE|\\c)")
HEAD_BYTES = 1 << 16
MOST_UNPACKED_BYTES = 64 << 30
BLOCK = 1 << 18


@dataclass(frozen=True)
class DumpFacts:
    """What a look through the file says.

    Attributes:
        packed: gz, bz2, xz, zst, or "".
        encoding: utf-8; utf-8/surrogateescape where it says itself in which set its text is, or holds bytes; else latin-1.
        unpacked_bytes, lines: of all of it.
        kind: the server that it is for, "" when nothing says so.
        databases: names that it chooses or makes by itself, as they come.
    """

    packed: str
    encoding: str
    unpacked_bytes: int
    lines: int
    kind: str
    databases: tuple[str, ...]


class _Readable(io.RawIOBase):
    """A stream as Python's buffers want it."""

    def __init__(self, stream: Stream) -> None:
        self._stream = stream
        self._rest = b""

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: memoryview, /) -> int:  # type: ignore[override]
        block = self._rest or self._stream.read(len(buffer))
        self._rest = block[len(buffer) :]
        buffer[: len(block[: len(buffer)])] = block[: len(buffer)]
        return len(block[: len(buffer)])


def _opened(raw: IO[bytes], head: bytes) -> tuple[IO[bytes], str]:
    for mark, name, make in FORMS:
        if head.startswith(mark):
            return io.BufferedReader(_Readable(make(raw)), BLOCK), name
    return raw, ""


def look_through(path: Path) -> DumpFacts:
    """Read all of it once.

    Raises:
        InputError: it is no SQL text. ArchiveError: it is packed, and broken.
    """
    with path.open("rb", BLOCK) as raw:
        source, packed = _opened(raw, _head(raw))
        head = source.peek(HEAD_BYTES)[:HEAD_BYTES] if isinstance(source, io.BufferedReader) else b""
        _check(head)
        size = lines = 0
        text = True
        named: dict[str, None] = {}
        for line in _lines(source):
            size += len(line)
            lines += 1
            if size > MOST_UNPACKED_BYTES:
                raise InputError(
                    f"unpacked it is larger than {MOST_UNPACKED_BYTES >> 30} GB", hint="import it in parts"
                )
            text = text and _is_text(line)
            if CHOOSES.match(line) and (found := NAMED.match(line)):
                named[found[1].decode("ascii", "replace")] = None
    encoding = "utf-8" if text else "surrogateescape" if NAMES_CHARSET.search(head) else "latin-1"
    return DumpFacts(packed, encoding, size, lines, _kind(head), tuple(named))


def _kind(head: bytes) -> str:
    scores = {"mariadb": len(MARIADB.findall(head)), "postgresql": len(POSTGRESQL.findall(head))}
    best = max(scores, key=lambda kind: scores[kind])
    # Words of one may stand in the texts of the other: only what is clear is said.
    return best if scores[best] > 2 * min(scores.values()) else ""


def _head(raw: IO[bytes]) -> bytes:
    head = raw.read(16)
    raw.seek(0)
    return head


def _check(head: bytes) -> None:
    for mark, what in NOT_DUMPS.items():
        if head.startswith(mark):
            raise InputError(
                f"this is {what}, not an SQL dump",
                hint="give the SQL text itself, as it is or packed with gz, bz2, xz or zst",
            )
    if not head.strip():
        raise InputError("this dump is empty", hint="export it again")
    if b"\0" in head[:4096]:
        raise InputError("this is no text, hence no SQL dump", hint="export the database as SQL")


def _is_text(line: bytes) -> bool:
    if line.isascii():
        return True
    try:
        line.decode()
    except UnicodeDecodeError:
        return False
    return True


def _lines(source: IO[bytes]) -> Iterator[bytes]:
    while line := source.readline(MOST_BYTES + 1):
        if len(line) > MOST_BYTES:
            raise ArchiveError(
                f"a line of this dump has more than {MOST_BYTES >> 20} MB", hint="export it with shorter rows"
            )
        yield line


def dump_lines(path: Path, encoding: str) -> Iterator[str]:
    """Its lines with their ends.

    Args:
        encoding: as `look_through` says.
    """
    with path.open("rb", BLOCK) as raw:
        source, _ = _opened(raw, _head(raw))
        name, errors = ("latin-1", "strict") if encoding == "latin-1" else ("utf-8", "surrogateescape")
        first = True
        for line in _lines(source):
            yield (line.removeprefix(b"\xef\xbb\xbf") if first else line).decode(name, errors)
            first = False
