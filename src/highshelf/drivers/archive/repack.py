"""The same files in the smallest form that a host can unpack: a tar, packed with gzip, zstd or xz, without a wrapper.

Files of one kind lie side by side: what is alike packs best when it is near. Everything is read from a zip of the release,
member by member, and nothing is unpacked to disk.
"""

from __future__ import annotations

import contextlib
import ctypes
import gzip
import lzma
import os
import signal
import subprocess
import sys
import tarfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import zstandard

from highshelf.core.errors import ArchiveError

FORMS = ("tar.xz", "tar.zst", "tar.gz")
# Above these sizes (bytes, unpacked) the thorough settings take minutes for a few percent.
THOROUGH_BYTES, XZ_BYTES = 120 << 20, 600 << 20
STAMP_SECONDS = 1_772_355_600


def repack(source: Path, prefix: str, form: str, target: Path) -> int:
    """Write the files of a zip below `prefix` (the wrapper with its slash, or "") as a packed tar; returns its size, bytes."""
    draft = target.with_name(target.name + ".draft")
    with zipfile.ZipFile(source) as archive:
        members = [m for m in archive.infolist() if not m.is_dir() and m.filename.startswith(prefix)]
        size = sum(m.file_size for m in members)
        members.sort(key=lambda m: _kind(m.filename[len(prefix) :]))
        with (
            _packer(draft, form, size) as packed,
            tarfile.open(fileobj=packed, mode="w|", format=tarfile.PAX_FORMAT) as out,
        ):
            for member in members:
                info = tarfile.TarInfo(member.filename[len(prefix) :])
                info.size, info.mode, info.mtime = member.file_size, 0o644, STAMP_SECONDS
                with archive.open(member) as content:
                    out.addfile(info, content)
    draft.rename(target)
    return target.stat().st_size


def _kind(path: str) -> tuple[str, str, str]:
    """Order: by ending, then by name, then by folder."""
    folder, _, name = path.rpartition("/")
    return name.rpartition(".")[2].lower(), name, folder


@contextmanager
def _packer(target: Path, form: str, size: int) -> Iterator[Any]:
    if form == "tar.gz":
        with target.open("wb") as raw, gzip.GzipFile("", "wb", 9 if size < THOROUGH_BYTES else 6, raw, 0) as packed:
            yield packed
    elif form == "tar.xz":
        # A dictionary is kept whole in memory by whoever unpacks, and ten times of it by whoever packs.
        with lzma.open(target, "wb", preset=6 if size < THOROUGH_BYTES else 3) as packed:
            yield packed
    else:
        level = 19 if size < THOROUGH_BYTES else 9
        with target.open("wb") as raw, zstandard.ZstdCompressor(level).stream_writer(raw) as writer:
            yield writer


def repack_apart(source: Path, prefix: str, form: str, target: Path) -> int:
    """`repack` in a process of its own, politely; returns the size, or 0 when this form is not worth it.

    Raises:
        ArchiveError: it could not be packed.
    """
    if form == "tar.xz" and _unpacked(source) > XZ_BYTES:
        return 0
    command = [sys.executable, "-m", "highshelf.drivers.archive.repack", str(source), prefix, form, str(target)]
    done = subprocess.run(command, capture_output=True, text=True)
    if done.returncode:
        target.with_name(target.name + ".draft").unlink(missing_ok=True)
        raise ArchiveError(f"the release could not be packed as {form}: {done.stderr.strip()[-300:]}")
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
