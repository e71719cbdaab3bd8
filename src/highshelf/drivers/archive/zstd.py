"""Zstandard as a stream with bounded output. Loaded when such an archive comes: its library is the heaviest of them."""

from __future__ import annotations

from typing import IO

import zstandard

from highshelf.core.errors import ArchiveError
from highshelf.drivers.archive.members import BLOCK, MAX_DICTIONARY_BYTES, Stream, broken


class Zstandard:
    """Zstandard (RFC 8878), frames after each other; a window above the limit is refused."""

    def __init__(self, source: IO[bytes] | Stream) -> None:
        self._reader = zstandard.ZstdDecompressor(max_window_size=MAX_DICTIONARY_BYTES).stream_reader(
            source,  # type: ignore[arg-type]
            read_size=BLOCK,
            read_across_frames=True,
        )

    def read(self, size: int = -1, /) -> bytes:
        try:
            return self._reader.read(BLOCK if size < 0 else min(size, BLOCK))
        except zstandard.ZstdError as fault:
            if "memory" in str(fault).lower():
                raise ArchiveError(
                    f"the archive wants a window of more than {MAX_DICTIONARY_BYTES / 1e6:,.0f} MB in memory",
                    hint="pack it again with a smaller window, for example as a zip",
                ) from None
            raise broken(str(fault)) from None
