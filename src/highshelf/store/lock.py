"""One process a data folder: the lock is taken before anything in it is written, and goes with the process."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path
from types import TracebackType

from highshelf.core.errors import InUseError

NAME = "lock"


class FolderLock:
    """Use as a context manager, or take it and let it go.

    Raises:
        InUseError: another process has the folder; it is named by what it wrote into the lock.
    """

    def __init__(self, folder: Path) -> None:
        self._path = folder / NAME
        self._handle: int | None = None

    def take(self) -> FolderLock:
        if self._handle is not None:
            return self
        self._path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        handle = os.open(self._path, os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            holder = os.read(handle, 200).decode("utf-8", "replace").strip()
            os.close(handle)
            raise InUseError(
                f"another process works on {self._path.parent} ({holder or 'it does not say which'})",
                hint="stop that one first, or give this one a data folder of its own (--data)",
            ) from None
        self._handle = handle
        self.say(f"process {os.getpid()}")
        return self

    def say(self, text: str) -> None:
        """What others are told who find the folder taken."""
        if self._handle is not None:
            os.ftruncate(self._handle, 0)
            os.pwrite(self._handle, text.encode() + b"\n", 0)

    def let_go(self) -> None:
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None

    def __enter__(self) -> FolderLock:
        return self.take()

    def __exit__(
        self, kind: type[BaseException] | None, fault: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.let_go()
