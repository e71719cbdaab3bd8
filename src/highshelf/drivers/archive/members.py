"""What the format readers hand on: members in the archive's order, each with a stream that is read once.

Rules:
1. A reader never holds more than a block, a header and its list of names; headers, dictionaries and counts have limits.
2. A member's stream is valid until the next member is asked for; what was not read of it is skipped.
3. Names are as the archive says them. Whether they are safe is decided in core, never mended here.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import IO, Literal, Protocol

from highshelf.core.errors import ArchiveError

BLOCK = 1 << 18
# 64 MiB is what `xz -9` asks for; a dictionary of gigabytes would be held in memory whole.
MAX_DICTIONARY_BYTES = 64 << 20
MAX_MEMBERS = 250_000
MAX_HEADER_BYTES = 1 << 20

Kind = Literal["file", "folder", "symlink", "hardlink", "device"]
Format = Literal["zip", "tar", "7z"]


class Stream(Protocol):
    def read(self, size: int = -1, /) -> bytes:
        """At most `size` bytes; b"" at the end. Raises ArchiveError when the packed data is broken."""
        ...


@dataclass(frozen=True)
class RawMember:
    """One entry. `link` is where a link points; `noted` is what was odd about its name, for people."""

    name: str
    kind: Kind
    size_bytes: int
    stream: Stream | None = None
    link: str = ""
    noted: str = ""


class Reader(Protocol):
    """`format`, the members in the order in which they are packed, and, once they were gone through, whether every unpacker reads them."""

    format: Format
    plain: bool

    def members(self) -> Iterator[RawMember]: ...


def broken(what: str) -> ArchiveError:
    return ArchiveError(f"the archive is broken: {what}", hint="bring it again from where it came from")


def encrypted(name: str) -> ArchiveError:
    return ArchiveError(
        f"the archive is encrypted ({name})", hint="unpack it with its password yourself and check in what is inside"
    )


def too_large(what: str, size_bytes: int, limit_bytes: int) -> ArchiveError:
    return ArchiveError(
        f"the archive wants {what} of {size_bytes / 1e6:,.0f} MB in memory; the limit is {limit_bytes / 1e6:,.0f} MB",
        hint="pack it again with a smaller dictionary, for example as a zip",
    )


def exactly(source: IO[bytes] | Stream, size: int, what: str) -> bytes:
    """`size` bytes, or ArchiveError when the archive ends before."""
    held = bytearray()
    while len(held) < size:
        block = source.read(size - len(held))
        if not block:
            raise broken(f"it ends within {what}")
        held += block
    return bytes(held)


class Part:
    """The next `size` bytes of another stream. With `fault`, an end before that is an error."""

    def __init__(self, source: IO[bytes] | Stream, size: int, *, what: str = "a file") -> None:
        self._source, self._left, self._what = source, size, what

    def read(self, size: int = -1, /) -> bytes:
        wanted = self._left if size < 0 else min(size, self._left)
        if not wanted:
            return b""
        block = self._source.read(wanted)
        if not block:
            raise broken(f"it ends within {self._what}")
        self._left -= len(block)
        return block

    def skip(self) -> None:
        while self.read(BLOCK):
            pass
