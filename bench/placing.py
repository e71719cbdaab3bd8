"""Seconds of placing by each way, over a line of a given delay and rate, beside what the line itself could do.

    .venv/bin/python bench/placing.py [--rtt 40 --rate 20] [--runs 5] [--only stream,helper,...] [--big] [--table FILE]

Run as root. The practice host and the service stand in two network namespaces with bench/link.py between them. The clock runs from the job's
start until the files are verified and swapped in; `place` is the leg alone. The corpus is bench/corpus.py's; `--big` takes the one of 30,000 files
and 1 GB, for memory. Memory is what the service and its workers hold at the most over what they held before. The limit is the release's own
zip, sent as bare bytes over the same line in the same run. `bench/placing_plot.py` draws the figures of --table.
"""

from __future__ import annotations

import argparse
import json
import os
import socket
import statistics
import subprocess
import sys
import tempfile
import time
import zipfile
from contextlib import ExitStack
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench.check_in import Watch, status_bytes
from bench.corpus import PACKAGES, big, corpus
from bench.link import FAR, NEAR, link
from tests.releases.third_party import archive
from tests.support import Hosting, Service, until

from highshelf.drivers.archive.repack import FORMS
from highshelf.practice import host
from highshelf.practice.layout import Layout
from highshelf.practice.tidebook.build import build_archive
from highshelf.schemas.models import PlanNew

FOLDER, PORT, BARE_PORT = Path("/var/lib/highshelf-bench"), 28400, 28399
# Name -> customer, way, account options, forms of the packed release that are hidden so that the host seems to have less.
CASES: dict[str, tuple[str, str, dict[str, Any], tuple[str, ...]]] = {
    "shell stream, xz": ("ferry", "shell-stream", {}, ()),
    "shell stream, gzip only": ("ferry", "shell-stream", {}, ("tar.xz", "tar.zst")),
    "shell, archive and unzip": ("ferry", "shell-unzip", {}, ()),
    "FTPS and helper": ("choir", "helper-tar", {}, ()),
    "SFTP and helper": ("seeds", "helper-tar", {}, ()),
    "FTPS and helper, ZipArchive": ("choir", "helper", {}, ()),
    "SFTP, single files": ("seeds", "files", {"helper": False}, ()),
    "FTPS, single files": ("choir", "files", {"helper": False}, ()),
}


def bare_seconds(path: Path, address: str) -> float:
    """The zip's bytes over one connection, as fast as the line takes them."""
    began = time.monotonic()
    with socket.create_connection((address, BARE_PORT)) as line, path.open("rb") as source:
        line.sendfile(source)
        line.shutdown(socket.SHUT_WR)
        assert line.recv(1) == b"."
    return time.monotonic() - began


def sink(address: str) -> None:
    """Takes bytes and says a dot at their end, for ever."""
    with socket.create_server((address, BARE_PORT)) as server:
        while True:
            line, _ = server.accept()
            with line:
                while line.recv(1 << 16):
                    pass
                line.sendall(b".")


def processor_seconds(pid: int) -> float:
    """What a process has used of the processors so far, all of its threads (proc(5), stat: utime and stime)."""
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def one_run(service: Service, hosting: Hosting, case: str, turn: int) -> dict[str, Any]:
    _, way, _, _ = CASES[case]
    assert service.process is not None
    with service.client as client:
        plan = client.plan_make(PlanNew(account=_name(case), release="tidebook", at=f"/run{turn}", way=way))  # type: ignore[arg-type]
        idle, watch = status_bytes(service.process.pid, "VmRSS"), Watch(service.process.pid)
        worked = processor_seconds(service.process.pid)
        job = client.job_start(plan.id)

        def swapped() -> bool:
            state = client.job_show(job.id)
            acts = {a.name: a.state for a in state.acts if a.leg == "place"}
            assert state.error is None, (case, state.error)
            return acts.get("swap") == "done"

        until(swapped, f"{case} never ended", 1200, 0.25)
        watch.stop()
        worked = processor_seconds(service.process.pid) - worked
        shown = client.job_show(job.id)
        acts = {a.name: a for a in shown.acts if a.leg == "place"}
        assert acts["swap"].finished_at and acts["identity"].finished_at and acts["carry"].finished_at
        begun = shown.created_at
        client.job_cancel(job.id)
        service.wait(job.id, ("cancelled", "failed", "done"), 1200)
        return {
            "job": (acts["swap"].finished_at - begun).total_seconds(),
            "place": (acts["swap"].finished_at - acts["hold"].started_at).total_seconds(),
            "verify": (acts["identity"].finished_at - acts["identity"].started_at).total_seconds(),
            "memory_bytes": watch.sum - idle,
            "processor_seconds": worked,
            "acts": {
                f"{a.leg} {a.name}": [(t - begun).total_seconds() for t in (a.started_at, a.finished_at) if t]
                for a in shown.acts
                if a.leg in ("survey", "place")
            },
        }


