"""Sizes for people."""

from __future__ import annotations


def size_text(size_bytes: int | float) -> str:
    """Such as `1.4 GB`; powers of ten, as disks are sold."""
    size = float(size_bytes)
    for unit in ("bytes", "kB", "MB", "GB"):
        if size < 1000:
            return f"{size:.0f} {unit}" if unit == "bytes" or size >= 100 else f"{size:.1f} {unit}"
        size /= 1000
    return f"{size:.1f} TB"


def counted(count: int, one: str) -> str:
    """So many of something, for people: 1 table, 2,000 tables."""
    return f"{count:,} {one}{'' if count == 1 else 's'}"
