"""The releases that placing is measured with: the same bytes each time, no more of them than the tests fetch anyway.

`corpus` is 1,803 files of 39 MB out of releases that the tests use (tests/releases), with Tidebook's own files around them, so
that the job is a real one. `big` is 30,000 files of 1 GB, made of the same sources over and over, each file a little different.
"""

from __future__ import annotations

import hashlib
import random
import tarfile
import zipfile
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from tests.releases.third_party import archive

from highshelf.practice.packing import write_zip
from highshelf.practice.tidebook.build import contents

PACKAGES = ("shaarli", "ocsinventory-reports", "tt-rss", "zabbix-frontend-php", "postfixadmin")
FILES = 1_803
# Chosen so that sizes are spread and pack as a release of its kind does: 39.3 MB, 10.4 MB as a zip.
LEAST_BYTES, MOST_BYTES, MOST_PACKED_BYTES = 2_800, 4_000_000, 100_000
PACKED = ("png", "jpg", "gif", "woff", "woff2", "ttf", "eot", "gz", "zip", "phar", "mo")
BIG_FILES, BIG_BYTES = 30_000, 1_000_000_000

Source = tuple[str, int, Callable[[], bytes]]
"""A file's path, its size in bytes, and what reads it."""


def _sources() -> Iterator[Source]:
    for package in PACKAGES:
        path = archive(package)
        if path.suffix == ".zip":
            packed = zipfile.ZipFile(path)
            for entry in packed.infolist():
                if not entry.is_dir():
                    yield f"{package}/{entry.filename}", entry.file_size, partial(packed.read, entry)
        else:
            # Read later, as long as somebody holds what reads it.
            tar = tarfile.open(path)  # noqa: SIM115
            for member in tar.getmembers():
                if member.isfile():
                    yield f"{package}/{member.name}", member.size, partial(_read, tar, member)


def _read(tar: tarfile.TarFile, member: tarfile.TarInfo) -> bytes:
    content = tar.extractfile(member)
    assert content is not None
    return content.read()


def _fits(path: str, size: int) -> bool:
    most = MOST_PACKED_BYTES if path.rpartition(".")[2].lower() in PACKED else MOST_BYTES
    return LEAST_BYTES <= size <= most


def corpus(target: Path) -> Path:
    """A zip of 1,803 files, written into the folder; needs no network when the tests' releases were made before."""
    files = dict(contents())
    found = [s for s in _sources() if _fits(s[0], s[1])]
    chosen = sorted(found, key=lambda s: hashlib.sha256(s[0].encode()).digest())[: FILES - len(files)]
    names = {s[0] for s in chosen}
    # In the archives' own order: a packed tar begins anew for every step back.
    files |= {f"library/{path}": read() for path, _, read in found if path in names}
    return write_zip(target / "tidebook-1.4.2.zip", files, "tidebook-1.4.2")


def big(target: Path) -> Path:
    """A zip of 30,000 files and 1 GB, written into the folder; a minute's work."""
    dice, sources = random.Random(1), [read() for path, size, read in _sources() if _fits(path, size)]
    path = target / "tidebook-1.4.2.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as out:
        for name, content in contents().items():
            out.writestr(f"tidebook-1.4.2/{name}", content)
        left = BIG_BYTES
        for number in range(BIG_FILES - len(contents())):
            want = left // (BIG_FILES - len(contents()) - number)
            content = (b"/* %d */\n" % number) + dice.choice(sources)[: dice.randint(want // 2, want * 3 // 2)]
            content = content.ljust(want, b"\n") if len(content) < want // 2 else content
            out.writestr(f"tidebook-1.4.2/library/{number // 100:03d}/part-{number}.php", content)
            left -= len(content)
    return path
