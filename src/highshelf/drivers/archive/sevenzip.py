"""7z (7zFormat.txt of the format's public-domain SDK): signature header, packed streams, then a header that may be packed.

Blocks ("folders" there) are read through once, in order, so a solid block of any size costs its dictionary and no more.
"""

from __future__ import annotations

import lzma
import struct
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any

from highshelf.core.errors import ArchiveError
from highshelf.drivers.archive import codecs
from highshelf.drivers.archive.members import (
    BLOCK,
    MAX_MEMBERS,
    Format,
    Kind,
    Part,
    RawMember,
    Stream,
    broken,
    encrypted,
    exactly,
    too_large,
)

MAX_DIRECTORY_BYTES = 32 << 20
MAX_LINK_BYTES = 4096
END, HEADER, PACK, UNPACK, SUB, SIZES, CRCS, FOLDER, CODERS, COUNTS = 0, 1, 6, 7, 8, 9, 10, 11, 12, 13
STREAMS, FILES, EMPTY, EMPTY_FILE, ANTI, NAMES, ATTRIBUTES, PACKED_HEADER = 4, 5, 14, 15, 16, 17, 21, 23

LZMA1, LZMA2, AES = b"\3\1\1", b"\x21", b"\6\xf1\7\1"
CODERS_ALONE: dict[bytes, Callable[[Stream], Stream]] = {
    b"\0": lambda stream: stream,
    b"\4\1\x08": codecs.Inflated,
    b"\4\1\x09": codecs.Inflated64,
    b"\4\2\2": codecs.bzip2,
    b"\4\xf7\x11\1": codecs.zstandard,
}
NAMED = {b"\3\4\1": "PPMd", b"\3\3\1\x1b": "BCJ2"}
BRANCHES = {
    b"\3\3\1\3": lzma.FILTER_X86,
    b"\3\3\2\5": lzma.FILTER_POWERPC,
    b"\3\3\4\1": lzma.FILTER_IA64,
    b"\3\3\5\1": lzma.FILTER_ARM,
    b"\3\3\7\1": lzma.FILTER_ARMTHUMB,
    b"\3\3\x08\5": lzma.FILTER_SPARC,
}
DELTA = b"\3"
FORMS: dict[int, Kind] = {0o120000: "symlink", 0o020000: "device", 0o060000: "device", 0o010000: "device"}


@dataclass
class Block:
    """One chain of coders, in the order in which they unpack."""

    coders: list[tuple[bytes, bytes]]
    size: int = 0
    packed_at: int = 0
    packed: int = 0
    crc: int | None = None
    parts: list[int] = field(default_factory=list)
    crcs: list[int | None] = field(default_factory=list)


@dataclass(slots=True)
class Item:
    name: str = ""
    attributes: int = 0
    has_stream: bool = True
    is_file: bool = True


