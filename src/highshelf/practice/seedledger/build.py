"""Build Seedledger's release archive: a `.tar.xz` without a wrapper, its web folder below the root."""

from __future__ import annotations

from pathlib import Path

from highshelf.practice.packing import source_files, write_tar

VERSION = "5.0.1"
SOURCE = Path(__file__).parent / "source"


def build_archive(target: Path) -> Path:
    """Write the archive into the folder `target`; returns its path. The bytes are the same each time."""
    path = target / f"seedledger-{VERSION}.tar.xz"
    return write_tar(path, source_files(SOURCE), "", "xz", executables=("bin/ledger",))
