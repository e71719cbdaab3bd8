"""Private daemons without systemd: started in their own session, known by pid and start time, stopped whole.

Rules:
1. A pid counts as ours only while the kernel's start time for it is the one we wrote down; pids are reused.
2. Stopping takes the descendants too, collected before the first signal: sshd's and Apache's children outlive a killed parent.
3. A daemon that was killed may have left children in its session: they are known by the mark in their environment.
4. Nothing else is ever signalled.
"""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

from highshelf.practice.faults import PracticeError


@dataclass(frozen=True)
class Daemon:
    """A server to run: its name, its command, and what must hold before others may rely on it."""

    name: str
    command: list[str]
    ready: Callable[[], bool]
    environment: dict[str, str] | None = None


@dataclass(frozen=True)
class Running:
    """A started daemon as written to the state file. `started` is clock ticks since boot (proc(5), field 22)."""

    name: str
    pid: int
    started: int


def start_time(pid: int) -> int | None:
    """The process's start time in clock ticks, or None when there is none or it is a zombie."""
    try:
        stat = Path(f"/proc/{pid}/stat").read_text()
    except OSError:
        return None
    fields = stat.rpartition(")")[2].split()
    return None if fields[0] == "Z" else int(fields[19])


def alive(running: Running) -> bool:
    return start_time(running.pid) == running.started


MARK = "HIGHSHELF_PRACTICE"


def launch(daemon: Daemon, log: Path) -> Running:
    """Start the daemon detached, its output going to `log`; the folder of `log` marks it and its children as ours."""
    environment = {"PATH": "/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin", "LANG": "C.UTF-8"}
    environment.update(daemon.environment or {})
    environment[MARK] = str(log.parent)
    with log.open("ab") as out:
        process = subprocess.Popen(
            daemon.command,
            stdin=subprocess.DEVNULL,
            stdout=out,
            stderr=out,
            start_new_session=True,
            env=environment,
            cwd="/",
        )
    return Running(daemon.name, process.pid, start_time(process.pid) or 0)


def await_ready(daemon: Daemon, running: Running, log: Path, timeout_seconds: float = 30) -> None:
    """Return when the daemon answers.

    Raises:
        PracticeError: it ended, or did not answer in time; the end of its log is quoted.
    """
    deadline = time.monotonic() + timeout_seconds
    while time.monotonic() < deadline:
        if not alive(running):
            raise PracticeError(f"{daemon.name} stopped right after its start", hint=_tail(log))
        if daemon.ready():
            return
        time.sleep(0.02)
    raise PracticeError(f"{daemon.name} did not answer within {timeout_seconds:.0f} s", hint=_tail(log))


def stop_all(daemons: Iterable[Running], logs: Path, patience_seconds: float = 8) -> list[int]:
    """Stop the daemons and all their descendants; returns the pids that had to be killed."""
    # The newest first, so that nothing loses its database before it ends.
    recorded = list(daemons)
    roots = [d for d in recorded if alive(d)][::-1]
    family = _with_descendants([*(r.pid for r in roots), *_orphans({d.pid for d in recorded}, logs)])
    for root in roots:
        _signal(root.pid, signal.SIGTERM)
    for pid in family if not roots else ():
        _signal(pid, signal.SIGTERM)
    if _await_end(family, patience_seconds):
        return []
    for sig, patience in ((signal.SIGTERM, 2.0), (signal.SIGKILL, 3.0)):
        for pid, started in family.items():
            if start_time(pid) == started:
                _signal(pid, sig)
        if _await_end(family, patience):
            break
    return list(family)


def end_processes_of(user_id: int) -> None:
    """End what a customer's login still runs: shells that outlived their connection."""
    for entry in Path("/proc").iterdir():
        with contextlib.suppress(OSError):
            if entry.name.isdigit() and entry.stat().st_uid == user_id:
                _signal(int(entry.name), signal.SIGKILL)


def _signal(pid: int, number: signal.Signals) -> None:
    with contextlib.suppress(ProcessLookupError):
        os.kill(pid, number)
    with contextlib.suppress(ChildProcessError):
        os.waitpid(pid, os.WNOHANG)


def _await_end(family: dict[int, int], patience_seconds: float) -> bool:
    deadline = time.monotonic() + patience_seconds
    while time.monotonic() < deadline:
        for pid in family:
            with contextlib.suppress(ChildProcessError):
                os.waitpid(pid, os.WNOHANG)
        if not any(start_time(pid) == started for pid, started in family.items()):
            return True
        time.sleep(0.02)
    return False


def _orphans(sessions: set[int], logs: Path) -> list[int]:
    """Processes of the recorded daemons' sessions that carry our mark, whatever became of their leader."""
    mark = f"{MARK}={logs}".encode()
    found = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            with contextlib.suppress(OSError, ValueError, IndexError):
                session = int((entry / "stat").read_text().rpartition(")")[2].split()[3])
                if session in sessions and mark in (entry / "environ").read_bytes().split(b"\0"):
                    found.append(int(entry.name))
    return found


def _with_descendants(roots: list[int]) -> dict[int, int]:
    children: dict[int, list[int]] = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            with contextlib.suppress(OSError):
                parent = int((entry / "stat").read_text().rpartition(")")[2].split()[1])
                children.setdefault(parent, []).append(int(entry.name))
    family: dict[int, int] = {}
    queue = list(roots)
    while queue:
        pid = queue.pop()
        started = start_time(pid)
        if pid not in family and started is not None:
            family[pid] = started
            queue += children.get(pid, [])
    return family


def _tail(log: Path) -> str:
    try:
        return "the end of its log: " + log.read_text(errors="replace")[-600:].strip()
    except OSError:
        return f"it wrote no log at {log}"
