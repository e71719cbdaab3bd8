"""Seconds of the Tidebook install per leg on loopback, the application's own share, and the service's peak memory.

    .venv/bin/python bench/install.py [--runs 3]

Run as root: it starts a practice host of its own (and removes it) and one service process for each customer.
"""

from __future__ import annotations

import argparse
import re
import sys
import tempfile
import time
from collections import defaultdict
from pathlib import Path
from statistics import median

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.support import Hosting, Service

from highshelf.practice import host
from highshelf.practice.layout import Layout
from highshelf.practice.tidebook.build import build_archive
from highshelf.schemas.models import JobOut

LEGS = ("survey", "place", "database", "configure", "walk", "tidy", "prove")
TIMED = re.compile(r'" \d+ \S+ (\d+)$')


def application_seconds(hosting: Hosting, key: str, start: int) -> tuple[float, int]:
    """What Apache's own log says was spent answering (its %D, microseconds), and where the log ends now."""
    log = hosting.layout.logs / f"access-{key}.log"
    text = log.read_text() if log.exists() else ""
    return sum(int(m[1]) for line in text[start:].splitlines() if (m := TIMED.search(line))) / 1e6, len(text)


def spans(job: JobOut) -> dict[str, float]:
    """Seconds from each leg's first act's start to its last act's end."""
    by_leg = defaultdict(list)
    for act in job.acts:
        if act.finished_at is not None:
            by_leg[act.leg] += [act.started_at, act.finished_at]
    return {leg: (max(times) - min(times)).total_seconds() for leg, times in by_leg.items()}


def peak_megabytes(service: Service) -> float:
    assert service.process is not None
    status = Path(f"/proc/{service.process.pid}/status").read_text()
    found = re.search(r"VmHWM:\s+(\d+) kB", status)
    assert found is not None
    return int(found[1]) / 1024


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--smallest", action="store_true", help="the smallest size, to see that this works")
    options = parser.parse_args()
    runs = 1 if options.smallest else options.runs
    layout = Layout(Path("/var/lib/highshelf-bench"), 28400)
    host.stop(layout, remove=True)
    for word in ("first", "second"):
        started = time.monotonic()
        host.start(layout)
        print(f"practice host, {word} start: {time.monotonic() - started:.1f} s")
        host.stop(layout)
    host.start(layout)
    hosting = Hosting(layout)
    try:
        with tempfile.TemporaryDirectory() as folder:
            archive = build_archive(Path(folder))
            for key in ("choir",) if options.smallest else ("ferry", "choir", "seeds"):
                measure(hosting, key, archive, Path(folder) / key, runs)
    finally:
        host.stop(layout, remove=True)


def measure(hosting: Hosting, key: str, archive: Path, folder: Path, runs: int) -> None:
    folder.mkdir()
    service = Service(folder / "data")
    service.start()
    try:
        idle = peak_megabytes(service)
        service.client.account_add(hosting.new_account(key))
        service.client.release_check_in(archive)
        seen: dict[str, list[float]] = defaultdict(list)
        for _ in range(runs):
            hosting.reset()
            _, start = application_seconds(hosting, key, 0)
            job = service.install("tidebook", key)
            service.installed(job)
            for leg, seconds in spans(job).items():
                seen[leg].append(seconds)
            assert job.finished_at is not None
            seen["whole job"].append((job.finished_at - job.created_at).total_seconds())
            seen["answering, by Apache's log"].append(application_seconds(hosting, key, start)[0])
        way = service.client.plan_show(job.plan).way.name
        print(f"{key} ({hosting.customer(key)['transfer'].split(':')[0]}, {way}), median of {runs}:")
        for name in (*LEGS, "whole job", "answering, by Apache's log"):
            print(f"  {name:<28}{median(seen[name]):7.2f} s")
        print(f"  peak memory of the service  {peak_megabytes(service):7.0f} MB (after its start {idle:.0f} MB)")
    finally:
        service.stop()


if __name__ == "__main__":
    main()
