"""Ctrl-C while something is followed: it ends at once, whatever the program is at, and what is said is always said.

An exception would do in most moments. In some it gets lost (Python drops what is raised in a destructor or in a callback
of the garbage collector), and the command would go on as if nobody had asked.
"""

from __future__ import annotations

import contextlib
import os
import signal
import sys
from collections.abc import Iterator
from types import FrameType


@contextlib.contextmanager
def leaves_with(code: int, words: str = "") -> Iterator[None]:
    """Inside, Ctrl-C writes these words to standard error and ends the program with this exit code."""

    def leave(_number: int, _frame: FrameType | None) -> None:
        # Whoever is interrupted may be writing at this very moment: then its own buffer cannot be asked for.
        with contextlib.suppress(RuntimeError, OSError, ValueError):
            sys.stdout.flush()
        with contextlib.suppress(OSError):
            os.write(2, words.encode())
        os._exit(code)

    before = signal.signal(signal.SIGINT, leave)
    try:
        yield
    finally:
        signal.signal(signal.SIGINT, before)
