"""Check-in: seconds and memory for archives of 1, 20, 200 and 2,000 MB, beside `unzip -t` or `tar -t` of the same archive.

    .venv/bin/python bench/check_in.py [--sizes 1,20,200,2000] [--formats zip,tar.gz,tar.xz,tar.zst,7z] [--runs 3]

The corpus is made: PHP sources, texts and incompressible pictures, about a third each, 33 KB a
file on average (2,000 MB are 60,000 files). Memory is what the reader's process and the service's own held at the most, looked at every 20 ms; the
service is a real one, reached over loopback.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))
from tests.support import Service

FILE_BYTES = 33_000
TESTS = {
    "zip": ["unzip", "-tqq"],
    "tar.gz": ["tar", "-tzf"],
    "tar.bz2": ["tar", "-tjf"],
    "tar.xz": ["tar", "-tJf"],
    "tar.zst": ["tar", "--zstd", "-tf"],
    "7z": ["7zz", "t", "-bso0", "-bsp0"],
}


def make_tree(folder: Path, megabytes: int) -> int:
    """Files of so many bytes in all; the same for the same size. Returns how many."""
    dice = random.Random(megabytes)
    words = ["tide", "berth", "ferry", "heron", "kelp", "version", "array", "return", "function", "$table", "'name'"]
    count = max(megabytes * 1_000_000 // FILE_BYTES, 20)
    for number in range(count):
        path = folder / f"corpus-1.0/part{number % 97:02d}/section{number // 97 % 40}/file{number}"
        path.parent.mkdir(parents=True, exist_ok=True)
        size = int(FILE_BYTES * dice.uniform(0.2, 1.8))
        if number % 3 == 0:
            text = " ".join(dice.choices(words, k=size // 7))
            path.with_suffix(".php").write_text(f"<?php\n$version = '{number}'; // {text}\n")
        elif number % 3 == 1:
            path.with_suffix(".txt").write_text(" ".join(dice.choices(words, k=size // 7)))
        else:
            path.with_suffix(".jpg").write_bytes(dice.randbytes(size))
    return count


def pack(tree: Path, target: Path, form: str) -> None:
    commands = {
        "zip": ["7zz", "a", "-bso0", "-bsp0", "-tzip", "-mx=5", str(target), "corpus-1.0"],
        "7z": ["7zz", "a", "-bso0", "-bsp0", "-t7z", "-mx=3", str(target), "corpus-1.0"],
        "tar.gz": ["tar", "-czf", str(target), "corpus-1.0"],
        "tar.bz2": ["tar", "-cjf", str(target), "corpus-1.0"],
        "tar.xz": ["tar", "-I", "xz -1 -T0", "-cf", str(target), "corpus-1.0"],
        "tar.zst": ["tar", "-I", "zstd -3 -T0", "-cf", str(target), "corpus-1.0"],
    }
    subprocess.run(commands[form], cwd=tree, check=True)


def status_bytes(pid: int, name: str) -> int:
    """A figure of /proc/PID/status (proc(5)), 0 when the process is gone."""
    try:
        lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    except OSError:
        return 0
    return next((int(line.split()[1]) * 1024 for line in lines if line.startswith(name + ":")), 0)


def children(pid: int) -> list[int]:
    """Processes that any thread of this one started (proc(5), task/TID/children)."""
    found: list[int] = []
    for task in Path(f"/proc/{pid}/task").glob("*/children"):
        with contextlib.suppress(OSError):
            found += [int(child) for child in task.read_text().split()]
    return found


class Watch:
    """The most that the service's process and its readers held, looked at every 20 ms."""

    def __init__(self, pid: int) -> None:
        self._pid, self._stop = pid, threading.Event()
        self.service = self.reader = self.sum = 0
        # Whoever fails in between leaves nothing behind that goes on looking.
        self._thread = threading.Thread(target=self._look, daemon=True)
        self._thread.start()

    def _look(self) -> None:
        while not self._stop.wait(0.02):
            own = status_bytes(self._pid, "VmRSS")
            readers = sum(status_bytes(child, "VmRSS") for child in children(self._pid))
            self.service, self.reader = max(self.service, own), max(self.reader, readers)
            self.sum = max(self.sum, own + readers)

    def stop(self) -> None:
        self._stop.set()
        self._thread.join()


def measure(archive: Path, form: str, work: Path) -> tuple[float, float, int, int, int]:
    """(check-in seconds, the tool's seconds, growth of the service, most of the reader, growth of both), bytes."""
    begun = time.monotonic()
    subprocess.run([*TESTS[form], str(archive)], check=True, stdout=subprocess.DEVNULL)
    tool = time.monotonic() - begun
    service = Service(work / "data")
    service.start()
    try:
        assert service.process is not None
        idle = status_bytes(service.process.pid, "VmRSS")
        watch = Watch(service.process.pid)
        begun = time.monotonic()
        service.client.release_check_in(archive)
        seconds = time.monotonic() - begun
        watch.stop()
        return seconds, tool, watch.service - idle, watch.reader, watch.sum - idle
    finally:
        service.stop()
        shutil.rmtree(work / "data", ignore_errors=True)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--sizes", default="1,20,200,2000")
    parser.add_argument("--formats", default="zip,tar.gz,tar.xz,tar.zst,7z")
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--smallest", action="store_true", help="the smallest size, to see that this works")
    asked = parser.parse_args()
    if asked.smallest:
        asked.sizes, asked.formats, asked.runs = "1", "zip", 1
    print("  MB format    files  packed MB  check-in s   tool s  ratio  service +MB  reader MB  both +MB")
    for megabytes in (int(s) for s in asked.sizes.split(",")):
        work = Path(tempfile.mkdtemp(prefix="check-in-", dir=os.environ.get("TMPDIR")))
        try:
            count = make_tree(work, megabytes)
            for form in asked.formats.split(","):
                archive = work / f"corpus-1.0.{form}"
                pack(work, archive, form)
                runs = [measure(archive, form, work) for _ in range(asked.runs)]
                seconds, tool = (statistics.median(r[i] for r in runs) for i in (0, 1))
                own, reader, both = (max(r[i] for r in runs) / 1e6 for i in (2, 3, 4))
                packed = archive.stat().st_size / 1e6
                print(
                    f"{megabytes:>4} {form:<8} {count:>6}  {packed:>9.1f}  {seconds:>10.2f}  {tool:>7.2f}  {seconds / tool:>5.1f}"
                    f"  {own:>11.1f}  {reader:>9.1f}  {both:>8.1f}",
                    flush=True,
                )
                archive.unlink()
        finally:
            shutil.rmtree(work, ignore_errors=True)


if __name__ == "__main__":
    main()
