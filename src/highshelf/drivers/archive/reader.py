"""Read an archive of any format once, from front to end: every file hashed, what speaks for itself read on the way.

Nothing is unpacked to disk. Memory is a block, a dictionary, the list of names and the file that is being read.
Raises ArchiveError for what is not an archive, is broken, encrypted, not safe, or grows out of all proportion.
"""

from __future__ import annotations

import hashlib
import time
import zipfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO

from highshelf.core.errors import ArchiveError
from highshelf.core.release import reading
from highshelf.core.release.clues import MAX_READ_BYTES, Clue, is_text_for_people, wants
from highshelf.core.release.contents import Contents, Laid, Member, Places
from highshelf.core.release.laying import lay_out
from highshelf.core.release.safety import danger, printable
from highshelf.drivers.archive import codecs
from highshelf.drivers.archive.members import BLOCK, MAX_MEMBERS, RawMember, Reader, Stream
from highshelf.drivers.archive.tar import SIZE, TarReader, looks_like_tar
from highshelf.drivers.archive.zip import ZipReader, looks_like_zip

# A release is code and pictures; what unpacks to more is a bomb or not a release.
MAX_UNPACKED_BYTES = 16 << 30
MAX_RATIO = 200
RATIO_COUNTS_FROM_BYTES = 50 << 20
MAX_TEXT_BYTES = 400_000
MAX_TEXTS = 60
# Sources made to be slow to read are hashed like all others, and read no further than this takes.
MAX_READING_SECONDS = 90.0
SEVENZIP = b"7z\xbc\xaf\x27\x1c"
FORMATS = "zip, tar, tar.gz, tar.bz2, tar.xz, tar.zst and 7z can be checked in"
Told = Callable[[int, int], None]


@dataclass
class Opened:
    """A reader, and how the archive is packed, for people; `ships` when every host unpacks it just so."""

    reader: Reader
    packed: str
    ships: bool
    source: IO[bytes] | None = None

    def close(self) -> None:
        if self.source is not None:
            self.source.close()


@dataclass(frozen=True)
class Read:
    """What one archive holds.

    Attributes:
        format: `zip` or `tar` when hosts can unpack the archive as it is, else `payload` (they get a zip of ours).
        texts: readmes and the like by their path below the wrapper.
        notes: what was odd, with the member's name.
    """

    format: str
    packed: str
    laid: Laid
    clues: list[Clue]
    texts: dict[str, bytes] = field(default_factory=dict)
    notes: tuple[str, ...] = ()

    @property
    def contents(self) -> Contents:
        return self.laid.contents


def open_any(path: Path, name: str = "") -> Opened:
    """Find out what an archive is by its first bytes. Close it with `close()`.

    Raises:
        ArchiveError: it is nothing that is read here.
    """
    name = name or path.name
    with path.open("rb") as source:
        head = source.read(SIZE)
    if not head:
        raise ArchiveError(f"{name} is empty", hint="check in the release's archive")
    if head.startswith(SEVENZIP):
        # Loaded for those that need it, as `codecs.zstandard` is.
        from highshelf.drivers.archive.sevenzip import SevenZipReader

        return Opened(SevenZipReader(path), "7z", False)
    unpacked, packed, ships = _unpacked(head)
    if unpacked is not None:
        file = path.open("rb")
        inner = _Rewound(unpacked(file))
        if not looks_like_tar(inner.head):
            file.close()
            raise ArchiveError(f"{name} is packed ({packed}), but there is no tar inside", hint=FORMATS)
        return Opened(TarReader(inner), f"tar.{packed}", ships, file)
    if looks_like_tar(head):
        file = path.open("rb")
        return Opened(TarReader(file), "tar", True, file)
    if looks_like_zip(path):
        return Opened(ZipReader(path), "zip", True)
    shown = head[:400].decode("utf-8", "replace").lower()
    hint = FORMATS
    if "<html" in shown or "<!doctype" in shown:
        hint = f"it is a web page: the address may want a sign-in first, or is not the download's own; {FORMATS}"
    raise ArchiveError(f"{name} is not an archive that can be read", hint=hint)


def _unpacked(head: bytes) -> tuple[Callable[[IO[bytes]], Stream] | None, str, bool]:
    if head.startswith(b"\x1f\x8b"):
        return lambda f: codecs.Inflated(f, 31), "gz", True
    if head.startswith(b"BZh"):
        return codecs.bzip2, "bz2", True
    if head.startswith(b"\xfd7zXZ\0"):
        return codecs.xz, "xz", True
    if head.startswith(b"\x28\xb5\x2f\xfd") or head[1:4] == b"\x2a\x4d\x18":
        return codecs.zstandard, "zst", False
    return None, "", False


class _Rewound:
    """A stream whose first block was looked at and is read again."""

    def __init__(self, stream: Stream) -> None:
        self._stream = stream
        held = bytearray()
        while len(held) < SIZE and (block := stream.read(SIZE - len(held))):
            held += block
        self.head = bytes(held)
        self._ahead = self.head

    def read(self, size: int = -1, /) -> bytes:
        if self._ahead:
            wanted = len(self._ahead) if size < 0 else size
            block, self._ahead = self._ahead[:wanted], self._ahead[wanted:]
            return block
        return self._stream.read(size)


