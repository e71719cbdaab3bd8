"""Whose a practice host is: whoever works with one for a while says so, and nobody else stops or removes it meanwhile.

The word lies beside the host's folder, because that one is removed; the system takes the lock back when its holder ends,
however it ends.
"""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from highshelf.practice.faults import PracticeError
from highshelf.practice.layout import Layout

# Folders that this process holds.
_ours: set[Path] = set()


def _file(layout: Layout) -> Path:
    return layout.folder.with_name(layout.folder.name + ".held")


@contextmanager
def held(layout: Layout, what: str) -> Iterator[None]:
    """Hold a practice host; `what` is what others are told who want it, such as "the demo at http://…".

    Raises:
        PracticeError: somebody else holds it. Nothing of it was touched.
    """
    path = _file(layout)
    path.parent.mkdir(parents=True, exist_ok=True)
    handle = os.open(path, os.O_RDWR | os.O_CREAT, 0o644)
    try:
        _lock(layout, handle)
        os.ftruncate(handle, 0)
        os.pwrite(handle, f"{what}, process {os.getpid()}\n".encode(), 0)
        _ours.add(layout.folder)
        yield
    finally:
        _ours.discard(layout.folder)
        os.close(handle)


def check_free(layout: Layout) -> None:
    """Raises PracticeError when somebody else holds this practice host."""
    path = _file(layout)
    if layout.folder in _ours or not path.exists():
        return
    handle = os.open(path, os.O_RDONLY)
    try:
        _lock(layout, handle)
    finally:
        os.close(handle)


def _lock(layout: Layout, handle: int) -> None:
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        holder = os.pread(handle, 300, 0).decode("utf-8", "replace").strip() or "somebody"
        raise PracticeError(
            f"the practice host in {layout.folder} is in use by {holder}",
            hint="stop that one first, or use another folder and other ports (--port)",
        ) from None