def _name(case: str) -> str:
    return "bench-" + "".join(c if c.isalnum() else "-" for c in case.lower())


def timed(
    folder: Path, layout: Layout, runs: int, only: list[str], *, large: bool = False, small: bool = False
) -> dict[str, Any]:
    service, hosting = Service(folder / "data", options=("--pack-all",)), Hosting(layout)
    service.inside = layout.host
    service.start()
    found: dict[str, Any] = {}
    try:
        path = big(folder) if large else build_archive(folder) if small else corpus(folder)
        # What is larger than this is not packed as tar.xz (drivers/archive/repack.py).
        forms_wanted = len(FORMS) - large
        with zipfile.ZipFile(path) as packed:
            files = [m for m in packed.infolist() if not m.is_dir()]
        with service.client as client:
            assert service.process is not None
            idle, watch = status_bytes(service.process.pid, "VmRSS"), Watch(service.process.pid)
            began = time.monotonic()
            release = client.release_check_in(path)
            checked_in = time.monotonic() - began
            # Asked seldom: on two cores whoever asks takes from what is measured.
            until(
                lambda: len(client.release_show(release.sha256).forms) == forms_wanted, "it was never packed", 1200, 1.0
            )
            packing = time.monotonic() - began - checked_in
            watch.stop()
            packing_bytes = watch.sum - idle
            forms = client.release_show(release.sha256).forms
            limit = statistics.median(bare_seconds(path, layout.host) for _ in range(3))
            found["corpus"] = {
                "files": len(files), "bytes": sum(f.file_size for f in files), "zip": path.stat().st_size,
                "forms": forms, "limit_seconds": limit, "check_in_seconds": checked_in, "packing_seconds": packing,
                "packing_memory_bytes": packing_bytes,
            }  # fmt: skip
            shelf = service.data / "shelf" / release.sha256
            for case, (key, _, options, hidden) in CASES.items():
                if only and case not in only:
                    continue
                client.account_add(hosting.new_account(key, name=_name(case), **options))
                client.account_check(_name(case))
                there = [form for form in hidden if form in forms]
                for form in there:
                    (shelf / f"payload.{form}").rename(shelf / f"hidden.{form}")
                try:
                    found[case] = []
                    for turn in range(runs):
                        # The machine is shared: the line's own limit is taken beside every run, anew where something else slowed it.
                        alone = bare_seconds(path, layout.host)
                        if alone > 1.1 * limit:
                            alone = min(alone, bare_seconds(path, layout.host))
                        found[case].append(one_run(service, hosting, case, turn) | {"limit": alone})
                finally:
                    for form in there:
                        (shelf / f"hidden.{form}").rename(shelf / f"payload.{form}")
                print(json.dumps({case: found[case]}), file=sys.stderr, flush=True)
    finally:
        service.stop()
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=5)
    parser.add_argument("--rtt", type=float, default=40, help="round trip, milliseconds; 0 is loopback")
    parser.add_argument("--rate", type=float, default=20, help="megabits a second")
    parser.add_argument("--only", default="", help="cases, separated by semicolons; all when left out")
    parser.add_argument(
        "--smallest", action="store_true", help="Tidebook by one way on loopback, to see that this works"
    )
    parser.add_argument("--big", action="store_true", help="30,000 files, 1 GB")
    parser.add_argument("--table", type=Path, help="write the figures there as JSON too")
    parser.add_argument("--step", default="", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.smallest:
        options.rtt, options.runs, options.only = 0, 1, "FTPS and helper"
    layout = Layout(FOLDER, PORT, host=FAR[1]) if options.rtt else Layout(FOLDER, PORT)
    if options.step == "host":
        host.start(layout)
    elif options.step == "sink":
        sink(layout.host)
    elif options.step == "time":
        only = [c for c in options.only.split(";") if c]
        with tempfile.TemporaryDirectory() as folder:
            print(
                json.dumps(timed(Path(folder), layout, options.runs, only, large=options.big, small=options.smallest))
            )
    else:
        found = _measured(layout, options)
        found["corpus"] |= {"rtt": options.rtt, "rate": options.rate}
        if options.table:
            options.table.write_text(json.dumps(found, indent=1))
        _show(found, options)


def _measured(layout: Layout, options: argparse.Namespace) -> dict[str, Any]:
    own = [sys.executable, __file__, "--rtt", str(options.rtt), "--runs", str(options.runs), "--only", options.only]
    own += [*(["--big"] if options.big else []), *(["--smallest"] if options.smallest else [])]
    # Fetched outside the namespaces, where there is no way to the package mirrors.
    for package in () if options.smallest else PACKAGES:
        archive(package)
    near, far = ([], []) if not options.rtt else (["ip", "netns", "exec", n[0]] for n in (NEAR, FAR))
    host.stop(layout, remove=True)
    with ExitStack() as stack:
        if options.rtt:
            stack.enter_context(link(options.rtt, options.rate))
        stack.callback(host.stop, layout, remove=True)
        subprocess.run([*far, *own, "--step", "host"], check=True)
        taker = subprocess.Popen([*far, *own, "--step", "sink"])
        stack.callback(taker.wait)
        stack.callback(taker.terminate)
        done = subprocess.run([*near, *own, "--step", "time"], check=True, stdout=subprocess.PIPE, text=True)
        found: dict[str, Any] = json.loads(done.stdout.splitlines()[-1])
        return found


def _show(found: dict[str, Any], options: argparse.Namespace) -> None:
    corpus_facts = found.pop("corpus")
    limit = corpus_facts["limit_seconds"]
    line = f"{options.rtt:.0f} ms, {options.rate:.0f} Mbit/s" if options.rtt else "loopback"
    forms = ", ".join(f"{f} {n / 1e6:.1f} MB" for f, n in corpus_facts["forms"].items())
    print(
        f"{corpus_facts['files']} files, {corpus_facts['bytes'] / 1e6:.1f} MB, zip {corpus_facts['zip'] / 1e6:.1f} MB, {forms}"
    )
    print(
        f"checked in {corpus_facts['check_in_seconds']:.1f} s, packed for hosts in {corpus_facts['packing_seconds']:.1f} s more, "
        f"with {corpus_facts['packing_memory_bytes'] / 1e6:.0f} MB over idle"
    )
    print(f"{line}; the zip's own bytes take {limit:.2f} s")
    print(f"{'way':<26}{'job s':>8}{'ratio':>7}{'place s':>9}{'ratio':>7}{'verify':>8}{'+MB':>7}{'cpu s/MB':>10}")
    for case, runs in found.items():
        job, place, verify = (statistics.median(r[n] for r in runs) for n in ("job", "place", "verify"))
        to_limit = statistics.median(r["job"] / r["limit"] for r in runs)
        place_to_limit = statistics.median(r["place"] / r["limit"] for r in runs)
        worked = statistics.median(r["processor_seconds"] for r in runs) / corpus_facts["bytes"] * 1e6
        memory = max(r["memory_bytes"] for r in runs) / 1e6
        print(
            f"{case:<26}{job:>8.2f}{to_limit:>7.2f}{place:>9.2f}{place_to_limit:>7.2f}{verify / place:>8.0%}{memory:>7.1f}{worked:>10.3f}"
        )


if __name__ == "__main__":
    main()