def read_archive(path: Path, name: str = "", words: frozenset[str] = frozenset(), told: Told | None = None) -> Read:
    """Read and check the whole archive.

    Args:
        words: what the administrator accepts (`core.release.safety.WORDS`).
        told: called with (files, bytes unpacked) now and then.
    """
    opened = open_any(path, name)
    clues: list[Clue] = []
    texts: dict[str, bytes] = {}
    notes: list[str] = []
    members: list[Member] = []
    guard = Guard(path.stat().st_size)
    try:
        for raw in opened.reader.members():
            if raw.kind == "folder":
                guard.count()
                _check_folder(raw.name)
                continue
            members.append(_take(raw, guard, clues, texts))
            if raw.noted:
                notes.append(f"{printable(raw.name)}: {raw.noted}")
            if told is not None:
                told(guard.members, guard.unpacked)
    except (OSError, RecursionError, MemoryError, OverflowError) as fault:
        raise ArchiveError(
            f"{name or path.name} is broken: {type(fault).__name__} {fault}".strip(),
            hint="bring it again from where it came from",
        ) from None
    finally:
        opened.close()
    if guard.reading_seconds >= MAX_READING_SECONDS:
        notes.append(f"its sources were read for {MAX_READING_SECONDS:.0f} s and no further: findings may be missing")
    laid = lay_out(members, words)
    del members
    plain = opened.ships and not laid.altered and not notes and opened.reader.plain
    prefix = laid.contents.wrapper + "/" if laid.contents.wrapper else ""
    return Read(
        format=opened.reader.format if plain else "payload",
        packed=opened.packed,
        laid=laid,
        clues=clues,
        texts={p[len(prefix) :]: t for p, t in texts.items() if p.startswith(prefix)},
        notes=(*notes[:50], *(f"{printable(p)}: {why} (accepted)" for p, why in laid.told[:50])),
    )


class Guard:
    """Counts what comes out against what may.

    Args:
        packed: the archive's own size, bytes.
    """

    def __init__(self, packed: int) -> None:
        self._packed = packed
        self.members = self.unpacked = 0
        self.reading_seconds = 0.0

    def count(self) -> None:
        self.members += 1
        if self.members > MAX_MEMBERS:
            raise ArchiveError(
                f"the archive holds more than {MAX_MEMBERS:,} entries", hint="check in what is really inside"
            )

    def add(self, count: int) -> None:
        self.unpacked += count
        total = self.unpacked
        if total > MAX_UNPACKED_BYTES or (total > RATIO_COUNTS_FROM_BYTES and total > self._packed * MAX_RATIO):
            raise ArchiveError(
                f"the archive unpacks to more than {total >> 20} MB from {self._packed >> 10} KB: it looks like a bomb",
                hint="check in what is really inside",
            )


def _check_folder(name: str) -> None:
    bare = name.rstrip("/")
    if bare and bare != "." and (found := danger(bare)) and not found.word:
        raise ArchiveError(
            f"the archive is not safe to unpack: {printable(name)[:200]}: {found.why}",
            hint="get the release from its maker again, or mend the archive by hand",
        )


def _take(raw: RawMember, guard: Guard, clues: list[Clue], texts: dict[str, bytes]) -> Member:
    guard.count()
    if raw.kind == "device":
        raise ArchiveError(
            f"the archive is not safe to unpack: {printable(raw.name)[:200]}: a device or a pipe",
            hint="get the release from its maker again, or mend the archive by hand",
        )
    if raw.kind in ("symlink", "hardlink"):
        return Member(raw.name, 0, "", raw.link or "?", raw.kind == "hardlink")
    digest, size, held = hashlib.sha256(), 0, bytearray()
    keep = wants(raw.name, raw.size_bytes)
    assert raw.stream is not None
    while block := raw.stream.read(BLOCK):
        digest.update(block)
        size += len(block)
        guard.add(len(block))
        if keep and len(held) < MAX_READ_BYTES:
            held += block[: MAX_READ_BYTES - len(held)]
    if keep:
        data = bytes(held)
        if guard.reading_seconds < MAX_READING_SECONDS:
            begun = time.monotonic()
            clues += reading.read_file(raw.name, data)
            guard.reading_seconds += time.monotonic() - begun
        if is_text_for_people(raw.name) and raw.name.count("/") <= 2 and len(texts) < MAX_TEXTS:
            texts[raw.name] = data[:MAX_TEXT_BYTES]
    return Member(raw.name, size, digest.hexdigest())


def make_payload(parts: Sequence[tuple[Path, Places]], target: Path) -> None:
    """One zip that every host unpacks: each archive's members at the paths where they belong.

    Args:
        parts: archive, and where its members go in the zip.
    """
    draft = target.with_suffix(".draft")
    with zipfile.ZipFile(draft, "w", zipfile.ZIP_DEFLATED, strict_timestamps=False) as out:
        for archive, places in parts:
            opened = open_any(archive)
            try:
                _pour(opened.reader.members(), places, out)
            finally:
                opened.close()
    draft.rename(target)


def _pour(members: Iterator[RawMember], places: Places, out: zipfile.ZipFile) -> None:
    number = -1
    for raw in members:
        if raw.kind == "folder":
            continue
        number += 1
        paths = places[number] if number < len(places) else ()
        if not paths or raw.stream is None:
            continue
        # A file in several places (a link's copies) is packed once for each: streams are read once, so it is held.
        with out.open(_info(paths[0]), "w", force_zip64=raw.size_bytes > 1 << 31) as first:
            held = bytearray()
            while block := raw.stream.read(BLOCK):
                first.write(block)
                if len(paths) > 1:
                    held += block
        for path in paths[1:]:
            out.writestr(_info(path), bytes(held))


def _info(path: str) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(path, (2026, 1, 1, 0, 0, 0))
    info.compress_type = zipfile.ZIP_DEFLATED
    info.create_system = 3
    info.external_attr = 0o100644 << 16
    return info
