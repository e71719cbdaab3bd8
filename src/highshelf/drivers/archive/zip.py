"""Zip from its central directory (PKWARE's APPNOTE.TXT 6.3.10; numbers of sections in comments are its).

The central directory is what unpackers go by; a local header that says another name, and entries that lie over each
other, are how an archive shows one thing to one program and another to the next: both are refused.
"""

from __future__ import annotations

import struct
import unicodedata
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from highshelf.core.errors import ArchiveError
from highshelf.drivers.archive import codecs
from highshelf.drivers.archive.members import (
    MAX_MEMBERS,
    Format,
    Kind,
    Part,
    RawMember,
    Stream,
    broken,
    encrypted,
    exactly,
)

END, END64, LOCATOR64, CENTRAL, LOCAL = (
    b"PK\5\6",
    b"PK\6\6",
    b"PK\6\7",
    b"PK\1\2",
    b"PK\3\4",
)
METHODS = {0: "stored", 8: "deflate", 9: "deflate64", 12: "bzip2", 14: "LZMA", 93: "Zstandard", 95: "xz"}
PLAIN = (0, 8)
MAX_LINK_BYTES = 4096


@dataclass(frozen=True, slots=True)
class Entry:
    name: str
    noted: str
    flags: int
    method: int
    crc: int
    packed: int
    size: int
    mode: int
    offset: int
    # Its name's bytes as they stand there, when they are another thing than the name in UTF-8.
    raw: bytes

    @property
    def written(self) -> bytes:
        return self.raw or self.name.encode("utf-8", "surrogateescape")


def looks_like_zip(path: Path) -> bool:
    with path.open("rb") as source:
        head = source.read(4)
        return head in (LOCAL, END) or _end(source) is not None


class ZipReader:
    format: Format = "zip"

    def __init__(self, path: Path) -> None:
        self._path = path
        # Whether every unpacker reads it: stored and deflate only. Known once the members were gone through.
        self.plain = True

    def members(self) -> Iterator[RawMember]:
        """Raises ArchiveError: broken, encrypted, packed by a method that is not read."""
        with self._path.open("rb") as source:
            entries = sorted(_entries(source), key=lambda e: e.offset)
            end_before = 0
            for entry in entries:
                if entry.flags & 0x1 or entry.flags & 0x40:
                    raise encrypted(entry.name)
                self.plain = self.plain and entry.method in PLAIN
                if entry.method not in METHODS:
                    raise ArchiveError(
                        f"{entry.name} is packed by method {entry.method}, which is not read here",
                        hint="pack the release again as a plain zip or tar.gz",
                    )
                if entry.offset < end_before:
                    raise ArchiveError(
                        f"the archive's entries lie over each other ({entry.name}): it looks like a bomb",
                        hint="check in what is really inside",
                    )
                begin = _data_begin(source, entry)
                end_before = begin + entry.packed
                yield _member(source, entry, begin)


def _member(source: IO[bytes], entry: Entry, begin: int) -> RawMember:
    kind = _kind(entry)
    if kind == "folder":
        return RawMember(entry.name, kind, 0, noted=entry.noted)
    source.seek(begin)
    stream = Checked(_unpacked(Part(source, entry.packed, what=entry.name), entry), entry)
    if kind == "symlink":
        if entry.size > MAX_LINK_BYTES:
            raise broken(f"{entry.name} is a link of {entry.size} bytes")
        link = exactly(stream, entry.size, entry.name).decode("utf-8", "replace")
        return RawMember(entry.name, kind, 0, link=link, noted=entry.noted)
    return RawMember(entry.name, kind, entry.size, stream, noted=entry.noted)


def _kind(entry: Entry) -> Kind:
    """The upper half of the external attributes is the Unix mode, when one was written (4.4.15)."""
    form = entry.mode & 0o170000
    if form == 0o120000:
        return "symlink"
    if form in (0o020000, 0o060000, 0o010000, 0o140000):
        return "device"
    return "folder" if entry.name.endswith("/") or form == 0o040000 else "file"


class Checked:
    """A stream that must be as long, and have the checksum, that the directory says."""

    def __init__(self, stream: Stream, entry: Entry) -> None:
        self._stream, self._entry = stream, entry
        self._left, self._crc = entry.size, 0

    def read(self, size: int = -1, /) -> bytes:
        block = self._stream.read(size)
        self._left -= len(block)
        self._crc = zlib.crc32(block, self._crc)
        if self._left < 0:
            raise broken(f"{self._entry.name} is longer than it says")
        if not block and size and (self._left or self._crc != self._entry.crc):
            raise broken(f"{self._entry.name} has another checksum than it says")
        return block


def _unpacked(packed: Stream, entry: Entry) -> Stream:
    match entry.method:
        case 0:
            return packed
        case 8:
            return codecs.Inflated(packed)
        case 9:
            return codecs.Inflated64(packed)
        case 12:
            return codecs.bzip2(packed, several=False)
        case 14:
            # 5.8.8: two bytes of version, two of length, then LZMA's properties.
            length = struct.unpack("<2xH", exactly(packed, 4, entry.name))[0]
            filters = [codecs.lzma1_filter(exactly(packed, length, entry.name))]
            return Part(codecs.raw_lzma(packed, filters), entry.size, what=entry.name)
        case 93:
            return codecs.zstandard(packed)
        case _:
            return codecs.xz(packed)


