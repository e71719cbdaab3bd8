"""Build Quaystore's release archive: a zip whose wrapper has an odd name."""

from __future__ import annotations

from pathlib import Path

from highshelf.practice.packing import source_files, write_zip

VERSION = "3.2.0"
SOURCE = Path(__file__).parent / "source"


def build_archive(target: Path) -> Path:
    """Write the zip into the folder `target`; returns its path. The bytes are the same each time."""
    return write_zip(target / f"quaystore-{VERSION}.zip", source_files(SOURCE), f"Quaystore_{VERSION}+full")
