"""What lies on the disk: private from the first byte, there after a power cut, and what happens when there is no room.

Rules:
1. A file that comes is complete or not there: a draft, its bytes settled, the name, the folder's entry settled.
2. Below `RESERVE_BYTES` of free room nothing new is begun, so that what is under way can still be written down.
3. A ballast file holds room against everybody else on the disk; it is let go when the service must start on a full one.
"""

from __future__ import annotations

import contextlib
import os
import time
from collections.abc import Callable
from pathlib import Path

from highshelf.core.errors import NoRoomError

RESERVE_BYTES = 32 << 20
BALLAST_BYTES = 16 << 20
# The disk is asked at most so often.
LOOK_SECONDS = 1.0


def private(path: Path) -> None:
    """Make an empty file that only its owner may read, or make one that is there so.

    A file that is there is never opened: closing a database's file takes away the locks that SQLite has on it in this very
    process (sqlite.org/howtocorrupt.html, 2.2).
    """
    if path.exists():
        path.chmod(0o600)
    else:
        os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))


def settle(path: Path) -> None:
    """Wait until the disk has a file's content, or a folder's entries."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def write_private(path: Path, content: str | bytes) -> None:
    """A small file, complete or not there, readable by its owner alone."""
    draft = path.with_name(f".{path.name}.{os.getpid()}.draft")
    handle = os.open(draft, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content.encode() if isinstance(content, str) else content)
            file.flush()
            os.fsync(file.fileno())
        draft.replace(path)
    except BaseException:
        draft.unlink(missing_ok=True)
        raise
    settle(path.parent)


class Disk:
    """The room on the data folder's disk."""

    def __init__(self, folder: Path, clock: Callable[[], float] = time.monotonic) -> None:
        self._folder, self._clock = folder, clock
        # Called when the ballast's room has become free: what has to grow on a full disk does so now, or finds no room later.
        self.on_full: Callable[[], None] = lambda: None
        self._ballast = folder / "ballast"
        self._looked_at, self._full = -LOOK_SECONDS, False

    def free_bytes(self) -> int:
        found = os.statvfs(self._folder)
        return found.f_bavail * found.f_frsize

    @property
    def full(self) -> bool:
        """Whether nothing new may be begun. The ballast is let go with it, and comes back with the room."""
        if self._clock() - self._looked_at >= LOOK_SECONDS:
            self.look()
        return self._full

    def look(self) -> None:
        """Ask the disk now. Somebody does so now and then: what is under way must not wait for the ballast's room."""
        self._looked_at = self._clock()
        self._full = self.free_bytes() < RESERVE_BYTES
        if self._full:
            self.release()
        elif not self._ballast.exists() and self.free_bytes() > RESERVE_BYTES + 2 * BALLAST_BYTES:
            self._load()

    def wait(self, told: Callable[[], None] = lambda: None) -> None:
        """Until there is room; `told` is called now and then, and may raise."""
        self.look()
        while self._full:
            told()
            time.sleep(LOOK_SECONDS)
            self.look()

    def check(self) -> None:
        """Raises NoRoomError."""
        if self.full:
            raise NoRoomError(
                f"the disk of the data folder is full ({self.free_bytes() >> 20} MB left): everything can be read, nothing changed",
                hint=f"make room for {RESERVE_BYTES >> 20} MB: jobs that wait go on by themselves then",
            )

    def release(self) -> None:
        """Give the ballast's room to whoever needs it now."""
        if self._ballast.exists():
            self._ballast.unlink(missing_ok=True)
            self.on_full()

    def _load(self) -> None:
        draft = self._ballast.with_suffix(".draft")
        try:
            with draft.open("wb") as file:
                os.posix_fallocate(file.fileno(), 0, BALLAST_BYTES)
            draft.replace(self._ballast)
        except OSError:
            with contextlib.suppress(OSError):
                draft.unlink()
