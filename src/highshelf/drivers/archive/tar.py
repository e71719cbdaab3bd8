"""Tar, read forwards: ustar, GNU long names, pax headers (POSIX.1-2017, pax; GNU tar's manual, "Basic Tar Format")."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import IO

from highshelf.core.errors import ArchiveError
from highshelf.drivers.archive.members import (
    MAX_HEADER_BYTES,
    Format,
    Kind,
    Part,
    RawMember,
    Stream,
    broken,
    exactly,
    too_large,
)

SIZE = 512
KINDS: dict[bytes, Kind] = {
    b"0": "file",
    b"\0": "file",
    b"7": "file",
    b"1": "hardlink",
    b"2": "symlink",
    b"3": "device",
    b"4": "device",
    b"5": "folder",
    b"6": "device",
}


@dataclass
class Ahead:
    """What extension headers said about the member that comes next."""

    name: str = ""
    link: str = ""
    size: int | None = None
    everywhere: dict[str, str] = field(default_factory=dict)


def looks_like_tar(head: bytes) -> bool:
    """Whether the first 512 bytes are a header whose checksum is right."""
    return len(head) >= SIZE and _sum_is_right(head[:SIZE])


class TarReader:
    format: Format = "tar"
    plain = True

    def __init__(self, source: IO[bytes] | Stream) -> None:
        self._source = source

    def members(self) -> Iterator[RawMember]:
        """Raises ArchiveError: broken, or a header above the limit."""
        ahead = Ahead()
        while (header := self._header()) is not None:
            kind, size = header[156:157], _number(header[124:136])
            if kind in (b"L", b"K", b"x", b"g", b"X"):
                self._extension(kind, size, ahead)
                continue
            if kind in (b"S", b"M", b"D", b"V"):
                raise ArchiveError(
                    f"the archive holds a kind of entry that releases do not have (“{kind.decode()}”: sparse, several volumes or a dump)",
                    hint="pack the release again as a plain tar or zip",
                )
            size = size if ahead.size is None else ahead.size
            name = ahead.name or ahead.everywhere.get("path") or _name(header)
            link = ahead.link or _text(header[157:257])
            what = KINDS.get(kind, "file")
            if name.endswith("/") and what == "file":
                what = "folder"
            packed = size if what == "file" else 0
            part = Part(self._source, packed, what=name)
            shown = name.removeprefix("./") or "."
            yield RawMember(shown, what, packed, part if what == "file" else None, link if "link" in what else "")
            part.skip()
            self._pad(packed)
            ahead = Ahead(everywhere=ahead.everywhere)

    def _header(self) -> bytes | None:
        first = self._source.read(SIZE)
        if not first:
            return None
        header = first if len(first) == SIZE else first + exactly(self._source, SIZE - len(first), "a header")
        if header == bytes(SIZE):
            return None
        if not _sum_is_right(header):
            raise broken("a header's checksum is wrong")
        return header

    def _extension(self, kind: bytes, size: int, ahead: Ahead) -> None:
        if size > MAX_HEADER_BYTES:
            raise too_large("a header", size, MAX_HEADER_BYTES)
        data = exactly(self._source, size, "a header")
        self._pad(size)
        if kind == b"L":
            ahead.name = _text(data)
        elif kind == b"K":
            ahead.link = _text(data)
        else:
            said = dict(_pax(data))
            if any(key.startswith("GNU.sparse.") for key in said):
                raise ArchiveError(
                    "the archive holds sparse files", hint="pack the release again as a plain tar or zip"
                )
            if kind == b"g":
                ahead.everywhere |= said
            else:
                ahead.name, ahead.link = said.get("path", ahead.name), said.get("linkpath", ahead.link)
                if "size" in said:
                    ahead.size = _decimal(said["size"])

    def _pad(self, size: int) -> None:
        if rest := -size % SIZE:
            exactly(self._source, rest, "padding")


def _sum_is_right(header: bytes) -> bool:
    try:
        told = _number(header[148:156])
    except ArchiveError:
        return False
    return told == sum(header[:148]) + 8 * 0x20 + sum(header[156:])


def _number(field: bytes) -> int:
    """Octal digits, or GNU's base 256 when the first bit is set."""
    if field[0] & 0x80:
        value = int.from_bytes(bytes([field[0] & 0x7F]) + field[1:], "big")
        if field[0] & 0x40 or value > 1 << 62:
            raise broken("a size makes no sense")
        return value
    digits = field.split(b"\0", 1)[0].strip()
    try:
        return int(digits or b"0", 8)
    except ValueError:
        raise broken("a number in a header is none") from None


def _decimal(text: str) -> int:
    if not text.isdecimal() or len(text) > 18:
        raise broken("a size makes no sense")
    return int(text)


def _name(header: bytes) -> str:
    name, prefix = _text(header[:100]), _text(header[345:500])
    # Only the POSIX form has a prefix; GNU's own keeps times there.
    return f"{prefix}/{name}" if prefix and header[257:263] == b"ustar\0" else name


def _text(raw: bytes) -> str:
    return raw.split(b"\0", 1)[0].decode("utf-8", "surrogateescape")


def _pax(data: bytes) -> Iterator[tuple[str, str]]:
    """Records of "length key=value\\n"."""
    at = 0
    while at < len(data):
        space = data.find(b" ", at, at + 12)
        if space < 0 or not data[at:space].isdigit():
            raise broken("a pax header makes no sense")
        end = at + int(data[at:space])
        if end <= space or end > len(data):
            raise broken("a pax header makes no sense")
        key, equals, value = data[space + 1 : end - 1].partition(b"=")
        if not equals:
            raise broken("a pax header makes no sense")
        yield key.decode("utf-8", "replace"), value.decode("utf-8", "surrogateescape")
        at = end
