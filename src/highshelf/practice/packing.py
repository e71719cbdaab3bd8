"""How the demo applications' releases are packed: the same bytes at every build."""

from __future__ import annotations

import io
import tarfile
import zipfile
from collections.abc import Mapping
from pathlib import Path
from typing import Literal

# Members carry a time; a fixed one makes the same bytes at every build.
STAMP = (2026, 3, 1, 9, 0, 0)
STAMP_SECONDS = 1_772_355_600
Packing = Literal["gz", "xz", "bz2"]


def source_files(folder: Path) -> dict[str, bytes]:
    """Path below the folder -> bytes."""
    return {
        str(path.relative_to(folder)): path.read_bytes()
        for path in folder.rglob("*")
        if path.is_file() and "__pycache__" not in path.parts
    }


def write_zip(path: Path, files: Mapping[str, bytes], wrapper: str) -> Path:
    """Write a zip with everything in the folder `wrapper`, or in none when it is "". Returns the path."""
    path.parent.mkdir(parents=True, exist_ok=True)
    prefix = f"{wrapper}/" if wrapper else ""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in sorted(files.items()):
            member = zipfile.ZipInfo(prefix + name, STAMP)
            member.compress_type = zipfile.ZIP_DEFLATED
            member.external_attr = 0o100644 << 16
            archive.writestr(member, content)
    return path


def write_tar(
    path: Path, files: Mapping[str, bytes], wrapper: str, packing: Packing, executables: tuple[str, ...] = ()
) -> Path:
    """Write a packed tar likewise; `executables` get mode 755."""
    path.parent.mkdir(parents=True, exist_ok=True)
    prefix = f"{wrapper}/" if wrapper else ""
    raw = io.BytesIO()
    with tarfile.open(fileobj=raw, mode="w", format=tarfile.USTAR_FORMAT) as archive:
        for name, content in sorted(files.items()):
            member = tarfile.TarInfo(prefix + name)
            member.size, member.mtime = len(content), STAMP_SECONDS
            member.mode = 0o755 if name in executables else 0o644
            archive.addfile(member, io.BytesIO(content))
    path.write_bytes(_packed(raw.getvalue(), packing))
    return path


def _packed(raw: bytes, packing: Packing) -> bytes:
    import bz2
    import gzip
    import lzma

    if packing == "gz":
        return gzip.compress(raw, 9, mtime=0)
    return lzma.compress(raw) if packing == "xz" else bz2.compress(raw)
