"""Looking again at many installations at once: seconds, requests and bytes a site, the service's own load; and that nothing is looked at twice
when the service is killed in the middle.

    .venv/bin/python bench/recheck.py [--sites 200]

Run as root: it starts a practice host of its own (and removes it) and one service process. Prints lines for people, and JSON as the last one.
"""

from __future__ import annotations

import argparse
import json
import os
import re
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path
from statistics import median

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.support import Hosting, Service, until

from highshelf.client.calls import Part
from highshelf.practice import host
from highshelf.practice.layout import Layout
from highshelf.practice.tidebook.build import build_archive

CUSTOMERS = ("ferry", "choir")
# Of a line in the web server's log: what was asked for, and the answer's bytes (%B) before its microseconds (%D).
ASKED = re.compile(r'"\w+ (\S+) [^"]*" \d+ (\d+) \d+$')
LONGEST_SECONDS = 7200.0


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--sites", type=int, default=200)
    parser.add_argument("--smallest", action="store_true", help="the smallest size, to see that this works")
    options = parser.parse_args()
    sites = 2 if options.smallest else options.sites
    layout = Layout(Path("/var/lib/highshelf-bench"), 28400)
    host.stop(layout, remove=True)
    host.start(layout)
    try:
        with tempfile.TemporaryDirectory() as folder:
            measure(Hosting(layout), Path(folder), sites)
    finally:
        host.stop(layout, remove=True)


def measure(hosting: Hosting, folder: Path, sites: int) -> None:
    service = Service(folder / "data")
    service.start()
    try:
        numbers = installed(hosting, service, build_archive(folder), sites)
        before = {key: size_of(hosting, key) for key in CUSTOMERS}
        began, busy = time.monotonic(), processor_seconds(service)
        jobs = [service.client.installation_recheck(number).id for number in numbers]
        half = max(1, len(jobs) // 2)
        until(lambda: ended(service) >= half, "they never came to their middle", LONGEST_SECONDS, longest_seconds=2.0)
        busy = processor_seconds(service) - busy
        service.kill()
        service.start()
        until(lambda: ended(service) == len(jobs), "they never ended", LONGEST_SECONDS, longest_seconds=2.0)
        seconds = time.monotonic() - began
        told(hosting, service, numbers, before, seconds, busy + processor_seconds(service))
    finally:
        service.stop()


def installed(hosting: Hosting, service: Service, archive: Path, sites: int) -> list[str]:
    """Install it so often; half of them at each customer."""
    client = service.client
    for key in CUSTOMERS:
        client.account_add(hosting.new_account(key))
    client.release_check_in(archive)
    began = time.monotonic()
    jobs = [service.install("tidebook", CUSTOMERS[n % 2], f"/site-{n:03}") for n in range(sites)]
    done = [service.wait(job.id, seconds=LONGEST_SECONDS) for job in jobs]
    bad = [job.error for job in done if job.state != "done"]
    assert not bad, bad[:3]
    print(f"{sites} installed in {time.monotonic() - began:.0f} s")
    return [job.installation for job in done]


def ended(service: Service) -> int:
    """Looks that are over."""
    return service.client.job_list(state=("done", "failed"), part=Part(limit=1)).total - installs(service)


def installs(service: Service) -> int:
    return service.client.installation_list(part=Part(limit=1)).total


def told(
    hosting: Hosting, service: Service, numbers: list[str], before: dict[str, int], seconds: float, busy: float
) -> None:
    looks = [
        job
        for job in service.client.job_list(state=("done", "failed"), part=Part(limit=500)).items
        if job.kind == "recheck"
    ]
    each = Counter(job.installation for job in looks)
    spans = [(j.finished_at - j.created_at).total_seconds() for j in looks if j.finished_at is not None]
    seen = [service.client.installation_show(number).rechecked for number in numbers]
    wrong = sum(one.wrong for one in seen if one is not None)
    asked, sent = 0, 0
    for key, start in before.items():
        with (hosting.layout.logs / f"access-{key}.log").open() as log:
            log.seek(start)
            lines = [found for line in log if (found := ASKED.search(line.rstrip()))]
        asked += len(lines)
        sent += sum(int(found[2]) for found in lines)
    figures = {
        "sites": len(numbers),
        "seconds": round(seconds, 1),
        "seconds_a_site": round(seconds / len(numbers), 2),
        "requests_a_site": round(asked / len(numbers), 1),
        "bytes_a_site": round(sent / len(numbers)),
        "service_processor_seconds_a_site": round(busy / len(numbers), 2),
        "load": round(os.getloadavg()[0], 1),
        "failed": sum(job.state != "done" for job in looks),
        "looked_at_twice": sum(count > 1 for count in each.values()),
        "not_looked_at": len(set(numbers) - set(each)),
        "false_alarms": wrong,
    }
    print(f"median from order to end {median(spans):.1f} s; the service was killed in the middle and started anew")
    print(json.dumps(figures))


def size_of(hosting: Hosting, key: str) -> int:
    log = hosting.layout.logs / f"access-{key}.log"
    return log.stat().st_size if log.exists() else 0


def processor_seconds(service: Service) -> float:
    assert service.process is not None
    parts = Path(f"/proc/{service.process.pid}/stat").read_text().rpartition(")")[2].split()
    # utime and stime, 14th and 15th of the line (proc(5)), in ticks.
    return (int(parts[11]) + int(parts[12])) / os.sysconf("SC_CLK_TCK")


if __name__ == "__main__":
    main()
