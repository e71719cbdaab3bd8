"""Decompressors as streams with bounded output: what one byte in can become is never held at once."""

from __future__ import annotations

import bz2
import lzma
import struct
import zlib
from collections.abc import Callable
from typing import IO, Any, Protocol

from highshelf.core.errors import ArchiveError
from highshelf.drivers.archive.members import BLOCK, MAX_DICTIONARY_BYTES, Stream, broken, too_large

# One step of deflate64 can make 65,538 bytes out of about 18 bits: fed by the handful, it stays below 10 MB.
DEFLATE64_BITE = 256


class Engine(Protocol):
    """The common shape of bz2's and lzma's decompressors."""

    eof: bool
    needs_input: bool
    unused_data: bytes

    def decompress(self, data: bytes, max_length: int = -1) -> bytes: ...


class Bounded:
    """bz2 and lzma: streams may follow each other (`make` begins the next)."""

    def __init__(self, source: IO[bytes] | Stream, make: Callable[[], Any], *, several: bool = False) -> None:
        self._source, self._make, self._several = source, make, several
        self._engine: Engine = make()
        self._started = False
        self._rest = b""

    def read(self, size: int = -1, /) -> bytes:
        limit = BLOCK if size < 0 else min(size, BLOCK)
        try:
            while limit:
                if self._engine.eof and not self._next():
                    return b""
                data = b""
                if self._engine.needs_input:
                    data = self._rest or self._source.read(BLOCK)
                    self._rest = b""
                    if not data:
                        raise broken("its packed data ends too early")
                    self._started = True
                if made := self._engine.decompress(data, limit):
                    return made
        except lzma.LZMAError as fault:
            if "Memory usage limit" in str(fault):
                raise ArchiveError(
                    f"the archive wants a dictionary of more than {MAX_DICTIONARY_BYTES / 1e6:,.0f} MB in memory",
                    hint="pack it again with a smaller dictionary, for example as a zip",
                ) from None
            raise broken(str(fault)) from None
        except (OSError, EOFError, ValueError) as fault:
            raise broken(str(fault)) from None
        return b""

    def _next(self) -> bool:
        """Begin the stream that follows, if one does. Zeros between streams are padding (xz) and passed over."""
        if not self._several:
            return False
        rest = self._engine.unused_data.lstrip(b"\0")
        while not rest:
            block = self._source.read(BLOCK)
            if not block:
                return False
            rest = block.lstrip(b"\0")
        self._engine, self._rest = self._make(), rest
        return True


class Inflated:
    """Deflate (RFC 1951) with `wbits` -15, or gzip (RFC 1952) with 31, whose members may follow each other."""

    def __init__(self, source: IO[bytes] | Stream, wbits: int = -15) -> None:
        self._source, self._wbits = source, wbits
        self._engine = zlib.decompressobj(wbits)
        self._rest = b""

    def read(self, size: int = -1, /) -> bytes:
        limit = BLOCK if size < 0 else min(size, BLOCK)
        try:
            while limit:
                if self._engine.eof and not self._next():
                    return b""
                data = self._engine.unconsumed_tail or self._rest or self._source.read(BLOCK)
                self._rest = b""
                made = self._engine.decompress(data, limit)
                if made:
                    return made
                if not data and not self._engine.eof:
                    raise broken("its packed data ends too early")
        except zlib.error as fault:
            raise broken(str(fault)) from None
        return b""

    def _next(self) -> bool:
        if self._wbits < 0:
            return False
        rest = self._engine.unused_data or self._source.read(BLOCK)
        # What follows a gzip member is another member, or padding that gzip(1) passes over too.
        if not rest.startswith(b"\x1f\x8b"):
            return False
        self._engine, self._rest = zlib.decompressobj(self._wbits), rest
        return True


class Inflated64:
    """Deflate64, which old Windows shells write for files above 2 GB."""

    def __init__(self, source: IO[bytes] | Stream) -> None:
        # Seldom met, and a tenth of a check-in's start to load.
        import inflate64

        self._source, self._engine, self._made = source, inflate64.Inflater(), b""
        self._packed = b""

    def read(self, size: int = -1, /) -> bytes:
        limit = BLOCK if size < 0 else min(size, BLOCK)
        try:
            while not self._made and not self._engine.eof:
                self._packed = self._packed or self._source.read(BLOCK)
                if not self._packed:
                    raise broken("its packed data ends too early")
                self._made = self._engine.inflate(self._packed[:DEFLATE64_BITE])
                self._packed = self._packed[DEFLATE64_BITE:]
        except (ValueError, RuntimeError) as fault:
            raise broken(str(fault)) from None
        block, self._made = self._made[:limit], self._made[limit:]
        return block


def zstandard(source: IO[bytes] | Stream) -> Stream:
    """A .zst file, frames after each other."""
    # The heaviest of these libraries, and the rarest needed: loading is half of what a small check-in costs.
    from highshelf.drivers.archive.zstd import Zstandard

    return Zstandard(source)


def xz(source: IO[bytes] | Stream) -> Stream:
    """An .xz file (or the older .lzma), streams after each other."""
    # The dictionary is the bulk of what liblzma asks for; a little more is its own state.
    return Bounded(source, lambda: lzma.LZMADecompressor(memlimit=MAX_DICTIONARY_BYTES + (8 << 20)), several=True)


def bzip2(source: IO[bytes] | Stream, *, several: bool = True) -> Stream:
    return Bounded(source, bz2.BZ2Decompressor, several=several)


def raw_lzma(source: IO[bytes] | Stream, filters: list[dict[str, Any]]) -> Stream:
    """LZMA, LZMA2 and the filters before them without a container (7z, zip method 14).

    Raises:
        ArchiveError: a dictionary above the limit.
    """
    for one in filters:
        if one.get("dict_size", 0) > MAX_DICTIONARY_BYTES:
            raise too_large("a dictionary", one["dict_size"], MAX_DICTIONARY_BYTES)
    return Bounded(source, lambda: lzma.LZMADecompressor(lzma.FORMAT_RAW, filters=filters))


def lzma1_filter(properties: bytes) -> dict[str, Any]:
    """The five bytes of LZMA's properties: (pb * 5 + lp) * 9 + lc, then the dictionary's size."""
    if len(properties) < 5 or properties[0] >= 225:
        raise broken("its LZMA properties make no sense")
    rest, lc = divmod(properties[0], 9)
    pb, lp = divmod(rest, 5)
    size = max(struct.unpack("<I", properties[1:5])[0], 4096)
    return {"id": lzma.FILTER_LZMA1, "dict_size": size, "lc": lc, "lp": lp, "pb": pb}


def lzma2_filter(properties: bytes) -> dict[str, Any]:
    """One byte: the dictionary is (2 | lowest bit) << (half of it + 11)."""
    if len(properties) != 1 or properties[0] > 40:
        raise broken("its LZMA2 properties make no sense")
    size = 0xFFFFFFFF if properties[0] == 40 else (2 | properties[0] & 1) << (properties[0] // 2 + 11)
    return {"id": lzma.FILTER_LZMA2, "dict_size": size}
