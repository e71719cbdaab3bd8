"""The same files in the smallest form that a host can unpack: a tar, packed with gzip, zstd or xz, without a wrapper.

Files of one kind lie side by side: what is alike packs best when it is near. Everything is read from a zip of the release,
member by member, and nothing is unpacked to disk.
"""

from __future__ import annotations

import contextlib
import ctypes
import lzma
import os
import signal
import subprocess
import sys
import tarfile
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, BinaryIO, Protocol

import deflate
import zstandard

from highshelf.core.errors import ArchiveError

FORMS = ("tar.xz", "tar.zst", "tar.gz")
# Above these sizes (bytes, unpacked) the thorough settings take minutes for a few percent.
THOROUGH_BYTES, XZ_BYTES = 120 << 20, 600 << 20
# A member of the gzip form: small enough to be unpacked while the next is on its way, long enough to pack as well as the whole.
MEMBER_BYTES, CHUNK_BYTES = 1 << 20, 1 << 18
# Twice as much packs 0.7 % smaller and takes 100 MB instead of 50.
DICTIONARY_BYTES = 4 << 20
# How often it is asked whether it is still wanted.
LOOK_SECONDS = 1.0
STAMP_SECONDS = 1_772_355_600


def repack(source: Path, prefix: str, form: str, target: Path) -> int:
    """Write the files of a zip below `prefix` (the wrapper with its slash, or "") as a packed tar; returns its size, bytes."""
    draft = target.with_name(target.name + ".draft")
    with zipfile.ZipFile(source) as archive:
        members = [m for m in archive.infolist() if not m.is_dir() and m.filename.startswith(prefix)]
        size = sum(m.file_size for m in members)
        members.sort(key=lambda m: _kind(m.filename[len(prefix) :]))
        with _packer(draft, form, size) as packed:
            for member in members:
                _add(packed, archive, member, member.filename[len(prefix) :])
            # The end of a tar (POSIX.1, ustar): two empty blocks.
            packed.write(bytes(2 * tarfile.BLOCKSIZE))
    draft.rename(target)
    return target.stat().st_size


def _add(packed: Packed, archive: zipfile.ZipFile, member: zipfile.ZipInfo, path: str) -> None:
    """A file with its header; where a stream of members may be cut, it is told."""
    info = tarfile.TarInfo(path)
    info.size, info.mode, info.mtime = member.file_size, 0o644, STAMP_SECONDS
    packed.write(info.tobuf(tarfile.PAX_FORMAT))
    left = info.size
    with archive.open(member) as content:
        while block := content.read(CHUNK_BYTES):
            packed.write(block)
            left -= len(block)
            if left:
                packed.may_cut()
    packed.write(bytes(-info.size % tarfile.BLOCKSIZE))
    packed.may_cut()


class Packed(Protocol):
    """Where a tar is written to, packed."""

    def write(self, block: bytes, /) -> object: ...
    def may_cut(self) -> None:
        """Whoever unpacks may begin here: between two files, or within the content of one."""
        ...


class Whole:
    """One stream without cuts."""

    def __init__(self, out: Any) -> None:
        self._out = out

    def write(self, block: bytes, /) -> object:
        return self._out.write(block)

    def may_cut(self) -> None:
        pass


class Members:
    """gzip in members of about MEMBER_BYTES, unpacked (RFC 1952, 2.2): one stream for everybody, and each a piece by itself."""

    def __init__(self, out: BinaryIO, level: int) -> None:
        self._out, self._level, self._held = out, level, bytearray()

    def write(self, block: bytes, /) -> object:
        self._held += block
        return len(block)

    def may_cut(self) -> None:
        if len(self._held) >= MEMBER_BYTES:
            self.close()

    def close(self) -> None:
        """End the member that is open."""
        if self._held:
            self._out.write(deflate.gzip_compress(bytes(self._held), self._level))
            self._held.clear()


def _kind(path: str) -> tuple[str, str]:
    """Order: by ending, then by path: neighbours are alike, more so than files of the same name elsewhere."""
    return path.rpartition("/")[2].rpartition(".")[2].lower(), path


@contextmanager
def _packer(target: Path, form: str, size: int) -> Iterator[Packed]:
    if form == "tar.gz":
        with target.open("wb") as raw, contextlib.closing(Members(raw, 10 if size < THOROUGH_BYTES else 9)) as members:
            yield members
    elif form == "tar.xz":
        # A dictionary is kept whole in memory by whoever unpacks, and ten times of it by whoever packs.
        preset = 6 if size < THOROUGH_BYTES else 3
        filters = [{"id": lzma.FILTER_LZMA2, "preset": preset, "dict_size": DICTIONARY_BYTES}]
        with lzma.open(target, "wb", filters=filters) as packed:
            yield Whole(packed)
    else:
        level = 17 if size < THOROUGH_BYTES else 9
        with target.open("wb") as raw, zstandard.ZstdCompressor(level).stream_writer(raw) as writer:
            yield Whole(writer)


def repack_apart(source: Path, prefix: str, form: str, target: Path, wanted: Callable[[], bool] = lambda: True) -> int:
    """`repack` in a process of its own, politely; returns the size, or 0 when this form is not worth it, or not wanted any more.

    Args:
        wanted: asked now and then while it packs.

    Raises:
        ArchiveError: it could not be packed.
    """
    if form == "tar.xz" and _unpacked(source) > XZ_BYTES:
        return 0
    command = [sys.executable, "-m", "highshelf.drivers.archive.repack", str(source), prefix, form, str(target)]
    draft = target.with_name(target.name + ".draft")
    with tempfile.TemporaryFile("w+") as told:
        work = subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=told)
        while True:
            with contextlib.suppress(subprocess.TimeoutExpired):
                work.wait(LOOK_SECONDS)
                break
            if not wanted():
                work.kill()
                work.wait()
                draft.unlink(missing_ok=True)
                return 0
        told.seek(0)
        if work.returncode:
            draft.unlink(missing_ok=True)
            raise ArchiveError(f"the release could not be packed as {form}: {told.read().strip()[-300:]}")
    return target.stat().st_size


def _unpacked(source: Path) -> int:
    with zipfile.ZipFile(source) as archive:
        return sum(m.file_size for m in archive.infolist())


def _end_with_parent() -> None:
    """Nobody waits for this when the service is gone (prctl(2), PR_SET_PDEATHSIG; Linux only)."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).prctl(1, signal.SIGKILL)


if __name__ == "__main__":
    _end_with_parent()
    os.nice(10)
    repack(Path(sys.argv[1]), sys.argv[2], sys.argv[3], Path(sys.argv[4]))
