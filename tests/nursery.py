"""Services that begin without reading their own source anew: each is forked from one process that has done so, and is a process of its own.

Half of what a service costs at its start is importing libraries, and the tests start hundreds of them.
"""

from __future__ import annotations

import multiprocessing
import os
import signal
import subprocess
import sys
from multiprocessing.process import BaseProcess
from pathlib import Path

FORKS = multiprocessing.get_context("forkserver")
FORKS.set_forkserver_preload(["highshelf.__main__", "highshelf.service.running"])


class Child:
    """What `subprocess.Popen` is to the tests: one service."""

    def __init__(self, process: BaseProcess) -> None:
        self._process = process
        process.start()

    @property
    def pid(self) -> int:
        return int(self._process.pid or 0)

    @property
    def returncode(self) -> int | None:
        return self._process.exitcode

    def poll(self) -> int | None:
        return self._process.exitcode

    def wait(self, timeout: float | None = None) -> int:
        """Raises subprocess.TimeoutExpired."""
        self._process.join(timeout)
        if (status := self._process.exitcode) is None:
            raise subprocess.TimeoutExpired("highshelf serve", timeout or 0)
        return status

    def send_signal(self, number: int) -> None:
        if self.poll() is None:
            os.kill(self.pid, number)

    def terminate(self) -> None:
        self.send_signal(signal.SIGTERM)


def begin(words: list[str], environment: dict[str, str], log: Path) -> Child:
    """`highshelf` with these words, whose output goes into the log."""
    return Child(FORKS.Process(target=_run, args=(words, environment, str(log)), name="highshelf"))


def _run(words: list[str], environment: dict[str, str], log: str) -> None:
    os.setsid()
    os.environ.clear()
    os.environ.update(environment)
    written = os.open(log, os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o644)
    for one in (1, 2):
        os.dup2(written, one)
    sys.argv = ["highshelf", *words]
    from highshelf.__main__ import main

    main()