class Bytes:
    """A header in memory, read from its front."""

    def __init__(self, data: bytes) -> None:
        self._data, self._at = data, 0

    def take(self, count: int) -> bytes:
        if count < 0 or self._at + count > len(self._data):
            raise broken("its directory makes no sense")
        self._at += count
        return self._data[self._at - count : self._at]

    def byte(self) -> int:
        return self.take(1)[0]

    def number(self) -> int:
        """A number of one to nine bytes: the first byte's leading ones say how many follow."""
        first, mask, value = self.byte(), 0x80, 0
        for i in range(8):
            if not first & mask:
                return value | (first & (mask - 1)) << (8 * i)
            value |= self.byte() << (8 * i)
            mask >>= 1
        return value

    def count(self, what: str) -> int:
        found = self.number()
        if found > MAX_MEMBERS:
            raise too_large(what, found, MAX_MEMBERS)
        return found

    def bits(self, count: int) -> list[bool]:
        raw = self.take((count + 7) // 8)
        return [bool(raw[i // 8] & 0x80 >> i % 8) for i in range(count)]

    def defined(self, count: int) -> list[bool]:
        return [True] * count if self.byte() else self.bits(count)

    def crcs(self, count: int) -> list[int | None]:
        return [struct.unpack("<I", self.take(4))[0] if there else None for there in self.defined(count)]

    def must(self, kind: int) -> None:
        if self.byte() != kind:
            raise broken("its directory makes no sense")


class SevenZipReader:
    format: Format = "7z"
    plain = True

    def __init__(self, path: Path) -> None:
        self._path = path

    def members(self) -> Iterator[RawMember]:
        """Raises ArchiveError: broken, encrypted, a dictionary or directory above the limit, a method not read."""
        with self._path.open("rb") as source:
            blocks, items = _directory(source)
            yield from _members(source, blocks, items)


def _directory(source: IO[bytes]) -> tuple[list[Block], list[Item]]:
    start = exactly(source, 32, "its first header")
    at, size, crc = struct.unpack("<QQI", start[12:])
    if zlib.crc32(start[12:]) != struct.unpack("<I", start[8:12])[0]:
        raise broken("its first header has another checksum than it says")
    if size > MAX_DIRECTORY_BYTES:
        raise too_large("a directory", size, MAX_DIRECTORY_BYTES)
    if not size:
        return [], []
    source.seek(32 + at)
    data = exactly(source, size, "its directory")
    if zlib.crc32(data) != crc:
        raise broken("its directory has another checksum than it says")
    header = Bytes(data)
    kind = header.byte()
    # A packed header may hold a packed header, and so on: a handful is more than any program writes.
    for _ in range(4):
        if kind != PACKED_HEADER:
            break
        blocks = _streams(header)
        if len(blocks) != 1 or blocks[0].size > MAX_DIRECTORY_BYTES:
            raise too_large("a directory", blocks[0].size if blocks else 0, MAX_DIRECTORY_BYTES)
        header = Bytes(exactly(_chain(source, blocks[0]), blocks[0].size, "its directory"))
        kind = header.byte()
    if kind != HEADER:
        raise broken("its directory makes no sense")
    return _header(header)


def _header(header: Bytes) -> tuple[list[Block], list[Item]]:
    blocks: list[Block] = []
    items: list[Item] = []
    while (kind := header.byte()) != END:
        if kind == STREAMS:
            blocks = _streams(header)
        elif kind == FILES:
            items = _files(header)
        else:
            # Properties of the archive or further streams: nothing that a release needs.
            raise broken("its directory holds something unknown")
    return blocks, items


def _streams(header: Bytes) -> list[Block]:
    begin, packed = 0, []
    blocks: list[Block] = []
    while (kind := header.byte()) != END:
        if kind == PACK:
            begin = header.number()
            packed = _pack_info(header)
        elif kind == UNPACK:
            blocks = _blocks(header)
        elif kind == SUB:
            _substreams(header, blocks)
        else:
            raise broken("its directory makes no sense")
    at, index = 32 + begin, 0
    for block in blocks:
        if index >= len(packed):
            raise broken("its directory makes no sense")
        block.packed_at, block.packed = at, packed[index]
        at, index = at + packed[index], index + 1
        if not block.parts and not block.crcs:
            block.parts, block.crcs = [block.size], [block.crc]
    return blocks


def _pack_info(header: Bytes) -> list[int]:
    count, sizes = header.count("a list of streams"), []
    while (kind := header.byte()) != END:
        if kind == SIZES:
            sizes = [header.number() for _ in range(count)]
        elif kind == CRCS:
            header.crcs(count)
        else:
            raise broken("its directory makes no sense")
    return sizes


def _blocks(header: Bytes) -> list[Block]:
    header.must(FOLDER)
    count = header.count("a list of blocks")
    if header.byte():
        raise broken("its directory lies elsewhere")
    blocks, outs = [], []
    for _ in range(count):
        block, out = _block(header)
        blocks.append(block)
        outs.append(out)
    header.must(CODERS)
    for block, (count_out, main) in zip(blocks, outs, strict=True):
        block.size = [header.number() for _ in range(count_out)][main]
    while (kind := header.byte()) != END:
        if kind != CRCS:
            raise broken("its directory makes no sense")
        for block, crc in zip(blocks, header.crcs(len(blocks)), strict=True):
            block.crc = crc
    return blocks


def _block(header: Bytes) -> tuple[Block, tuple[int, int]]:
    count = header.count("a list of coders")
    if not 0 < count <= 4:
        raise broken("a block has no or too many coders")
    coders = []
    for _ in range(count):
        flags = header.byte()
        method = header.take(flags & 0x0F)
        if method == AES:
            raise encrypted("its blocks are sealed with a password")
        if method in NAMED or flags & 0x10:
            raise ArchiveError(
                f"the archive is packed by a method that is not read here ({NAMED.get(method, method.hex())})",
                hint="pack the release again as a plain zip or tar.gz",
            )
        coders.append((method, header.take(header.number()) if flags & 0x20 else b""))
    # A chain of coders with one stream each: pairs say whose output feeds whom.
    feeds = {header.number(): header.number() for _ in range(count - 1)}
    first = next((i for i in range(count) if i not in feeds), 0)
    order, main = [first], first
    while len(order) < count:
        after = next((into for into, out in feeds.items() if out == order[-1]), None)
        if after is None or after in order or after >= count:
            raise broken("a block's coders make no chain")
        order.append(after)
        main = after
    return Block([coders[i] for i in order]), (count, main)


def _substreams(header: Bytes, blocks: list[Block]) -> None:
    counts = [1] * len(blocks)
    kind = header.byte()
    if kind == COUNTS:
        counts = [header.count("a list of files") for _ in blocks]
        kind = header.byte()
    if sum(counts) > MAX_MEMBERS:
        raise too_large("a list of files", sum(counts), MAX_MEMBERS)
    for block, count in zip(blocks, counts, strict=True):
        # Sizes of all but the last are written; the last is what is left.
        sizes = [header.number() for _ in range(count - 1)] if kind == SIZES else []
        block.parts = [*sizes, block.size - sum(sizes)] if count else []
        if any(size < 0 for size in block.parts) or len(block.parts) != count:
            raise broken("the sizes in its directory make no sense")
        block.crcs = [block.crc] if count == 1 else [None] * count
    if kind == SIZES:
        kind = header.byte()
    while kind != END:
        if kind != CRCS:
            raise broken("its directory makes no sense")
        without = [block for block in blocks if len(block.parts) != 1 or block.crc is None]
        crcs = iter(header.crcs(sum(len(block.parts) for block in without)))
        for block in without:
            block.crcs = [next(crcs) for _ in block.parts]
        kind = header.byte()


def _files(header: Bytes) -> list[Item]:
    count = header.count("a list of files")
    items = [Item() for _ in range(count)]
    empty: list[Item] = []
    while (kind := header.byte()) != END:
        data = Bytes(header.take(header.number()))
        if kind == EMPTY:
            empty = [item for item, is_empty in zip(items, data.bits(count), strict=True) if is_empty]
            for item in empty:
                item.has_stream = item.is_file = False
        elif kind == EMPTY_FILE:
            for item, is_file in zip(empty, data.bits(len(empty)), strict=True):
                item.is_file = is_file
        elif kind == ANTI and any(data.bits(len(empty))):
            raise ArchiveError("the archive says what to delete (“anti” entries)", hint="check in a whole release")
        elif kind == NAMES:
            _outside(data)
            for item in items:
                item.name = _utf16(data)
        elif kind == ATTRIBUTES:
            there = data.defined(count)
            _outside(data)
            for item, has in zip(items, there, strict=True):
                item.attributes = struct.unpack("<I", data.take(4))[0] if has else 0
    return items


def _outside(data: Bytes) -> None:
    if data.byte():
        raise broken("its directory lies elsewhere")


def _utf16(data: Bytes) -> str:
    held = bytearray()
    while (pair := data.take(2)) != b"\0\0":
        held += pair
        if len(held) > 1 << 16:
            raise broken("a name in its directory is endless")
    return held.decode("utf-16-le", "surrogatepass")


def _members(source: IO[bytes], blocks: list[Block], items: list[Item]) -> Iterator[RawMember]:
    streams = _parts(source, blocks)
    # Each is let go of as it is read: the list of what was found grows meanwhile.
    items.reverse()
    while items:
        item = items.pop()
        # Programs that write 7z on Unix keep the mode in the upper half (bit 15 says so).
        mode = item.attributes >> 16 if item.attributes & 0x8000 else 0
        if not item.has_stream:
            folder = not item.is_file or bool(item.attributes & 0x10)
            yield RawMember(item.name, "folder" if folder else "file", 0, None if folder else Part(source, 0))
            continue
        taken = next(streams, None)
        if taken is None:
            raise broken("its directory names more files than it holds")
        part, size = taken
        kind = FORMS.get(mode & 0o170000, "file")
        if kind == "symlink":
            if size > MAX_LINK_BYTES:
                raise broken(f"{item.name} is a link of {size} bytes")
            link = exactly(part, size, item.name).decode("utf-8", "replace")
            part.skip()
            yield RawMember(item.name, kind, 0, link=link)
            continue
        yield RawMember(item.name, kind, size, part)
        part.skip()


class Summed:
    """A part whose checksum is compared at its end."""

    def __init__(self, part: Part, crc: int | None) -> None:
        self._part, self._wanted, self._crc, self._done = part, crc, 0, False

    def read(self, size: int = -1, /) -> bytes:
        block = self._part.read(size)
        self._crc = zlib.crc32(block, self._crc)
        if not block and size and self._wanted is not None and self._crc != self._wanted:
            raise broken("a file has another checksum than the directory says")
        return block

    def skip(self) -> None:
        while self.read(BLOCK):
            pass


def _parts(source: IO[bytes], blocks: list[Block]) -> Iterator[tuple[Summed, int]]:
    for block in blocks:
        stream = _chain(source, block)
        for size, crc in zip(block.parts, block.crcs, strict=True):
            yield Summed(Part(stream, size), crc), size


def _chain(source: IO[bytes], block: Block) -> Stream:
    source.seek(block.packed_at)
    stream: Stream = Part(source, block.packed, what="a block")
    filters: list[dict[str, Any]] = []
    for method, properties in block.coders:
        if method in BRANCHES or method == DELTA or (method in (LZMA1, LZMA2) and not filters):
            filters.insert(0, _filter(method, properties))
            continue
        stream = _coded(_flush(stream, filters, block.size), method)
        filters = []
    return _flush(stream, filters, block.size)


def _flush(stream: Stream, filters: list[dict[str, Any]], size: int) -> Stream:
    """LZMA and the filters behind it are one decoder of liblzma, which wants the branch filters first."""
    if not filters:
        return stream
    if filters[-1]["id"] not in (lzma.FILTER_LZMA1, lzma.FILTER_LZMA2):
        # A filter behind another coder has no LZMA of its own; releases are not packed so.
        raise ArchiveError(
            "the archive is packed by a chain of methods that is not read here",
            hint="pack the release again as a plain zip or tar.gz",
        )
    return Part(codecs.raw_lzma(stream, filters), size, what="a block")


def _filter(method: bytes, properties: bytes) -> dict[str, Any]:
    if method == LZMA1:
        return codecs.lzma1_filter(properties)
    if method == LZMA2:
        return codecs.lzma2_filter(properties)
    if method == DELTA:
        return {"id": lzma.FILTER_DELTA, "dist": (properties[0] if properties else 0) + 1}
    return {"id": BRANCHES[method]}


def _coded(stream: Stream, method: bytes) -> Stream:
    if method not in CODERS_ALONE:
        raise ArchiveError(
            f"the archive is packed by a method that is not read here ({method.hex()})",
            hint="pack the release again as a plain zip or tar.gz",
        )
    return CODERS_ALONE[method](stream)
