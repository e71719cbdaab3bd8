"""Seconds of a survey of each practice customer, on loopback or over a line of a given round trip.

    .venv/bin/python bench/survey.py [--runs 3] [--rtt 40 --rate 20]

Run as root. With --rtt the practice host and the service stand in two network namespaces with bench/link.py between them.
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from contextlib import ExitStack
from pathlib import Path
from statistics import median
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench.link import FAR, NEAR, link
from tests.support import Hosting, Service

from highshelf.practice import host
from highshelf.practice.layout import CUSTOMERS, Layout

FOLDER, PORT = Path("/var/lib/highshelf-bench"), 28400


def timed(data: Path, layout: Layout, runs: int, keys: Sequence[str] = ()) -> dict[str, Any]:
    """Customer -> median seconds, with helper and without; of those `keys`, or of all."""
    service, hosting = Service(data), Hosting(layout)
    service.inside = layout.host
    service.start()
    found: dict[str, Any] = {}
    try:
        with service.client as client:
            for customer in [c for c in layout.customers if not keys or c.key in keys]:
                for helper in (True, False):
                    name = f"{customer.key}{'' if helper else '-bare'}"
                    client.account_add(hosting.new_account(customer.key, name=name, helper=helper))
                    seconds = []
                    for _ in range(runs):
                        started = time.monotonic()
                        done = client.account_check(name)
                        seconds.append(time.monotonic() - started)
                        assert done.state == "done", done.fault
                    found[name] = {"seconds": median(seconds), "lines": len(done.lines)}
    finally:
        service.stop()
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--smallest", action="store_true", help="the smallest size, to see that this works")
    parser.add_argument("--rtt", type=float, default=0, help="round trip, milliseconds; 0 is loopback")
    parser.add_argument("--rate", type=float, default=20, help="megabits a second")
    parser.add_argument("--step", default="", help=argparse.SUPPRESS)
    options = parser.parse_args()
    layout = Layout(FOLDER, PORT, host=FAR[1]) if options.rtt else Layout(FOLDER, PORT)
    if options.step == "host":
        host.start(layout)
    elif options.step == "time":
        with tempfile.TemporaryDirectory() as folder:
            print(json.dumps(timed(Path(folder) / "data", layout, options.runs)))
    else:
        _show(_loopback(layout, options) if not options.rtt else _far(layout, options), options.rtt)


def _loopback(layout: Layout, options: argparse.Namespace) -> dict[str, Any]:
    host.stop(layout, remove=True)
    host.start(layout)
    try:
        with tempfile.TemporaryDirectory() as folder:
            runs, keys = (1, ("choir",)) if options.smallest else (options.runs, ())
            return timed(Path(folder) / "data", layout, runs, keys)
    finally:
        host.stop(layout, remove=True)


def _far(layout: Layout, options: argparse.Namespace) -> dict[str, Any]:
    """The same with the line between: each side is this file again, inside its namespace."""
    own = [sys.executable, __file__, "--rtt", str(options.rtt), "--runs", str(options.runs)]
    host.stop(layout, remove=True)
    with ExitStack() as stack:
        stack.enter_context(link(options.rtt, options.rate))
        stack.callback(host.stop, layout, remove=True)
        subprocess.run(["ip", "netns", "exec", FAR[0], *own, "--step", "host"], check=True)
        done = subprocess.run(
            ["ip", "netns", "exec", NEAR[0], *own, "--step", "time"], check=True, capture_output=True, text=True
        )
        found: dict[str, Any] = json.loads(done.stdout.splitlines()[-1])
        return found


def _show(found: dict[str, Any], rtt: float) -> None:
    print(f"{'customer':<12}{'with helper':>14}{'without':>12}   seconds, {f'{rtt:.0f} ms' if rtt else 'loopback'}")
    for customer in [c for c in CUSTOMERS if c.key in found]:
        with_helper, bare = found[customer.key]["seconds"], found[f"{customer.key}-bare"]["seconds"]
        print(f"{customer.key:<12}{with_helper:>14.2f}{bare:>12.2f}")


if __name__ == "__main__":
    main()
