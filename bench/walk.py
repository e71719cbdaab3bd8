"""What the walk adds to the application's own time, page by page: Tidebook over loopback, with a shell and without.

    .venv/bin/python bench/walk.py [--runs 3] [--smallest]

Of each page: from its arrival to the arrival of the next, without what the host took to answer. Where a form gave values the host is
looked at before the next page is read (witnesses); elsewhere it is not. Run as root: it starts a practice host of its own and removes it.
The last line is JSON.
"""

from __future__ import annotations

import argparse
import json
import sys
import tempfile
from itertools import pairwise
from pathlib import Path
from statistics import median

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.support import Hosting, Service

from highshelf.practice import host
from highshelf.practice.layout import Layout
from highshelf.practice.tidebook.build import build_archive
from highshelf.schemas.seen import PageSeen

AIMS_MS = {"without": 100, "with": 250}


def added(pages: list[PageSeen]) -> dict[str, list[float]]:
    """Seconds by whether the host was looked at: between two pages, without the answer's own."""
    found: dict[str, list[float]] = {"without": [], "with": []}
    for page, after in pairwise(pages):
        if page.arrived_at is not None and after.arrived_at is not None:
            spent = (after.arrived_at - page.arrived_at).total_seconds() - after.answered_seconds
            found["with" if page.filled else "without"].append(spent)
    return found


def measure(hosting: Hosting, key: str, archive: Path, folder: Path, runs: int) -> dict[str, list[float]]:
    """All pages of some installs on one customer."""
    found: dict[str, list[float]] = {"without": [], "with": []}
    for run in range(runs):
        (folder / f"{key}{run}").mkdir()
        service = Service(folder / f"{key}{run}" / "data")
        service.start()
        try:
            with service.client as client:
                client.account_add(hosting.new_account(key))
                client.release_check_in(archive)
                job = service.install("tidebook", key, "/diary")
                assert job.state == "done", job.error
                for kind, seconds in added(client.job_pages(job.id).items).items():
                    found[kind] += seconds
        finally:
            service.stop()
            hosting.reset()
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--smallest", action="store_true", help="the smallest size, to see that this works")
    options = parser.parse_args()
    layout = Layout(Path("/var/lib/highshelf-bench"), 28400)
    host.stop(layout, remove=True)
    host.start(layout)
    told: dict[str, dict[str, float]] = {}
    try:
        with tempfile.TemporaryDirectory() as folder:
            archive = build_archive(Path(folder))
            for key in ("choir",) if options.smallest else ("ferry", "choir", "yard"):
                found = measure(Hosting(layout), key, archive, Path(folder), 1 if options.smallest else options.runs)
                told[key] = {f"{k}_ms": round(median(v) * 1000) for k, v in found.items() if v}
                told[key] |= {f"{k}_worst_ms": round(max(v) * 1000) for k, v in found.items() if v}
                told[key]["pages"] = sum(map(len, found.values()))
                print(key, "  ".join(f"{k} {v}" for k, v in told[key].items()))
    finally:
        host.stop(layout, remove=True)
    print("aims:", "  ".join(f"{k} witnesses {v} ms" for k, v in AIMS_MS.items()))
    print(json.dumps(told))


if __name__ == "__main__":
    main()
