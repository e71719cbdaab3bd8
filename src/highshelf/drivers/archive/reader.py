"""Read zip and tar archives member by member, never unpacking to disk.

Raises ArchiveError for what is not an archive, is encrypted, or grows out of all proportion.
"""

from __future__ import annotations

import hashlib
import tarfile
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Literal

from highshelf.core.errors import ArchiveError
from highshelf.core.release.contents import Contents, Member, contents_of

BLOCK = 1 << 20
# A release is code and pictures; what unpacks to more is a bomb or not a release.
MAX_UNPACKED_BYTES = 8 << 30
MAX_RATIO = 200
RATIO_COUNTS_FROM_BYTES = 50 << 20


@dataclass(frozen=True)
class Opened:
    """What an archive holds: `format`, its contents, and `peek`, which gives a file's bytes by its stripped path."""

    format: Literal["zip", "tar"]
    contents: Contents
    peek: Callable[[str], bytes]


def open_archive(path: Path, name: str = "") -> Opened:
    """Read and check the whole archive; hashes every file. `name` is what people call it.

    Raises:
        ArchiveError: see the module.
    """
    small: dict[str, bytes] = {}
    name = name or path.name
    try:
        if zipfile.is_zipfile(path):
            format: Literal["zip", "tar"] = "zip"
            members = list(_hashed(_zip_members(path), path, small))
        elif tarfile.is_tarfile(path):
            format = "tar"
            members = list(_hashed(_tar_members(path), path, small))
        else:
            raise ArchiveError(
                f"{name} is not an archive that can be read",
                hint="zip, tar, tar.gz, tar.bz2 and tar.xz can be checked in",
            )
    except (zipfile.BadZipFile, tarfile.TarError, EOFError, zlib.error, OSError) as fault:
        raise ArchiveError(f"{name} is broken: {fault}", hint="bring it again from where it came from") from None
    contents = contents_of(members)
    prefix = contents.wrapper + "/" if contents.wrapper else ""
    return Opened(format, contents, lambda inside: small.get(prefix + inside, b""))


def make_zip(source: Path, target: Path) -> None:
    """The same files as a zip, for hosts that unpack nothing else."""
    draft = target.with_suffix(".draft")
    with zipfile.ZipFile(draft, "w", zipfile.ZIP_DEFLATED) as out:
        for name, link, _, stream in _tar_members(source):
            if not link and stream is not None:
                info = zipfile.ZipInfo(name, (2026, 1, 1, 0, 0, 0))
                info.compress_type = zipfile.ZIP_DEFLATED
                with out.open(info, "w") as member:
                    while block := stream.read(BLOCK):
                        member.write(block)
    draft.rename(target)


RawMember = tuple[str, str, int, IO[bytes] | None]


def _zip_members(path: Path) -> Iterator[RawMember]:
    with zipfile.ZipFile(path) as archive:
        for info in archive.infolist():
            if info.flag_bits & 0x1:
                raise ArchiveError(
                    f"the archive is encrypted ({info.filename})",
                    hint="unpack it yourself and check in the archive inside",
                )
            if info.is_dir():
                continue
            # The high half of external_attr is the Unix mode; 0o120000 is a symbolic link.
            if (info.external_attr >> 16) & 0o170000 == 0o120000:
                yield info.filename, archive.read(info).decode("utf-8", "replace"), info.file_size, None
                continue
            with archive.open(info) as stream:
                yield info.filename, "", info.file_size, stream


def _tar_members(path: Path) -> Iterator[RawMember]:
    with tarfile.open(path) as archive:
        for info in archive:
            name = info.name.removeprefix("./")
            if info.isdir():
                continue
            if not info.isfile():
                kind = info.linkname if info.issym() or info.islnk() else "a device"
                yield name, kind or "?", 0, None
                continue
            yield name, "", info.size, archive.extractfile(info)


def _hashed(members: Iterator[RawMember], path: Path, small: dict[str, bytes]) -> Iterator[Member]:
    total, packed = 0, path.stat().st_size
    for name, link, size, stream in members:
        digest = hashlib.sha256()
        held = bytearray()
        # Sources are kept for reading findings out of them; pictures are not.
        keep = size < 2_000_000 and name.lower().endswith((".php", ".inc", ".json", ".txt", ".md", ".html", "version"))
        count = 0
        while stream is not None and (block := stream.read(BLOCK)):
            digest.update(block)
            count += len(block)
            total += len(block)
            if total > MAX_UNPACKED_BYTES or (total > RATIO_COUNTS_FROM_BYTES and total > packed * MAX_RATIO):
                raise ArchiveError(
                    f"the archive unpacks to more than {total >> 20} MB from {packed >> 10} KB: it looks like a bomb",
                    hint="check in what is really inside",
                )
            if keep:
                held += block
        if keep:
            small[name] = bytes(held)
        yield Member(name, count, digest.hexdigest(), link)