def _entries(source: IO[bytes]) -> Iterator[Entry]:
    end = _end(source)
    if end is None:
        raise broken("its directory is missing: it is cut off, or it is no zip")
    count, size, offset, shift = end
    if count > MAX_MEMBERS:
        raise ArchiveError(
            f"the archive holds {count:,} entries; the limit is {MAX_MEMBERS:,}", hint="check in what is really inside"
        )
    source.seek(offset + shift)
    left = size
    for _ in range(count):
        fixed = exactly(source, 46, "its directory")
        if fixed[:4] != CENTRAL:
            raise broken("its directory makes no sense")
        (made, _need, flags, method, _time, _date, crc, packed, whole, n, m, k, disk, _inner, outer, at) = (
            struct.unpack("<4xHHHHHHIIIHHHHHII", fixed)
        )
        raw, extra = exactly(source, n, "its directory"), exactly(source, m, "its directory")
        exactly(source, k, "its directory") if k else b""
        left -= 46 + n + m + k
        if left < 0:
            raise broken("its directory is longer than it says")
        fields = dict(_fields(extra))
        whole, packed, at = _wide(fields.get(1, b""), whole, packed, at)
        if disk not in (0, 0xFFFF):
            raise ArchiveError("the archive is one part of several", hint="join the parts and check in the whole")
        name, noted = _name(raw, flags, made, fields)
        yield Entry(
            name,
            noted,
            flags,
            method,
            crc,
            packed,
            whole,
            # 3 is Unix, 19 is OS X (4.4.2.2).
            outer >> 16 if made >> 8 in (3, 19) else 0,
            at + shift,
            b"" if name.encode("utf-8", "surrogateescape") == raw else raw,
        )


def _name(raw: bytes, flags: int, made: int, fields: dict[int, bytes]) -> tuple[str, str]:
    """UTF-8 when bit 11 or the Unicode path field (4.6.9) says so, or when it reads as such; else an old code page.

    4.4.4 (appendix D) says code page 437; German and French Windows wrote 850, whose letters lie in the same places as
    437's, and some wrote 1252: the page in which most of it is letters is taken.
    """
    path = fields.get(0x7075, b"")
    if len(path) > 5 and path[0] == 1 and struct.unpack("<I", path[1:5])[0] == zlib.crc32(raw):
        raw, flags = path[5:], flags | 0x800
    try:
        return raw.decode("utf-8"), ""
    except UnicodeDecodeError:
        if flags & 0x800:
            return raw.decode("utf-8", "surrogateescape"), ""
    pages = ("cp437", "cp850", "cp1252") if made >> 8 in (3, 19) else ("cp850", "cp437", "cp1252")
    page = max(pages, key=lambda p: _latin_letters(raw.decode(p, "replace")))
    return raw.decode(page, "replace"), f"its name was read in the old code page {page[2:]}"


def _latin_letters(text: str) -> int:
    """How many characters beyond ASCII are Latin letters: the right page has most, others show boxes, Greek and signs."""
    return sum(1 for c in text if ord(c) > 127 and unicodedata.name(c, "").startswith("LATIN"))


def _fields(extra: bytes) -> Iterator[tuple[int, bytes]]:
    at = 0
    while at + 4 <= len(extra):
        kind, size = struct.unpack_from("<HH", extra, at)
        yield kind, extra[at + 4 : at + 4 + size]
        at += 4 + size


def _wide(field: bytes, *numbers: int) -> tuple[int, ...]:
    """4.5.3: in this order, only those whose short form is all ones."""
    found, at = [], 0
    for number in numbers:
        if number == 0xFFFFFFFF:
            if len(field) < at + 8:
                raise broken("its zip64 field is too short")
            number, at = struct.unpack_from("<Q", field, at)[0], at + 8
        found.append(number)
    return tuple(found)


def _data_begin(source: IO[bytes], entry: Entry) -> int:
    source.seek(entry.offset)
    fixed = exactly(source, 30, entry.name)
    if fixed[:4] != LOCAL:
        raise broken(f"{entry.name} does not lie where its directory says")
    n, m = struct.unpack("<HH", fixed[26:30])
    if exactly(source, n, entry.name) != entry.written:
        raise ArchiveError(
            f"the archive names an entry in two ways ({entry.name} in its directory)",
            hint="programs would unpack it differently: get it from its maker again",
        )
    return int(entry.offset + 30 + n + m)


def _end(source: IO[bytes]) -> tuple[int, int, int, int] | None:
    """(entries, size of the directory, where it begins, what stands before the archive), or None."""
    length = source.seek(0, 2)
    tail_at = max(length - 65_557, 0)
    source.seek(tail_at)
    tail = source.read()
    at = tail.rfind(END)
    while at >= 0 and len(tail) < at + 22:
        at = tail.rfind(END, 0, at)
    if at < 0:
        return None
    count, size, offset = struct.unpack_from("<HII", tail, at + 10)
    end_at = tail_at + at
    if count == 0xFFFF or 0xFFFFFFFF in (size, offset):
        wide = _end64(source, end_at)
        if wide is not None:
            count, size, offset, end_at = wide
    shift = end_at - size - offset
    if shift < 0:
        raise broken("its directory does not lie where it says")
    return count, size, offset, shift


def _end64(source: IO[bytes], end_at: int) -> tuple[int, int, int, int] | None:
    if end_at < 20:
        return None
    source.seek(end_at - 20)
    locator = source.read(20)
    if locator[:4] != LOCATOR64:
        return None
    at = struct.unpack("<Q", locator[8:16])[0]
    # Something may stand before the archive (a self-extracting head): then the record lies right before its locator.
    for place in (at, end_at - 20 - 56):
        source.seek(max(place, 0))
        record = source.read(56)
        if record[:4] == END64 and len(record) == 56:
            count, size, offset = struct.unpack("<QQQ", record[32:56])
            return count, size, offset, place
    raise broken("its zip64 directory is missing")
